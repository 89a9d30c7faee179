"""Hook: a fixed shape pulled so that it bends and stretches at once."""

from brunt_core.methods._loads import carried
from brunt_core.methods.base import Place, modes

METHOD = carried(
    "hook",
    "Hook",
    "What does a printed hook carry?",
    (
        Place("eye", "eye", "E", 0.88),
        Place("shank", "shank", "K", 0.55),
        Place("bend", "inside of the bend", "I", 0.18),
    ),
    modes("layer line opened", "broke through", "straightened", "flaw"),
    "hook",
    example={
        "force": "210 N",
        "yield_force": "160 N",
        "mass": "12 g",
    },
)
