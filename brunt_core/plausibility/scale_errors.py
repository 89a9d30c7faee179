"""A whole set of results that lies far from what its polymer family reaches: a unit or a decimal point?"""

from collections.abc import Sequence
from statistics import median

from brunt_core.observations import Observation
from brunt_core.plausibility.bands import Band
from brunt_core.plausibility.unit_mixups import MARGIN
from brunt_core.quantities.rendering import figures

_PARTS = {10: "a tenth", 100: "a hundredth", 1000: "a thousandth"}


def scale_error(values: Sequence[Observation], expected: Band | None) -> str:
    """How far a set of results lies outside its family's band, in words; empty where one may lie in it.

    Parameters
    ----------
    values : the results of one material under one procedure, in SI.
    expected : the family's plausible band in SI (:func:`~brunt_core.plausibility.bands.band`); nothing
        is said without one, or where it reaches zero or below.

    The band is widened by the factor that single readings are allowed. A lower bound may always lie
    higher, an upper bound lower. The share said is that of the median to the nearest end of the band,
    as a power of ten where it is within a factor of two of one. Common practice, no source.

    >>> bad = [Observation.exact(x) for x in (4.7e6, 5.1e6, 4.9e6)]
    >>> scale_error(bad, (30e6, 70e6))
    'about a tenth of'
    >>> scale_error([Observation.exact(480e6)], (30e6, 70e6))
    'about 10 times'
    >>> scale_error([*bad, Observation.exact(40e6)], (30e6, 70e6))
    ''
    """
    if expected is None or expected[0] <= 0 or not values:
        return ""
    low, high = expected[0] / MARGIN, expected[1] * MARGIN
    middle = median(o.anchor for o in values)
    if all(o.upper is not None and o.upper < low for o in values):
        return _below((expected[0] * expected[1]) ** 0.5 / middle) if middle > 0 else "far below"
    if all(o.lower is not None and o.lower > high for o in values):
        return _above(middle / (expected[0] * expected[1]) ** 0.5)
    return ""


def _power(ratio: float) -> int | None:
    """The power of ten within a factor of two of a ratio."""
    return next((p for p in _PARTS if p / 2 <= ratio <= p * 2), None)


def _below(ratio: float) -> str:
    power = _power(ratio)
    return f"about {_PARTS[power]} of" if power else f"about 1/{figures(ratio, 1)} of"


def _above(ratio: float) -> str:
    return f"about {_power(ratio) or figures(ratio, 1)} times"
