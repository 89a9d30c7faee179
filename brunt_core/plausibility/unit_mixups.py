"""Does this number look like another unit?"""

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from brunt_core.computation.compute import Computation, ParsedReading, compute
from brunt_core.errors import InputError
from brunt_core.observations import Observation
from brunt_core.properties import Property
from brunt_core.quantities import DIMENSIONS, parse_typed
from brunt_core.quantities.rendering import render

MARGIN = 1.6
_KELVINS = 40.0
_TRIED = {
    "force": ("kgf", "lbf", "N", "kN", "gf"),
    "length": ("mm", "in", "thou", "cm"),
    "torque": ("N·m", "N·cm", "N·mm", "in·lbf", "ft·lbf", "kgf·cm"),
    "energy": ("J", "ft·lbf", "in·lbf", "kgf·cm"),
    "mass": ("g", "kg", "oz", "lb"),
    "temperature": ("°C", "°F", "K"),
    "stress": ("MPa", "psi", "ksi", "kgf/mm²", "kPa", "GPa"),
}
_ROUND = ("diameter", "outer_diameter")
_SIGN = {"at_least": "> ", "at_most": "< "}


@dataclass(frozen=True)
class UnitMixup:
    """A result out of its range, and the unit that would bring it in.

    ``instead`` is what to type instead; it and ``field`` are empty when no unit explains it.
    ``unit`` is the unit it reads like, ``decimal point`` or ``radius``.
    """

    field: str
    unit: str
    instead: str
    sentence: str


@dataclass(frozen=True)
class _Suspect:
    """One way a reading may have slipped."""

    key: str
    unit: str
    instead: str


def expected_range(
    band: tuple[float, float] | None, siblings: Sequence[float], dimension: str = ""
) -> tuple[float, float] | None:
    """Where a result should lie: round its siblings when there are two or more, else the band.

    The range of siblings is widened by half its centre each way: it is to catch a unit, not
    variation; a temperature's by 40 K. A band that reaches below zero (a change) is widened on both
    sides of zero and its siblings are not asked. ``None`` where siblings are not above zero without
    such a band, since then no factor says anything. Common practice, no source.

    >>> expected_range((30e6, 70e6), [40e6, 44e6])
    (20000000.0, 66000000.0)
    """
    if band is not None and band[0] < 0:
        return band[0] * MARGIN, band[1] * MARGIN
    known = (min(siblings), max(siblings)) if len(siblings) >= 2 else band
    if known is None or known[0] <= 0:
        return None
    if dimension == "temperature":
        return known[0] - _KELVINS, known[1] + _KELVINS
    if len(siblings) >= 2:
        return known[0] / 2, known[1] * 1.5
    return known[0] / MARGIN, known[1] * MARGIN


def find_unit_mixup(
    done: Computation,
    texts: Mapping[str, str],
    outcome: str,
    expected: tuple[float, float] | None,
    nominal: Mapping[str, float] | None = None,
    ranked: str = "",
) -> UnitMixup | None:
    """Look for a unit mix-up in one result of a computation.

    Parameters: the computation and the texts it came from; ``expected`` range of the result in SI;
    ``nominal`` sizes of the specimen in m by input key: a length is suspected only where it departs
    from its nominal and another unit would bring it back; ``ranked`` the property looked at (the
    first result's when empty). A decimal point is suspected last.
    Returns ``None`` when the result lies in the range, or may lie there (a bound).

    >>> from brunt_core.methods.registry import method
    >>> texts = {"force": "58.4 N", "width": "5 mm", "thickness": "2 mm"}
    >>> find_unit_mixup(compute(method("tension"), texts), texts, "broke", (30e6, 70e6)).instead
    '58.4 kgf'
    """
    prop = done.result(ranked).property
    if expected is None or not lies_outside(done, expected, ranked):
        return None
    for suspect in _suspects(done, nominal or {}):
        changed = {**texts, suspect.key: suspect.instead}
        if _fits(done, changed, outcome, expected, prop.key):
            return UnitMixup(suspect.key, suspect.unit, suspect.instead, _sentence(done, suspect))
    low, high = (render(x, prop.dimension, prop.unit, 2) for x in expected)
    shown = render(done.result(ranked).observation.anchor, prop.dimension, prop.unit)
    either = next((r for r in done.readings.values() if _either_way(r)), None)
    also = f"“{either.typed.text}” may be {_joined(either)} as well. " if either else ""
    return UnitMixup(
        "",
        "",
        "",
        f"{shown} is outside the expected range ({low} to {high}). {also}"
        "Check the reading, the section and the specimen.",
    )


def lies_outside(done: Computation, expected: tuple[float, float] | None, ranked: str = "") -> bool:
    """Whether a result cannot lie where it is expected: what :func:`find_unit_mixup` looks into.

    >>> from brunt_core.methods.registry import method
    >>> texts = {"force": "58.4 N", "width": "5 mm", "thickness": "2 mm"}
    >>> lies_outside(compute(method("tension"), texts), (30e6, 70e6))
    True
    """
    return expected is not None and not _inside(done.result(ranked).observation, expected)


