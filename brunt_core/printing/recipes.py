"""The fields of a recipe, their units, and plausible ranges by polymer family.

Ranges are wide and recalled from the trade, not from a source: they notice a mistake in typing, nothing more.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from brunt_core.errors import InputError
from brunt_core.quantities import in_unit, parse
from brunt_core.quantities.numbers import read_number
from brunt_core.quantities.rendering import number


@dataclass(frozen=True)
class RecipeField:
    """One setting: ``dimension`` of a quantity, ``"number"``, ``"share"`` (per cent) or ``"text"``."""

    key: str
    label: str
    group: str
    dimension: str = "text"
    unit: str = ""
    least: float | None = None
    most: float | None = None

    @property
    def of_material(self) -> bool:
        """Whether it belongs to the material, so that it may differ from one to another."""
        return self.key in _OF_MATERIAL

    @property
    def per_object(self) -> bool:
        """Whether preparation programs can set it for each object on one plate."""
        return self.key in _PER_OBJECT


# Each material is printed at its own heat, cooling, flow and exposure; geometry and fill belong to
# the comparison. Common practice, no source.
_OF_MATERIAL = frozenset(
    (
        *("nozzle_temperature", "bed_temperature", "chamber_temperature", "cooling", "enclosure"),
        *("flow", "pressure_advance", "bed_surface", "adhesive", "nozzle_material"),
        *(
            "exposure",
            "bottom_exposure",
            "lift_distance",
            "clearance",
            "rest_before_exposure",
            "lift_speed",
            "retract_speed",
        ),
        *("lift_stages", "resin_temperature"),
    )
)
_PER_OBJECT = frozenset(("walls", "top_layers", "bottom_layers", "infill", "infill_pattern"))


def _field(
    key: str,
    label: str,
    group: str,
    dimension: str = "text",
    unit: str = "",
    least: float | None = None,
    most: float | None = None,
) -> RecipeField:
    return RecipeField(key, label, group, dimension=dimension, unit=unit, least=least, most=most)


# fmt: off
_FILAMENT = (
    _field("nozzle_size", "Nozzle size", "Nozzle", dimension="length", unit="mm", least=0.1, most=2.0),
    _field("nozzle_material", "Nozzle material", "Nozzle"),
    _field("bed_surface", "Bed surface", "Bed adhesion"),
    _field("adhesive", "Adhesive", "Bed adhesion"),
    _field("bed_temperature", "Bed temperature", "Temperatures", dimension="temperature", unit="°C", least=0, most=160),
    _field("chamber_temperature", "Chamber temperature", "Temperatures", dimension="temperature", unit="°C", least=10, most=120),
    _field("enclosure", "Enclosure", "Temperatures"),
    _field("nozzle_temperature", "Nozzle temperature", "Temperatures", dimension="temperature", unit="°C", least=150, most=450),
    _field("first_layer_height", "First layer", "Layers", dimension="length", unit="mm", least=0.02, most=1.2),
    _field("layer_height", "Layer height", "Layers", dimension="length", unit="mm", least=0.02, most=1.2),
    _field("line_width", "Line width", "Layers", dimension="length", unit="mm", least=0.1, most=2.4),
    _field("walls", "Walls", "Layers", dimension="number", unit="", least=0, most=200),
    _field("bottom_layers", "Bottom layers", "Layers", dimension="number", unit="", least=0, most=200),
    _field("infill", "Infill", "Layers", dimension="share", unit="%", least=0, most=100),
    _field("infill_pattern", "Infill pattern", "Layers"),
    _field("top_layers", "Top layers", "Layers", dimension="number", unit="", least=0, most=200),
    _field("speed", "Print speed", "Flow", dimension="speed", unit="mm/s", least=2, most=1000),
    _field("flow", "Flow", "Flow", dimension="share", unit="%", least=50, most=150),
    _field("pressure_advance", "Pressure compensation", "Flow", dimension="number", unit="", least=0, most=2),
    _field("cooling", "Cooling fan", "Cooling", dimension="share", unit="%", least=0, most=100),
    _field("clearance", "Clearance that fits", "Fit", dimension="length", unit="mm", least=0.0, most=2.0),
)
_RESIN = (
    _field("resin_temperature", "Resin temperature", "Temperatures", dimension="temperature", unit="°C", least=5, most=80),
    _field("bottom_layers", "Bottom layers", "Bed adhesion", dimension="number", unit="", least=0, most=50),
    _field("bottom_exposure", "Bottom exposure", "Bed adhesion", dimension="time", unit="s", least=0.5, most=300),
    _field("layer_height", "Layer height", "Layer", dimension="length", unit="mm", least=0.005, most=0.3),
    _field("rest_before_exposure", "Rest before exposure", "Layer", dimension="time", unit="s", least=0, most=120),
    _field("exposure", "Exposure", "Layer", dimension="time", unit="s", least=0.1, most=120),
    _field("lift_speed", "Lift speed", "Layer", dimension="speed", unit="mm/min", least=1, most=1000),
    _field("lift_distance", "Lift", "Layer", dimension="length", unit="mm", least=0.5, most=60),
    _field("retract_speed", "Retract speed", "Layer", dimension="speed", unit="mm/min", least=1, most=1500),
    _field("lift_stages", "Lift stages", "Layer", dimension="number", unit="", least=1, most=2),
    _field("wash_time", "Wash time", "Wash and cure", dimension="time", unit="min", least=0.2, most=120),
    _field("cure_time", "Cure time a side", "Wash and cure", dimension="time", unit="min", least=0.1, most=240),
    _field("cure_temperature", "Cure temperature", "Wash and cure", dimension="temperature", unit="°C", least=10, most=120),
)
# fmt: on
FIELDS: dict[str, dict[str, RecipeField]] = {
    "filament": {f.key: f for f in _FILAMENT},
    "resin": {f.key: f for f in _RESIN},
}

# Nozzle and bed temperatures in °C by family.
_HEAT = {
    "pla": ((180, 240), (0, 75)),
    "petg": ((215, 270), (50, 95)),
    "abs": ((220, 280), (80, 120)),
    "asa": ((225, 285), (80, 120)),
    "hips": ((215, 260), (80, 120)),
    "pc": ((250, 330), (90, 150)),
    "pa6": ((240, 310), (30, 120)),
    "pa12": ((230, 300), (30, 120)),
    "pp": ((200, 260), (20, 110)),
    "tpu": ((200, 260), (0, 80)),
    "pvb": ((190, 240), (50, 85)),
    "pla-cf": ((190, 250), (0, 75)),
    "pa-cf": ((240, 320), (30, 130)),
    "petg-cf": ((225, 280), (50, 95)),
}


@dataclass(frozen=True)
class Setting:
    """A setting as typed and in SI (``None`` for words); ``shown`` in the field's unit."""

    key: str
    text: str
    value: float | None
    shown: str


