"""Sizes before and after: change on each axis, the factor to print with, bow and squareness."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import asin, degrees

from brunt_core.methods.base import Input
from brunt_core.observations import Observation
from brunt_core.quantities.rendering import number
from brunt_core.specimens.types import ORIENTATIONS
from brunt_core.statistics.summaries import summarise

LENGTH = Input("length", "Length", "L", "length", "mm", required=False, role="size")
BOW = Input("bow", "Height of bow", "f", "length", "mm", required=False, role="size", least="zero")
DIAGONAL = Input("diagonal", "Diagonal", "d_1", "length", "mm", required=False, role="size")
OTHER_DIAGONAL = Input(
    "other_diagonal", "Other diagonal", "d_2", "length", "mm", required=False, role="size"
)
HOLE = Input("hole", "Hole", "d_h", "length", "mm", required=False, role="size")
SHAPE_SIZES = (LENGTH, BOW, DIAGONAL, OTHER_DIAGONAL, HOLE)

# Limits of distortion, common practice, no source: a bow over 1/150 of the length, or half a degree
# out of square, and the bar does not sit right; three times that, and no scaling mends the print.
BOW_LIMIT, SQUARE_LIMIT = 1 / 150, 0.5
BEYOND = 3.0
_OUTER = ("length", "width", "thickness")
_ROUND = ("diameter", "outer_diameter")


@dataclass(frozen=True)
class AxisChange:
    """What a size did on one machine axis, over specimens.

    ``changes`` by specimen as shares; ``mean`` with its interval, ``None`` where there is one only;
    ``factor`` to print with next time, 1/(1 + mean), and its interval.
    """

    axis: str
    key: str
    changes: Mapping[str, float]
    mean: float
    low: float | None
    high: float | None
    factor: float
    factor_low: float | None
    factor_high: float | None

    @property
    def told(self) -> bool:
        """Whether the change is significant."""
        return self.low is not None and self.high is not None and not self.low <= 0 <= self.high


def axis_of(key: str, orientation: str) -> str:
    """The machine axis a size lies along, by how the specimen stood: ISO/ASTM 52921.

    Length, width and thickness are the longest, middle and shortest side; a diameter lies across the
    length, a hole in two axes: both are named apart.

    >>> axis_of("thickness", "flat"), axis_of("length", "upright"), axis_of("hole", "flat")
    ('z', 'z', 'hole')
    """
    if key in _OUTER:
        return ORIENTATIONS[orientation][_OUTER.index(key)].lower()
    return "hole" if key in ("hole", "inner_diameter") else "across"


def axis_changes(
    before: Mapping[str, Mapping[str, float]],
    after: Mapping[str, Mapping[str, float]],
    orientation: str,
    confidence: float = 0.95,
) -> list[AxisChange]:
    """The change of each size measured at both moments, outer sizes first, holes apart.

    Parameters: sizes by specimen and key, in any one unit, at the two moments; how they stood.
    Mean and t-interval of the shares (:func:`summarise`), factor 1/(1 + mean) with its ends from the
    interval's. Source: ISO 294-4 measures mould against part in the same way; the factor is arithmetic.

    >>> was = {"A": {"length": 75.0}, "B": {"length": 75.1}}
    >>> now = {"A": {"length": 73.5}, "B": {"length": 73.7}}
    >>> x, = axis_changes(was, now, "flat")
    >>> x.axis, round(x.mean, 5), round(x.factor, 5)
    ('x', -0.01932, 1.0197)
    """
    keys = [*_OUTER, *_ROUND, "inner_diameter", "hole"]
    found = []
    for key in keys:
        shares = {
            code: after[code][key] / sizes[key] - 1
            for code, sizes in before.items()
            if sizes.get(key) and after.get(code, {}).get(key)
        }
        if shares:
            found.append(_axis(key, axis_of(key, orientation), shares, confidence))
    return found


def _axis(key: str, axis: str, shares: Mapping[str, float], confidence: float) -> AxisChange:
    s = summarise([Observation.exact(1 + x) for x in shares.values()], confidence)
    low, high = (None if x is None else x - 1 for x in (s.low, s.high))
    return AxisChange(
        axis=axis,
        key=key,
        changes=shares,
        mean=s.mean - 1,
        low=low,
        high=high,
        factor=1 / s.mean,
        factor_low=None if high is None else 1 / (1 + high),
        factor_high=None if low is None else 1 / (1 + low),
    )


@dataclass(frozen=True)
class Distortion:
    """How far one specimen is from straight and square.

    ``bow`` over the length; ``slant`` in degrees out of square; ``None`` where it was not measured.
    """

    bow: float | None
    slant: float | None

    @property
    def doubtful(self) -> bool:
        """Whether a strength result of it is doubtful."""
        return (self.bow or 0.0) > BOW_LIMIT or (self.slant or 0.0) > SQUARE_LIMIT

    @property
    def incurable(self) -> bool:
        """Whether it is bent or slanted so far that no scaling mends the print."""
        bent = (self.bow or 0.0) > BEYOND * BOW_LIMIT
        return bent or (self.slant or 0.0) > BEYOND * SQUARE_LIMIT


def distortion(sizes: Mapping[str, float]) -> Distortion:
    """Bow and squareness from sizes in one unit.

    Bow is the height of bow over the length. Out of square, from the two diagonals of a face with
    sides a and b: d₁² − d₂² = 4ab·sin φ (law of cosines), φ in degrees.

    >>> d = distortion({"length": 80.0, "width": 10.0, "bow": 0.4, "diagonal": 80.7, "other_diagonal": 80.6})
    >>> round(d.bow, 4), round(d.slant, 3), d.doubtful
    (0.005, 0.289, False)
    """
    length, width = sizes.get("length"), sizes.get("width")
    bow = sizes["bow"] / length if length and "bow" in sizes else None
    one, other = sizes.get("diagonal"), sizes.get("other_diagonal")
    slant = None
    if one and other and length and width:
        share = min(abs(one**2 - other**2) / (4 * length * width), 1.0)
        slant = degrees(asin(share))
    return Distortion(bow, slant)


def sentences(changes: Sequence[AxisChange], distortions: Mapping[str, Distortion]) -> list[str]:
    """What sizes and shape mean for a comparison of strength and for the next print.

    >>> sentences([], {"A": Distortion(0.02, None)})[0]
    'A is bowed or out of square beyond the limit: its strength is doubtful.'
    """
    said = []
    doubtful = [code for code, d in distortions.items() if d.doubtful]
    if doubtful:
        verb = "is" if len(doubtful) == 1 else "are"
        whose = "its" if len(doubtful) == 1 else "their"
        said.append(
            f"{', '.join(doubtful)} {verb} bowed or out of square beyond the limit: {whose} strength is doubtful."
        )
    incurable = [code for code, d in distortions.items() if d.incurable]
    if incurable:
        said.append(
            f"{', '.join(incurable)}: bow is too large for a scale factor. Clamp the parts, or heat more slowly."
        )
    section = [c for c in changes if c.key in ("width", "thickness", "diameter")]
    grown = 1.0
    for c in section:
        grown *= (1 + c.mean) ** (2 if c.key == "diameter" else 1)
    if abs(grown - 1) > 0.005 and section:
        word = "larger" if grown > 1 else "smaller"
        said.append(
            f"The section after is {number(abs(grown - 1) * 100, '.1f')} % {word} than printed: take stress on it, "
            "not on the old one."
        )
    uneven = [c for c in changes if c.told and _spread(c) > abs(c.mean) / 2]
    if uneven:
        axes = ", ".join(c.axis for c in uneven)
        said.append(
            f"On {axes} the pieces differ by more than half of the change: a scale factor corrects only the mean."
        )
    return said


def _spread(change: AxisChange) -> float:
    shares = list(change.changes.values())
    middle = sum(shares) / len(shares)
    return float((sum((s - middle) ** 2 for s in shares) / max(len(shares) - 1, 1)) ** 0.5)