def find_stated_unit_mixup(
    text: str, prop: Property, expected: tuple[float, float] | None, held: bool = False
) -> UnitMixup | None:
    """Look for a unit mix-up in a finished figure that arrives without its readings.

    Parameters: the figure as typed; its property; the range expected in SI; whether the specimen
    held, so that the figure is a lower bound. As :func:`find_unit_mixup`, with an empty field.

    >>> from brunt_core.properties import PROPERTIES
    >>> find_stated_unit_mixup("6100", PROPERTIES["tensile_strength"], (20e6, 70e6)).instead
    '6100 psi'
    """
    typed = parse_typed(text, prop.dimension, prop.unit)
    known = Observation.at_least(typed.observation.anchor) if held else typed.observation
    if expected is None or _inside(known, expected):
        return None
    spoken = DIMENSIONS[prop.dimension]
    numbers = f"{_SIGN.get(typed.observation.kind, '')}{typed.parts[0].number:.6g}"
    for unit in _TRIED.get(prop.dimension, ()) if len(typed.parts) == 1 else ():
        if typed.parts[-1].unit == spoken.unit_of(unit):
            continue
        value = parse_typed(f"{numbers} {unit}", prop.dimension).observation.anchor
        if expected[0] <= value <= expected[1]:
            was = render(typed.observation.anchor, prop.dimension, prop.unit)
            now = render(value, prop.dimension, prop.unit)
            return UnitMixup(
                "", unit, f"{numbers} {unit}", f"{was} reads like {unit}: that would be {now}."
            )
    low, high = (render(x, prop.dimension, prop.unit, 2) for x in expected)
    shown = render(typed.observation.anchor, prop.dimension, prop.unit)
    return UnitMixup("", "", "", f"{shown} is outside the expected range ({low} to {high}).")


def _either_way(reading: ParsedReading) -> bool:
    """Whether its point before three digits may group thousands: ``14.631``."""
    parts = reading.typed.parts
    return len(parts) == 1 and bool(
        re.match(r"[0-9]{1,3}\.[0-9]{3}(?![0-9.,])", reading.typed.text)
    )


def _joined(reading: ParsedReading) -> str:
    """The number without its point, in its unit."""
    unit = reading.typed.parts[-1].unit_label or reading.input.unit
    return f"{reading.typed.parts[0].number * 1000:.0f} {unit}".strip()


def _inside(observation: Observation, expected: tuple[float, float]) -> bool:
    if observation.kind == "at_least":
        return observation.anchor <= expected[1]
    if observation.kind == "at_most":
        return observation.anchor >= expected[0]
    return expected[0] <= observation.anchor <= expected[1]


def _suspects(done: Computation, nominal: Mapping[str, float]) -> Iterator[_Suspect]:
    """Sizes first, then other units of what was read, then a misplaced decimal point."""
    own = [(k, r) for k, r in done.readings.items() if r.plain and r.input.role != "fixed"]
    own.sort(key=lambda item: item[1].input.dimension != "length")
    for key, reading in own:
        if _either_way(reading):
            yield _Suspect(key, "thousands", _joined(reading))
        if key in _ROUND and key in nominal and _near(reading.si * 2, nominal[key], 1.15):
            yield _Suspect(key, "radius", _times(reading, 2.0))
        for unit in _TRIED.get(reading.input.dimension, ()):
            instead = _reworded(reading, unit)
            if instead and _likely(reading, instead, nominal.get(key)):
                yield _Suspect(key, unit, instead)
    for key, reading in own:
        if reading.input.dimension not in ("length", "temperature", "angle"):
            for factor in (0.1, 10.0):
                yield _Suspect(key, "decimal point", _times(reading, factor))


def _reworded(reading: ParsedReading, unit: str) -> str:
    """The same numbers in another unit; empty when that is the unit already."""
    kind = DIMENSIONS[reading.input.dimension]
    if reading.typed.parts[-1].unit == kind.unit_of(unit):
        return ""
    return _written(reading, 1.0, unit)


def _times(reading: ParsedReading, factor: float) -> str:
    """The numbers times a factor, in the unit they were read in."""
    return _written(reading, factor, reading.typed.parts[-1].unit_label or reading.input.unit)


def _written(reading: ParsedReading, factor: float, unit: str) -> str:
    typed = reading.typed
    parted = " .. " if typed.observation.kind == "between" else "; "
    numbers = parted.join(f"{p.number * factor:.6g}" for p in typed.parts)
    return f"{_SIGN.get(typed.observation.kind, '')}{numbers} {unit}".strip()


def _near(value: float, nominal: float, margin: float) -> bool:
    return 1 / margin < value / nominal < margin


def _likely(reading: ParsedReading, instead: str, nominal: float | None) -> bool:
    """Any other unit of a load is likely; one of a length only if it is then near the nominal."""
    if reading.input.dimension != "length":
        return True
    if nominal is None or _near(reading.si, nominal, MARGIN):
        return False
    return _near(parse_typed(instead, "length").observation.anchor, nominal, MARGIN)


def _fits(
    done: Computation,
    texts: Mapping[str, str],
    outcome: str,
    expected: tuple[float, float],
    ranked: str,
) -> bool:
    try:
        other = compute(done.method, texts, outcome)
    except InputError:
        return False
    return expected[0] <= other.result(ranked).observation.anchor <= expected[1]


def _sentence(done: Computation, suspect: _Suspect) -> str:
    spec = done.method.input(suspect.key)
    was = render(done.readings[suspect.key].si, spec.dimension, spec.unit)
    would = render(
        parse_typed(suspect.instead, spec.dimension).observation.anchor, spec.dimension, spec.unit
    )
    slipped = {
        "decimal point": "a misplaced decimal point",
        "radius": "the radius",
        "thousands": "a thousands mark for a decimal point",
    }.get(suspect.unit)
    if slipped:
        return f"{spec.label} reads like {slipped}: {would} would fit, not {was}."
    return f"{spec.label} reads like {suspect.unit}: {suspect.instead} would be {would}, not {was}."
