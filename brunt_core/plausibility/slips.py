"""Does this number look like another unit?"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from brunt_core.computation.compute import Computation, Reading, compute
from brunt_core.errors import InputError
from brunt_core.observations import Observation
from brunt_core.quantities import DIMENSIONS, parse_typed
from brunt_core.quantities.rendering import render

_MARGIN = 1.6
_TRIED = {
    "force": ("kgf", "lbf", "N", "kN", "gf"),
    "length": ("mm", "in", "thou", "cm"),
    "torque": ("N·m", "N·cm", "N·mm", "in·lbf", "ft·lbf", "kgf·cm"),
    "energy": ("J", "ft·lbf", "in·lbf", "kgf·cm"),
    "mass": ("g", "kg", "oz", "lb"),
}


@dataclass(frozen=True)
class Slip:
    """A result out of its range, and the unit that would bring it in.

    ``inputs`` is what to type instead; both are empty when no unit explains it.
    """

    field: str
    unit: str
    instead: str
    sentence: str


def expected_range(
    band: tuple[float, float] | None, siblings: Sequence[float]
) -> tuple[float, float] | None:
    """Where a result should lie: round its siblings when there are two or more, else the band.

    The range of siblings is widened by half its centre each way: it is to catch a unit, not
    scatter. Common practice, no source.

    >>> expected_range((30e6, 70e6), [40e6, 44e6])
    (20000000.0, 66000000.0)
    """
    if len(siblings) >= 2:
        return min(siblings) / 2, max(siblings) * 1.5
    return (band[0] / _MARGIN, band[1] * _MARGIN) if band else None


def find_slip(
    done: Computation,
    texts: Mapping[str, str],
    outcome: str,
    expected: tuple[float, float] | None,
    nominal: Mapping[str, float] | None = None,
) -> Slip | None:
    """Look for a unit slip in the first result of a computation.

    Parameters: the computation and the texts it came from; ``expected`` range of the result in SI;
    ``nominal`` sizes of the specimen in m by input key: a length is suspected only where it departs
    from its nominal and another unit would bring it back.
    Returns ``None`` when the result lies in the range, or may lie there (a bound).

    >>> from brunt_core.methods.registry import method
    >>> texts = {"force": "58.4 N", "width": "5 mm", "thickness": "2 mm"}
    >>> find_slip(compute(method("tension"), texts), texts, "broke", (30e6, 70e6)).instead
    '58.4 kgf'
    """
    result = done.results[0]
    if expected is None or _inside(result.observation, expected):
        return None
    for key, reading in sorted(
        done.readings.items(), key=lambda item: item[1].input.dimension != "length"
    ):
        for unit in _TRIED.get(reading.input.dimension, ()):
            instead = _reworded(reading.typed.text, reading.input.dimension, unit)
            if (
                instead
                and _likely(reading, instead, (nominal or {}).get(key))
                and _fits(done, {**texts, key: instead}, outcome, expected)
            ):
                return Slip(key, unit, instead, _sentence(done, key, instead, unit))
    low, high = (render(x, result.property.dimension, result.property.unit, 2) for x in expected)
    shown = render(result.observation.anchor, result.property.dimension, result.property.unit)
    return Slip(
        "",
        "",
        "",
        f"{shown} lies outside what is expected here ({low} to {high}). "
        "Look at the reading, the section and the specimen again.",
    )


def _inside(observation: Observation, expected: tuple[float, float]) -> bool:
    if observation.kind == "at_least":
        return observation.anchor <= expected[1]
    if observation.kind == "at_most":
        return observation.anchor >= expected[0]
    return expected[0] <= observation.anchor <= expected[1]


def _reworded(text: str, dimension: str, unit: str) -> str:
    """The same numbers in another unit; empty when that is the unit already."""
    typed = parse_typed(text, dimension)
    kind = DIMENSIONS[dimension]
    if typed.parts[-1].unit == kind.unit_of(unit):
        return ""
    numbers = " .. " if typed.observation.kind == "between" else "; "
    sign = {"at_least": "> ", "at_most": "< "}.get(typed.observation.kind, "")
    return f"{sign}{numbers.join(f'{p.number:g}' for p in typed.parts)} {unit}"


def _likely(reading: Reading, instead: str, nominal: float | None) -> bool:
    """Any other unit of a load is likely; one of a length only if it is then near the nominal."""
    if reading.input.dimension != "length":
        return True
    if nominal is None or 1 / _MARGIN < reading.si / nominal < _MARGIN:
        return False
    return 1 / _MARGIN < parse_typed(instead, "length").observation.anchor / nominal < _MARGIN


def _fits(
    done: Computation, texts: Mapping[str, str], outcome: str, expected: tuple[float, float]
) -> bool:
    try:
        other = compute(done.method, texts, outcome)
    except InputError:
        return False
    return expected[0] <= other.results[0].observation.anchor <= expected[1]


def _sentence(done: Computation, key: str, instead: str, unit: str) -> str:
    spec = done.method.input(key)
    was = render(done.readings[key].si, spec.dimension, spec.unit)
    would = render(
        parse_typed(instead, spec.dimension).observation.anchor, spec.dimension, spec.unit
    )
    return f"{spec.label} reads like {unit}: {instead} would be {would}, not {was}."
