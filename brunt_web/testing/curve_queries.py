"""Reading a specimen's curve: its points, what it reduces to, and what that fills in."""

import io
from dataclasses import dataclass, field

import numpy as np

from brunt_core.curves.reading import LoadCurve as CoreCurve
from brunt_core.curves.reading import without
from brunt_core.curves.reduction import Reduction, reduce_curve, residuals, thinned_for_drawing
from brunt_core.curves.spikes import spikes_of
from brunt_core.errors import InputError
from brunt_core.quantities import parse
from brunt_web.campaigns.models import Turn
from brunt_web.testing.models import Curve

MOST_SPIKES = 200
_UNITS = {
    "peak_load": "N",
    "yield_load": "N",
    "slope": "N/m",
    "at_peak": "m",
    "at_break": "m",
    "energy": "J",
}


def packed_points(curve: CoreCurve) -> bytes:
    """The points as they are stored."""
    out = io.BytesIO()
    np.savez_compressed(out, x=curve.displacement, f=curve.force)
    return out.getvalue()


def unpacked_points(row: Curve) -> CoreCurve:
    """The stored points."""
    with np.load(io.BytesIO(bytes(row.data))) as held:
        return CoreCurve(held["x"], held["f"], tuple(row.notes))


def used(row: Curve) -> CoreCurve:
    """The points that are reduced: all, or without the spikes where the tester left them out."""
    curve = unpacked_points(row)
    return without(curve, tuple(spikes_of(curve.force))) if row.without_spikes else curve


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
    spikes: list[tuple[float, float]] = field(default_factory=list)
    residuals: list[tuple[float, float]] = field(default_factory=list)
    error: InputError | None = None


def reduced(turn: Turn) -> Reduced:
    """The specimen's curve for drawing: thinned, reduced with and without the moved picks."""
    row = turn.curve
    raw, gauge = unpacked_points(row), gauge_of(turn)
    curve = used(row)
    found = Reduced(row, thinned_for_drawing(curve))
    at = spikes_of(raw.force)[:MOST_SPIKES]
    found.spikes = [(float(raw.displacement[i]), float(raw.force[i])) for i in at]
    try:
        found.automatic = reduce_curve(curve, gauge)
        found.reduction = reduce_curve(curve, gauge, row.picks) if row.picks else found.automatic
        found.residuals = thinned_for_drawing(CoreCurve(*residuals(curve, found.reduction)), 200)
    except InputError as error:
        found.error = error
    return found


def curve_texts(turn: Turn) -> dict[str, str]:
    """What the curve fills in, as text with units, by input key."""
    row = turn.curve
    try:
        reduction = reduce_curve(used(row), gauge_of(turn), row.picks)
    except InputError:
        return {}
    texts = {}
    for part, key in turn.procedure.method.curve.items():
        value = getattr(reduction, part)
        if value is not None and (value > 0 or part in ("at_peak", "at_break") and value >= 0):
            texts[key] = f"{value:.8g} {_UNITS[part]}"
    return texts
