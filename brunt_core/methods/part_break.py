"""Part break: a real part loaded to break, or stepwise by weights."""

from brunt_core.methods._loads import carried
from brunt_core.methods.base import Place, modes

METHOD = carried(
    "part-break",
    "Part break",
    "What does the real part carry?",
    (
        Place("hinge", "hinge", "G", 0.90),
        Place("body", "body", "O", 0.5),
        Place("screw_hole", "screw hole", "E", 0.15),
    ),
    modes("layers split", "broke through", "bent for good", "screw pulled out", "joint opened"),
    "part",
    example={
        "force": "6 .. 8 kgf",
        "mass": "22 g",
    },
)
