"""The shapes a question takes: what each proposes, and why. Common practice, no source."""

from dataclasses import dataclass

from brunt_core.methods.registry import methods

HELD = (
    "walls",
    "top and bottom layers",
    "infill and pattern",
    "layer height",
    "line width",
    "printer",
    "nozzle",
    "specimen geometry",
    "rig and speed",
    "conditioning",
    "colour",
)


@dataclass(frozen=True)
class ProposedFactor:
    """A factor with example levels, as text in the factor's unit."""

    kind: str
    name: str
    levels: tuple[str, ...] = ()
    setting: str = ""


@dataclass(frozen=True)
class Shape:
    """A kind of question: its factors, orientations, replicates, what must be the same, and the reason."""

    key: str
    question: str
    example: str
    factors: tuple[ProposedFactor, ...]
    orientations: tuple[str, ...]
    replicates: int
    reason: str
    varied: tuple[str, ...] = ()
    wants: tuple[str, ...] = ("tension", "layer-adhesion")

    @property
    def held(self) -> tuple[str, ...]:
        """What must be the same in all conditions."""
        return tuple(h for h in HELD if h not in self.varied)

    @property
    def missing_methods(self) -> tuple[str, ...]:
        """Methods the question would like that this version does not have."""
        return tuple(w for w in self.wants if w not in methods())


_MATERIAL = ProposedFactor("material", "Material")

SHAPES: dict[str, Shape] = {
    s.key: s
    for s in (
        Shape(
            "rank",
            "Which of several materials is strongest?",
            "Which filament for the vent-crank arm?",
            factors=(_MATERIAL,),
            orientations=("flat", "upright"),
            replicates=5,
            reason="Five of each is what standards ask; both orientations, since layers decide many parts.",
            varied=("colour",),
        ),
        Shape(
            "one_factor",
            "Which value of a setting is best?",
            "How hot should the PETG be printed?",
            factors=(
                ProposedFactor(
                    "setting",
                    "Nozzle temperature",
                    ("220 °C", "230 °C", "240 °C", "250 °C"),
                    "nozzle_temperature",
                ),
            ),
            orientations=("upright",),
            replicates=8,
            reason="Layer adhesion varies; eight a level tell a trend from a dip.",
            varied=("nozzle temperature",),
        ),
        Shape(
            "grid",
            "What do two settings do, separately and together?",
            "Walls or infill for the pawl?",
            factors=(
                ProposedFactor("setting", "Walls", ("2", "4"), "walls"),
                ProposedFactor("setting", "Infill", ("20 %", "60 %"), "infill"),
            ),
            orientations=("flat",),
            replicates=4,
            reason="Four in each cell give sixteen in all, so each effect is seen by eight against eight.",
            varied=("walls", "infill and pattern"),
        ),
        Shape(
            "treated",
            "Does a treatment help?",
            "Is annealing worth the oven?",
            factors=(
                _MATERIAL,
                ProposedFactor("treatment", "Treatment", ("as printed", "annealed 95 °C, 2 h")),
            ),
            orientations=("flat", "upright"),
            replicates=5,
            reason="An as-printed control from the same print run; treat only its siblings.",
            varied=("conditioning",),
        ),
        Shape(
            "orientation",
            "How much weaker are the layers?",
            "Can the cable guide stand up to be printed?",
            factors=(_MATERIAL,),
            orientations=("flat", "upright"),
            replicates=6,
            reason="Six of each keep the interval of the ratio short.",
            varied=("colour",),
        ),
        Shape(
            "rate",
            "Does a fast pull read differently?",
            "Slow crank or sudden slam?",
            factors=(_MATERIAL, ProposedFactor("rate", "Speed", ("5 mm/min", "500 mm/min"))),
            orientations=("flat",),
            replicates=5,
            reason="Slow set before fast set, same bars; a fast pull can read about a quarter more.",
            varied=("rig and speed",),
        ),
        Shape(
            "ageing",
            "What does ageing indoors or outdoors do?",
            "Will the louvre pawl last the winter?",
            factors=(
                _MATERIAL,
                ProposedFactor("age", "Age", ("fresh", "8 weeks under load", "8 weeks outdoors")),
            ),
            orientations=("flat", "upright"),
            replicates=6,
            reason="Print everything at once; one spare of each exposed set, since some are lost to weather.",
            varied=("conditioning",),
        ),
        Shape(
            "state",
            "Frozen, hot, wet, dried: does the state at test matter?",
            "Is the crank safe in frost?",
            factors=(
                _MATERIAL,
                ProposedFactor(
                    "condition", "State at test", ("room, 23 °C", "−18 °C", "soaked 7 d")
                ),
            ),
            orientations=("flat",),
            replicates=5,
            reason="The state belongs to the condition's identity; never rank unlike states unless that is the question.",
            varied=("conditioning",),
        ),
        Shape(
            "part",
            "Which material or design for this real part?",
            "Which arm holds the vent?",
            factors=(_MATERIAL, ProposedFactor("other", "Design", ("as drawn", "thicker web"))),
            orientations=("flat",),
            replicates=4,
            reason="A part answers in newtons, not in stress; wood or metal can be used as a reference piece.",
            varied=("specimen geometry", "colour"),
            wants=("part-break",),
        ),
        Shape(
            "feedstock",
            "Is this unknown feedstock any good?",
            "Can the reground PETG be used again?",
            factors=(ProposedFactor("lot", "Lot"),),
            orientations=("flat", "upright"),
            replicates=5,
            reason="Five against a known lot of the same family, printed with the same recipe.",
            varied=("colour",),
        ),
        Shape(
            "long",
            "What happens over hours and months?",
            "Does the bolted bracket lose its clamp?",
            factors=(_MATERIAL, ProposedFactor("age", "Time", ("at once", "1 d", "7 d", "30 d"))),
            orientations=("flat",),
            replicates=3,
            reason="Three of each under the same load, read at equal times.",
            varied=("conditioning",),
            wants=("creep", "clamp-retention"),
        ),
        Shape(
            "resin",
            "Which resin, exposed and cured how?",
            "Which tough resin for the pawl?",
            factors=(
                _MATERIAL,
                ProposedFactor("setting", "Exposure", ("2.0 s", "2.5 s"), "exposure"),
            ),
            orientations=("flat", "upright"),
            replicates=5,
            reason="Wash and cure both sides alike; resins are tested in several modes and speeds.",
            varied=("colour",),
        ),
        Shape(
            "all_campaigns",
            "How do all tested materials compare?",
            "The workshop's overall ranking",
            factors=(_MATERIAL,),
            orientations=("flat",),
            replicates=5,
            reason="Only results whose procedures agree may stand in one table.",
            varied=("colour",),
        ),
    )
}
