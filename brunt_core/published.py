"""What published standards set for a method, beside what a procedure does.

Every value is recalled from the named standard and not confirmed against its current edition: check
it with your copy before you quote it.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import isclose

Facts = Mapping[str, float]


@dataclass(frozen=True)
class Item:
    """One thing a standard sets: its name, its own value in words, and a test of a procedure's value.

    ``key`` is what it looks at: ``speed`` (m/s), ``span``, ``load_stress`` (Pa) … or a word such as
    ``specimen``. ``agrees`` gets that value and all facts, and answers ``None`` where it cannot say.
    """

    key: str
    label: str
    says: str
    agrees: Callable[[float, Facts], bool | None] = lambda value, facts: None


@dataclass(frozen=True)
class Standard:
    """A published method: its name, the specimen types it names, what it sets."""

    name: str
    specimens: tuple[str, ...]
    items: tuple[Item, ...]
    note: str = ""


@dataclass(frozen=True)
class Departure:
    """One row: what it is about, what the standard says, what the procedure does, and whether they agree."""

    label: str
    standard: str
    own: str
    agrees: bool | None


def _speed(*wanted: float, near: float = 0.2) -> Callable[[float, Facts], bool]:
    """Whether a speed is one of these, in mm/min, within a share."""
    return lambda value, facts: any(isclose(value * 6e4, w, rel_tol=near) for w in wanted)


def _one_of(*wanted: float) -> Callable[[float, Facts], bool]:
    return lambda value, facts: any(isclose(value, w, rel_tol=0.1) for w in wanted)


def _about(wanted: float, near: float) -> Callable[[float, Facts], bool]:
    return lambda value, facts: isclose(value, wanted, rel_tol=near)


def _slender(low: float, high: float) -> Callable[[float, Facts], bool | None]:
    """Span over thickness between two figures."""

    def agrees(value: float, facts: Facts) -> bool | None:
        thick = facts.get("thickness")
        return low <= value / thick <= high if thick else None

    return agrees


def _rate_d790(value: float, facts: Facts) -> bool | None:
    """R = Z·L²/(6·d), Z = 0.01/min or 0.10/min."""
    span, thick = facts.get("span"), facts.get("thickness")
    if not span or not thick:
        return None
    rate = value * 60
    return any(isclose(rate, z * span**2 / (6 * thick), rel_tol=0.25) for z in (0.01, 0.1))


_AIR = Item("conditioning", "Conditioning", "23 °C, 50 % RH, 88 h (ISO 291)")
_FIVE = Item("replicates", "Specimens", "5 at least")
_TEN = Item("replicates", "Specimens", "10")
_D618 = Item("conditioning", "Conditioning", "23 °C, 50 % RH, 40 h (ASTM D618)")

_ISO_527 = Standard(
    "ISO 527-2",
    ("tension-1a", "tension-1b", "tension-1ba", "tension-5a"),
    (
        Item("speed", "Speed", "1 mm/min for the modulus, then 5 or 50 mm/min", _speed(1, 5, 50)),
        Item("gauge_length", "Gauge length", "75 (1A), 50 (1B), 25 (1BA), 20 mm (5A)"),
        _AIR,
        _FIVE,
    ),
)
_D638 = Standard(
    "ASTM D638",
    ("tension-i", "tension-iv", "tension-v"),
    (
        Item("speed", "Speed", "5, 50 or 500 mm/min; Type V 1, 10 or 100", _speed(1, 5, 10, 50, 100, 500)),
        _D618,
        Item("replicates", "Specimens", "5, of anisotropic stock 5 each way"),
    ),
)  # fmt: skip
PUBLISHED: dict[str, tuple[Standard, ...]] = {
    "tension": (_ISO_527, _D638),
    "layer-adhesion": (_ISO_527, _D638),
    "flexure": (
        Standard(
            "ISO 178",
            ("bend-80", "impact-80", "creep-80", "heat-80"),
            (
                Item("span", "Span", "(16 ± 1) × thickness: 64 mm for 4", _slender(15, 17)),
                Item("speed", "Speed", "2 mm/min for 80 × 10 × 4", _speed(2)),
                _AIR,
                _FIVE,
            ),
        ),
        Standard(
            "ASTM D790",
            ("bend-127",),
            (
                Item("span", "Span", "16 × depth", _slender(15, 17)),
                Item("speed", "Speed", "Z·L²/(6·d), Z 0.01 or 0.10 a minute", _rate_d790),
                _D618,
                _FIVE,
            ),
        ),
    ),
    "impact": (
        Standard(
            "ISO 179-1",
            ("impact-80", "impact-80-a", "bend-80"),
            (
                Item("span", "Span", "62 mm", _about(0.062, 0.02)),
                Item("strike", "Speed at impact", "2.9 m/s (0.5 to 5 J), 3.8 (7.5 to 50 J)", _one_of(2.9, 3.8)),
                _AIR,
                _TEN,
            ),
        ),
        Standard(
            "ISO 180",
            ("impact-80-a",),
            (Item("strike", "Speed at impact", "3.5 m/s", _about(3.5, 0.1)), _AIR, _TEN),
        ),
    ),
    "compression": (
        Standard(
            "ISO 604",
            ("cube-10",),
            (Item("speed", "Speed", "1 mm/min, or 5 for strength", _speed(1, 5)), _AIR, _FIVE),
            note="its strength specimen is a prism 10 × 10 × 4",
        ),
        Standard(
            "ASTM D695",
            ("cylinder-12",),
            (Item("speed", "Speed", "1.3 mm/min", _speed(1.3, near=0.25)), _D618, _FIVE),
        ),
    ),
    "heat-sag": (
        Standard(
            "ISO 75-2",
            ("heat-80", "bend-80"),
            (
                Item("span", "Span", "64 mm, flatwise", _about(0.064, 0.02)),
                Item("load_stress", "Outer-fibre stress", "A 1.80, B 0.45, C 8.00 MPa", _one_of(1.8e6, 0.45e6, 8e6)),
                Item("ramp", "Heating", "120 °C an hour (2 °C/min)", _about(2 / 60, 0.1)),
                Item("replicates", "Specimens", "2 at least"),
            ),
        ),
    ),
    "creep": (
        Standard(
            "ISO 899-2",
            ("creep-80", "bend-80"),
            (
                Item("span", "Span", "(16 ± 1) × thickness", _slender(15, 17)),
                Item("times", "Read at", "1, 3, 6, 12, 30 min; 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000 h"),
                _AIR,
            ),
        ),
    ),
    "deflection-ladder": (
        Standard(
            "ISO 178",
            ("bend-80",),
            (
                Item("span", "Span", "(16 ± 1) × thickness", _slender(15, 17)),
                Item("speed", "Speed", "a ramp at 2 mm/min, not dead weights", lambda v, f: False),
                _AIR,
                _FIVE,
            ),
        ),
    ),
}  # fmt: skip


def departures(
    method: str, specimen: str, orientation: str, facts: Facts, words: Mapping[str, str]
) -> tuple[Standard, list[Departure]] | None:
    """A procedure set beside the standard nearest to it.

    Parameters: the ``method``'s key; the ``specimen`` type's key; ``orientation``; ``facts`` in SI by
    key; ``words`` what the procedure says, by key. The standard that names the specimen type is taken,
    else the method's first. ``None`` for a method without one.

    >>> standard, rows = departures("flexure", "bend-80", "flat", {"span": 0.05, "thickness": 0.004}, {"span": "50 mm"})
    >>> standard.name, [(r.label, r.own, r.agrees) for r in rows if r.label == "Span"]
    ('ISO 178', [('Span', '50 mm', False)])
    """
    known = PUBLISHED.get(method, ())
    if not known:
        return None
    standard = next((s for s in known if specimen in s.specimens), known[0])
    rows = [
        Departure(
            "Specimen",
            f"one of {len(standard.specimens)} it names"
            if len(standard.specimens) > 1
            else "its own",
            words.get("specimen", specimen),
            specimen in standard.specimens,
        )
    ]
    rows += [_row(item, facts, words) for item in standard.items]
    if orientation == "upright":
        rows.append(Departure("Made", "moulded or cut, sound throughout", "printed upright, across its layers", False))  # fmt: skip
    else:
        rows.append(Departure("Made", "moulded or cut, sound throughout", f"printed {orientation}", None))  # fmt: skip
    return standard, rows


def _row(item: Item, facts: Facts, words: Mapping[str, str]) -> Departure:
    value = facts.get(item.key)
    said = words.get(item.key, "")
    agrees = None if value is None else item.agrees(value, facts)
    return Departure(item.label, item.says, said, agrees)