def read_setting(kind: str, key: str, text: str) -> Setting:
    """Read one setting.

    Parameters: ``kind`` filament or resin; ``key`` of a field; ``text`` as typed.
    Raises :class:`InputError` naming the field for text that cannot be read or is impossible.

    >>> read_setting("filament", "nozzle_temperature", "235").shown
    '235 °C'
    >>> read_setting("filament", "layer_height", "20 mm")
    Traceback (most recent call last):
    brunt_core.errors.InputError: A layer height of 20 mm is outside 0.02 to 1.2 mm; is the unit right?
    """
    field = FIELDS[kind].get(key)
    if field is None:
        raise InputError(f"A {kind} recipe has no field “{key}”.", key)
    text = text.strip()
    try:
        value, amount = _value(field, text)
    except InputError as error:
        raise InputError(f"{field.label}: {error.sentence}", key) from None
    if amount is None:
        return Setting(key, text[:80], None, text[:80])
    digits = f"{amount:.4g}" if abs(amount) < 1e4 else f"{amount:.0f}"
    shown = f"{digits} {field.unit}".strip()
    if (
        field.least is not None
        and field.most is not None
        and not field.least <= amount <= field.most
    ):
        raise InputError(
            f"A {field.label.lower()} of {shown} is outside {number(field.least, 'g')} to "
            f"{number(field.most, 'g')} {field.unit}".strip()
            + "; is the unit right?",
            key,
        )
    return Setting(key, text[:80], value, shown)


def _value(field: RecipeField, text: str) -> tuple[float | None, float | None]:
    """The value in SI and in the field's unit."""
    if field.dimension == "text":
        return None, None
    if field.dimension == "number":
        amount = read_number(text)
        return amount, amount
    if field.dimension == "share":
        amount = read_number(text.rstrip("% "))
        return amount / 100, amount
    value = parse(text, field.dimension, field.unit).si
    return value, in_unit(value, field.dimension, field.unit)


def unlikely(kind: str, family: str, values: Mapping[str, float | None]) -> list[tuple[str, str]]:
    """Settings outside what the family is usually printed at: (field, sentence).

    >>> unlikely("filament", "pla", {"nozzle_temperature": 533.15})[0][1]
    'A nozzle at 260 °C is unusual for PLA (180 to 240 °C).'
    """
    if kind != "filament" or family not in _HEAT:
        return []
    found = []
    for key, word, (low, high) in zip(
        ("nozzle_temperature", "bed_temperature"), ("nozzle", "bed"), _HEAT[family], strict=True
    ):
        value = values.get(key)
        if value is not None and not low <= value - 273.15 <= high:
            found.append(
                (
                    key,
                    f"A {word} at {value - 273.15:.0f} °C is unusual for {family.upper()} ({low} to {high} °C).",
                )
            )
    return found


def usual(family: str, key: str) -> tuple[float, float] | None:
    """The range of nozzle or bed temperature that is usual for a family, in °C; ``None`` without one.

    >>> usual("petg", "nozzle_temperature")
    (215, 270)
    """
    pair = _HEAT.get(family)
    at = {"nozzle_temperature": 0, "bed_temperature": 1}.get(key)
    return pair[at] if pair and at is not None else None


def volumetric_flow(values: Mapping[str, float | None]) -> float | None:
    """Speed × line width × layer height in mm³/s, or ``None`` when one is not known.

    >>> volumetric_flow({"speed": 0.05, "line_width": 0.45e-3, "layer_height": 0.2e-3})
    4.5
    """
    parts = [values.get(k) for k in ("speed", "line_width", "layer_height")]
    if None in parts or not all(parts):
        return None
    speed, width, height = parts
    return round(speed * width * height * 1e9, 9)  # type: ignore[operator]


def compare_recipes(
    kind: str, first: Mapping[str, str], second: Mapping[str, str]
) -> list[tuple[str, str, str, str, bool]]:
    """All settings that either names: (group, label, first, second, differs), in field order.

    >>> compare_recipes("filament", {"walls": "4"}, {"walls": "2"})
    [('Layers', 'Walls', '4', '2', True)]
    """
    return [
        (
            f.group,
            f.label,
            first.get(k, ""),
            second.get(k, ""),
            first.get(k, "") != second.get(k, ""),
        )
        for k, f in FIELDS[kind].items()
        if k in first or k in second
    ]
