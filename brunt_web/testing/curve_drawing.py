"""A load–displacement curve drawn: its points named where they are, in the tester's words."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from brunt_core.curves.reading import Guess
from brunt_core.curves.reduction import Reduction, thinned_for_drawing
from brunt_core.quantities.rendering import number, render
from brunt_web.interface.scale import Scale, scale_for
from brunt_web.testing.curve_queries import Reduced

WIDTH, HEIGHT = 1120, 430
# Room above the plot for three rows of names.
ABOVE = 84
_ROWS = (-16.0, -40.0, -64.0)
_LETTER = 7.4
_ORDER = ("low", "high", "yield", "peak", "break")
_WORDS = {
    "low": "linear from here",
    "high": "linear to here",
    "yield": "yield",
    "peak": "peak load",
    "break": "break",
}
_HELD = {"break": "end of the record"}

Place = Callable[[float, float], tuple[float, float]]


@dataclass
class CurveFlag:
    """A point with its name: where it is on the curve, where its words stand and how they are anchored.

    ``hand`` is where it is taken hold of: above the curve where another point lies.
    """

    key: str
    words: str
    value: str
    x: float
    y: float
    mm: float
    moved: bool
    hand: float = 0.0
    text_x: float = 0.0
    text_y: float = 0.0
    anchor: str = "start"

    @property
    def name(self) -> str:
        """Words and value together, for a reader of screens."""
        return f"{self.words}, {self.value}"

    @property
    def above(self) -> bool:
        """Whether its words stand above the plot, with a line down to it."""
        return self.text_y < 0


def plot(found: Reduced, held: bool) -> dict[str, Any]:
    """The drawing: scales in mm and N, the line, slope and offset, the named points, the work below it."""
    r = found.reduction
    assert r is not None
    x_scale = scale_for([p[0] * 1e3 for p in found.points], width=WIDTH, pad=60)
    y_scale = scale_for([0.0, *(p[1] for p in found.points)], width=HEIGHT, pad=40)

    def place(x: float, force: float) -> tuple[float, float]:
        return round(x_scale.x(x * 1e3), 1), round(HEIGHT - y_scale.x(force), 1)

    top = r.peak_load * 1.05
    flags = _flags(found, r, place, held)
    _part(flags)
    _stand(flags)
    return {
        "line": " ".join(f"{x},{y}" for x, y in (place(*p) for p in found.points)),
        "slope": (*place(r.toe, 0.0), *place(r.toe + top / r.slope, top)),
        "slope_says": _slope_says(r, place, flags),
        "toe": place(r.toe, 0.0),
        "work": _work(found, r, place),
        "x_ticks": x_scale.ticks,
        "y_ticks": [(HEIGHT - y, label) for y, label in y_scale.ticks],
        "flags": flags,
        "spikes": [place(*p) for p in found.spikes],
        "rest": _rest_of(found),
        "offset": _offset_line(found, r, place),
        "origin": x_scale.x(0.0),
        "per_mm": _per_mm(x_scale),
    }


def _per_mm(scale: Scale) -> float:
    return (scale.width - 2 * scale.pad) / (scale.high - scale.low)


def _flags(found: Reduced, r: Reduction, place: Place, held: bool) -> list[CurveFlag]:
    words = _WORDS | (_HELD if held else {})
    loads = {"yield": r.yield_load, "peak": r.peak_load, "break": r.break_load}
    flags = []
    for key in _ORDER:
        if key not in r.picks:
            continue
        at = r.picks[key]
        x, y = place(at, _force_at(found.points, at))
        where = f"{number(at * 1e3, '.4g')} mm"
        load = loads.get(key)
        value = f"{render(load, 'force')} at {where}" if load else where
        flags.append(
            CurveFlag(
                key=key,
                words=words[key],
                value=value,
                x=x,
                y=y,
                mm=at * 1e3,
                moved=key in found.row.picks,
            )  # fmt: skip
        )
    return flags


def _part(flags: Sequence[CurveFlag]) -> None:
    """Points that would hide one another are taken hold of one above the other."""
    seen: list[tuple[float, float]] = []
    for flag in flags:
        flag.hand = flag.y
        while any(abs(flag.x - x) < 18 and abs(flag.hand - y) < 24 for x, y in seen):
            flag.hand -= 27
        seen.append((flag.x, flag.hand))


def _stand(flags: Sequence[CurveFlag]) -> None:
    """Names of yield, peak and break above the plot, so that none lies on another; the slope's ends beside them."""
    taken: list[list[tuple[float, float]]] = [[] for _ in _ROWS]
    for flag in sorted((f for f in flags if f.key not in ("low", "high")), key=lambda f: f.x):
        wide = _LETTER * len(flag.name) + 16
        flag.anchor = "end" if flag.x + wide > WIDTH else "start"
        low = flag.x - wide if flag.anchor == "end" else flag.x
        row = next(
            (
                i
                for i, spans in enumerate(taken)
                if all(low >= b or low + wide <= a for a, b in spans)
            ),
            len(_ROWS) - 1,
        )
        taken[row].append((low, low + wide))
        flag.text_x, flag.text_y = flag.x + (-6 if flag.anchor == "end" else 6), _ROWS[row]
    for flag in (f for f in flags if f.key in ("low", "high")):
        flag.text_x, flag.text_y = flag.x + 22, flag.y + 5
    ends = [f for f in flags if f.key in ("low", "high")]
    if len(ends) == 2 and ends[0].text_y - ends[1].text_y < 44:
        middle = (ends[0].text_y + ends[1].text_y) / 2
        ends[0].text_y, ends[1].text_y = min(middle + 22, HEIGHT - 46.0), middle - 22


