"""What is typed of a load case, read: the case, its surroundings, its limits; every fault beside its field."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from brunt_core.decisions.sizing import Case
from brunt_core.errors import InputError
from brunt_core.quantities import parse
from brunt_core.quantities.numbers import read_number

# field: (label, symbol, dimension, unit)
FIELDS: Mapping[str, tuple[str, str, str, str]] = {
    "load": ("Load", "F", "force", "N"),
    "span": ("Span", "L", "length", "mm"),
    "arm": ("Reach", "a", "length", "mm"),
    "width": ("Width", "b", "length", "mm"),
    "thickness": ("Thickness", "h", "length", "mm"),
    "deepest": ("Available depth", "", "length", "mm"),
    "sag": ("Max. deflection", "", "length", "mm"),
    "temperature": ("Service temperature", "", "temperature", "°C"),
    "held": ("Load duration", "", "time", "h"),
    "aged": ("Service life", "", "time", "d"),
    "mass": ("Max. mass", "", "mass", "g"),
}
LOADS = {"torsion": ("torque", "N·m"), "blow": ("energy", "J")}
NEEDS = {
    "bending": ("load", "span", "width", "thickness", "deepest", "sag"),
    "cantilever": ("load", "arm", "width", "thickness", "deepest", "sag"),
    "tension": ("load", "span", "width", "thickness", "deepest", "sag"),
    "torsion": ("load", "span", "width", "thickness", "deepest"),
    "shear": ("load", "thickness", "deepest"),
    "thread": ("load", "width", "thickness", "deepest"),
    "blow": ("load", "width", "thickness", "deepest"),
    "part": ("load",),
}
AROUND = ("temperature", "held", "aged", "mass")
WORDS = ("damp", "treated", "grade", "price", "factor", "because", "planes")
# How wet it gets: what is asked, by what is typed.
WETNESS = {"": 0, "damp": 1, "wet": 2}


@dataclass
class Wanted:
    """A load case as read, SI. ``problems`` are sentences by field; what is wrong is excluded."""

    mode: str
    direction: str
    values: dict[str, float] = field(default_factory=dict)
    load_dimension: str = "force"
    damp: int = 0
    treated: str = ""
    grade: float | None = None
    price: float | None = None
    factor: float | None = None
    because: str = ""
    planes: int = 2
    sure: Mapping[str, str] = field(default_factory=dict)
    problems: dict[str, str] = field(default_factory=dict)

    @property
    def case(self) -> Case | None:
        """The load case, where it is one that a section is worked for and all it needs is there."""
        if self.mode in ("blow", "part") or "load" not in self.values:
            return None
        lengths = {k: self.values[k] for k in ("span", "arm", "width") if k in self.values}
        needs = _LENGTHS.get(self.mode)
        if needs and needs not in lengths:
            return None
        return Case(self.mode, self.values["load"], planes=self.planes, **lengths)

    @property
    def lacking(self) -> list[str]:
        """What has to be typed before anything can be worked, in the fields' words."""
        found = [] if "load" in self.values else ["the load"]
        needs = _LENGTHS.get(self.mode)
        if needs and needs not in self.values:
            found.append(
                {"span": "the span", "arm": "the reach"}.get(needs, "the diameter of the screw")
            )
        if self.mode == "blow" and not {"width", "thickness"} <= set(self.values):
            found.append("width and thickness of the section that is struck")
        return found


_LENGTHS = {"bending": "span", "cantilever": "arm", "thread": "width"}


def wanted_of(
    mode: str, direction: str, typed: Mapping[str, str], sure: Mapping[str, str]
) -> Wanted:
    """Read a load case; never raises."""
    found = Wanted(mode, direction, sure=sure)
    dimension, unit = LOADS.get(mode, ("force", "N"))
    found.load_dimension = dimension
    for key in (*NEEDS[mode], *AROUND):
        text = (typed.get(key) or "").strip()
        if not text:
            continue
        asked = (dimension, unit) if key == "load" else FIELDS[key][2:]
        try:
            value, asked_as = _read(text, *asked, either=key == "load" and mode == "part")
        except InputError as error:
            found.problems[key] = error.sentence
            continue
        if key != "temperature" and value <= 0:
            found.problems[key] = f"{FIELDS[key][0]} must be above zero."
            continue
        found.values[key] = value
        if key == "load":
            found.load_dimension = asked_as
    found.damp = WETNESS.get(typed.get("damp") or "", 0)
    found.treated = " ".join((typed.get("treated") or "").split())
    found.grade = _number(found, "grade", typed, least=0.0)
    found.because = (typed.get("because") or "").strip()
    found.planes = 1 if typed.get("planes") == "1" else 2
    found.price = _number(found, "price", typed, least=0.0)
    found.factor = _number(found, "factor", typed, least=1.0)
    return found


def _read(text: str, dimension: str, unit: str, either: bool) -> tuple[float, str]:
    if not either:
        return parse(text, dimension, unit).si, dimension
    try:
        return parse(text, "force", "N").si, "force"
    except InputError:
        return parse(text, "torque", "N·m").si, "torque"


def _number(found: Wanted, key: str, typed: Mapping[str, str], least: float) -> float | None:
    text = (typed.get(key) or "").strip(" ×€$£")
    if not text:
        return None
    try:
        number = read_number(text)
    except InputError as error:
        found.problems[key] = error.sentence
        return None
    if number < least or number > 1e9:
        found.problems[key] = (
            "A safety factor is 1 or more." if key == "factor" else f"A {key} is not below zero."
        )
        return None
    return number
