"""The invented workshop: what it has, what it asked, and how its materials behave.

Every figure here is made up for the scenario and taken from nobody.
"""

from dataclasses import dataclass, field
from decimal import Decimal

WORKSHOP = "The Weirside Glasshouse Trust"


@dataclass(frozen=True)
class Behaviour:
    """An invented material: mean strength in MPa and relative variation, flat and upright."""

    name: str
    family: str
    density: float
    price: Decimal
    flat: tuple[float, float]
    upright: tuple[float, float]


MATERIALS = (
    Behaviour("Fernhall PLA", "pla", 1240.0, Decimal("19.80"), (55.4, 0.026), (29.2, 0.07)),
    Behaviour("Fernhall PETG", "petg", 1270.0, Decimal("21.50"), (46.6, 0.024), (33.4, 0.05)),
    Behaviour("Tarn ASA", "asa", 1070.0, Decimal("26.00"), (42.4, 0.030), (20.6, 0.08)),
    Behaviour("Tarn PA12", "pa12", 1010.0, Decimal("58.00"), (45.1, 0.035), (37.6, 0.04)),
    Behaviour("Weir PLA, silk", "pla", 1240.0, Decimal("27.40"), (53.9, 0.045), (22.5, 0.10)),
)


@dataclass(frozen=True)
class Incident:
    """Something that happened at the bench: to which replicate of which material and orientation."""

    material: str
    orientation: str
    replicate: int
    outcome: str = "broke"
    factor: float = 1.0
    place: str = ""
    reason: str = ""
    note: str = ""
    excluded: str = ""
    another: bool = False


@dataclass(frozen=True)
class DemoQuestion:
    """A campaign of the demo: ``untested`` is how many at the end of the upright queue still wait."""

    text: str
    materials: tuple[str, ...]
    replicates: int
    untested: int
    seed: int
    days_ago: int
    incidents: tuple[Incident, ...] = field(default=())


QUESTIONS = (
    DemoQuestion(
        "Is the silk PLA good enough for the label holders?",
        ("Fernhall PLA", "Weir PLA, silk"),
        3,
        0,
        11,
        30,
    ),
    DemoQuestion(
        "Which plain filament for the vent-crank arm?",
        ("Fernhall PLA", "Fernhall PETG", "Tarn ASA", "Tarn PA12"),
        5,
        untested=7,
        seed=4,
        days_ago=2,
        incidents=(
            Incident(
                "Tarn PA12",
                "flat",
                2,
                "held",
                note="stretched to the end of the frame's travel, whole",
            ),
            Incident("Tarn PA12", "flat", 4, "held", note="whole at the end of the travel"),
            Incident(
                "Fernhall PETG",
                "flat",
                3,
                "void",
                reason="slipped in the upper grip, jaw not tight",
            ),
            Incident(
                "Tarn ASA",
                "flat",
                2,
                factor=1.72,
                note="measured twice, the section is right",
                another=True,
            ),
            Incident(
                "Fernhall PLA",
                "flat",
                4,
                factor=0.71,
                place="lower_fillet",
                note="void in the break face",
                excluded="a void of 1 mm in the break face, seen under the glass: a print flaw",
            ),
            Incident(
                "Fernhall PETG", "upright", 1, note="first typed as N; the scale was showing kgf"
            ),
        ),
    ),
)


RECIPE = {
    "nozzle_size": "0.4 mm",
    "nozzle_material": "hardened steel",
    "nozzle_temperature": "235 °C",
    "bed_temperature": "70 °C",
    "cooling": "40 %",
    "speed": "60 mm/s",
    "layer_height": "0.2 mm",
    "line_width": "0.45 mm",
    "walls": "4",
    "top_layers": "5",
    "bottom_layers": "5",
    "infill": "100 %",
    "infill_pattern": "lines at ±45°",
    "flow": "98 %",
    "bed_surface": "textured steel",
}
THIN = {"walls": "2", "infill": "40 %", "infill_pattern": "gyroid"}
RESIN_RECIPE = {
    "layer_height": "0.05 mm",
    "exposure": "2.4 s",
    "bottom_exposure": "28 s",
    "bottom_layers": "5",
    "rest_before_exposure": "1 s",
    "lift_speed": "55 mm/min",
    "retract_speed": "120 mm/min",
    "wash_time": "4 min",
    "cure_time": "6 min",
    "cure_temperature": "60 °C",
}


@dataclass(frozen=True)
class Spool:
    """An invented lot."""

    material: str
    name: str
    colour: str
    left: float
    price: Decimal
    dried_hours_ago: float | None = None


SPOOLS = (
    Spool("Fernhall PLA", "spool 14", "slate", 0.82, Decimal("19.80")),
    Spool("Fernhall PETG", "spool 31", "slate", 0.64, Decimal("21.50"), 20),
    Spool("Tarn ASA", "spool 8", "slate", 0.71, Decimal("26.00"), 30),
    Spool("Tarn PA12", "spool 3", "natural", 0.38, Decimal("58.00"), 96),
)
ONE_FACTOR = "How hot should the PETG be printed?"
ONE_FACTOR_LEVELS = ("225 °C", "235 °C", "245 °C", "255 °C")