def _slope_says(r: Reduction, place: Place, flags: Sequence[CurveFlag]) -> dict[str, Any]:
    """The slope in words, between its ends."""
    ends = [f for f in flags if f.key in ("low", "high")]
    y = sum(f.text_y for f in ends) / len(ends) if ends else HEIGHT / 2
    x = max((f.text_x for f in ends), default=80.0)
    words = f"{render(r.slope, 'stiffness')} ± {render(r.slope_error, 'stiffness')}"
    return {"x": x, "y": y, "words": words}


def _work(found: Reduced, r: Reduction, place: Place) -> dict[str, Any]:
    """The area below the curve up to the break: the work it took."""
    end = r.picks.get("break", found.points[-1][0])
    inside = [p for p in found.points if r.toe <= p[0] <= end]
    if len(inside) < 3:
        return {}
    corners = [place(r.toe, 0.0), *(place(*p) for p in inside), place(inside[-1][0], 0.0)]
    x = (corners[0][0] + 2 * corners[-1][0]) / 3
    return {
        "points": " ".join(f"{a},{b}" for a, b in corners),
        "x": x,
        "y": HEIGHT - 58,
        "words": f"{render(r.energy, 'energy')} of work to the break",
    }


def _offset_line(found: Reduced, r: Reduction, place: Place) -> tuple[float, ...] | None:
    """The line moved by the offset, from zero load to the yield it meets."""
    if r.yield_load is None or "yield" in found.row.picks:
        return None
    at = r.picks["yield"]
    return (*place(at - r.yield_load / r.slope, 0.0), *place(at, r.yield_load))


def _rest_of(found: Reduced) -> dict[str, Any]:
    """The residuals of the straight part: their points in a narrow drawing, and its scale in N."""
    assert found.reduction is not None
    most = max((abs(r) for _, r in found.residuals), default=0.0)
    most = max(most, 1e-4 * found.reduction.peak_load)
    x_scale = scale_for([x * 1e3 for x, _ in found.residuals], width=WIDTH, pad=60)
    return {
        "points": [(x_scale.x(x * 1e3), round(45 - 36 * r / most, 1)) for x, r in found.residuals],
        "most": most,
        "x_ticks": x_scale.ticks,
    }


def sketch(guess: Guess) -> dict[str, Any]:
    """A small drawing of one way to read a file, with what it would come to."""
    points = thinned_for_drawing(guess.curve, 100)
    x_scale = scale_for([p[0] * 1e3 for p in points], width=380, pad=44, steps=4)
    y_scale = scale_for([0.0, *(p[1] for p in points)], width=210, pad=26, steps=4)
    top = max(p[1] for p in points)
    return {
        "key": guess.key,
        "words": guess.words,
        "peak": top,
        "line": " ".join(f"{x_scale.x(x * 1e3):.1f},{210 - y_scale.x(f):.1f}" for x, f in points),
        "x_ticks": x_scale.ticks,
        "y_ticks": [(210 - y, label) for y, label in y_scale.ticks],
    }


def _force_at(points: list[tuple[float, float]], x: float) -> float:
    return min(points, key=lambda p: abs(p[0] - x))[1]
