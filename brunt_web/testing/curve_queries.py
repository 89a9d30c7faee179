"""Reading a specimen's curve: its points, what it reduces to, and what that fills in."""

import io
from dataclasses import dataclass

import numpy as np

from brunt_core.curves.reading import Curve as CoreCurve
from brunt_core.curves.reduction import Reduction, reduce_curve, thinned_for_drawing
from brunt_core.errors import InputError
from brunt_core.quantities import parse
from brunt_web.campaigns.models import Turn
from brunt_web.testing.models import Curve

_UNITS = {
    "peak_load": "N",
    "yield_load": "N",
    "slope": "N/m",
    "at_peak": "m",
    "at_break": "m",
    "energy": "J",
}


def packed(curve: CoreCurve) -> bytes:
    """The points as they are stored."""
    out = io.BytesIO()
    np.savez_compressed(out, x=curve.displacement, f=curve.force)
    return out.getvalue()


def unpacked(row: Curve) -> CoreCurve:
    """The stored points."""
    with np.load(io.BytesIO(bytes(row.data))) as held:
        return CoreCurve(held["x"], held["f"], tuple(row.notes))


def gauge_of(turn: Turn) -> float | None:
    """The length that sets the yield offset, in m: the gauge length, where the method has one."""
    text = turn.procedure.parameters.get("gauge_length", "")
    if text:
        return parse(text, "length", "mm").si
    height = turn.procedure.parameters.get("height", "")
    return parse(height, "length", "mm").si if height else None


@dataclass
class Reduced:
    """A curve with what it comes to, or the sentence that says why it comes to nothing."""

    row: Curve
    points: list[tuple[float, float]]
    reduction: Reduction | None = None
    automatic: Reduction | None = None
    error: InputError | None = None


def reduced(turn: Turn) -> Reduced:
    """The specimen's curve for drawing: thinned, reduced with and without the moved picks."""
    row = turn.curve
    curve, gauge = unpacked(row), gauge_of(turn)
    found = Reduced(row, thinned_for_drawing(curve))
    try:
        found.automatic = reduce_curve(curve, gauge)
        found.reduction = reduce_curve(curve, gauge, row.picks) if row.picks else found.automatic
    except InputError as error:
        found.error = error
    return found


def curve_texts(turn: Turn) -> dict[str, str]:
    """What the curve fills in, as text with units, by input key."""
    row = turn.curve
    try:
        reduction = reduce_curve(unpacked(row), gauge_of(turn), row.picks)
    except InputError:
        return {}
    texts = {}
    for part, key in turn.procedure.method.curve.items():
        value = getattr(reduction, part)
        if value is not None and (value > 0 or part in ("at_peak", "at_break") and value >= 0):
            texts[key] = f"{value:.8g} {_UNITS[part]}"
    return texts
