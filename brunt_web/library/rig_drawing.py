"""A procedure's rig with its specimen, to scale: span, reach, speed, swing, and reading times on a line."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from math import cos, degrees, log10, sin, sqrt

from brunt_core.quantities.rendering import number, render, time_words
from brunt_core.specimens.types import SpecimenType

WIDE, HIGH = 600.0, 300.0
_FLOOR = 248.0
_GRAVITY = 9.80665
# Noses and supports of bending rigs, mm: ISO 178 and ASTM D790, recalled.
_NOSE = 5.0

Facts = Mapping[str, float]


@dataclass
class DrawnRig:
    """Paths with their classes and texts with their anchors; remarks where the parts do not go together."""

    paths: list[tuple[str, str]] = field(default_factory=list)
    texts: list[tuple[float, float, str, str]] = field(default_factory=list)
    remarks: list[str] = field(default_factory=list)

    def path(self, style: str, d: str) -> None:
        """One path."""
        self.paths.append((style, d))

    def text(self, x: float, y: float, words: str, anchor: str = "middle") -> None:
        """One text."""
        self.texts.append((round(x, 1), round(y, 1), anchor, words))

    def across(self, x1: float, x2: float, y: float, words: str) -> None:
        """A dimension along x, its words below."""
        self.path("d-dim", f"M{x1:.1f},{y} H{x2:.1f} M{x1:.1f},{y - 6} v12 M{x2:.1f},{y - 6} v12")
        self.text((x1 + x2) / 2, y + 20, words)

    def arrow(self, x1: float, y1: float, x2: float, y2: float) -> None:
        """An arrow from the first point to the second."""
        long = sqrt((x2 - x1) ** 2 + (y2 - y1) ** 2) or 1.0
        dx, dy = (x2 - x1) / long, (y2 - y1) / long
        left = f"{x2 - 11 * dx - 6 * dy:.1f},{y2 - 11 * dy + 6 * dx:.1f}"
        right = f"{x2 - 11 * dx + 6 * dy:.1f},{y2 - 11 * dy - 6 * dx:.1f}"
        self.path("d-arrow", f"M{x1:.1f},{y1:.1f} L{x2:.1f},{y2:.1f} M{left} L{x2:.1f},{y2:.1f} L{right}")  # fmt: skip


def drawn_rig(kind: str, bar: SpecimenType, facts: Facts) -> DrawnRig:
    """The rig of a method's drawing with this specimen in it.

    ``facts`` in SI by key of what the procedure fixes, and ``speed``; lengths are drawn to scale.
    """
    rig = DrawnRig()
    _RIGS.get(kind, _loaded)(rig, bar, facts)
    return rig


def _speed_words(facts: Facts) -> str:
    return f"{number(facts['speed'] * 6e4, '.3g')} mm/min" if facts.get("speed") else "by hand"


def _bend(rig: DrawnRig, bar: SpecimenType, facts: Facts) -> None:
    long, thick = bar.overall, bar.box[2]
    span = facts.get("span", 0.0) * 1e3
    scale = 500.0 / max(long, span * 1.12, 20.0)
    middle, top = WIDE / 2, 150.0
    half, deep = long / 2 * scale, max(thick * scale, 2.0)
    rig.path("d-bar", f"M{middle - half:.1f},{top} h{2 * half:.1f} v{deep:.1f} h{-2 * half:.1f} Z")
    radius = _NOSE * scale
    if span:
        for side in (-1, 1):
            x, y = middle + side * span / 2 * scale, top + deep + radius
            rig.path("d-steel", _circle(x, y, radius))
            foot, half_wide = y + radius * 0.8, radius * 0.6
            rig.path(
                "d-steel",
                f"M{x - half_wide:.1f},{foot:.1f} L{x - 14:.1f},{_FLOOR} h28 L{x + half_wide:.1f},{foot:.1f} Z",
            )
        rig.across(middle - span / 2 * scale, middle + span / 2 * scale, _FLOOR + 24, f"span {number(span, '.4g')} mm")  # fmt: skip
        over = (long - span) / 2
        if over < 0:
            rig.remarks.append(f"The span of {number(span, '.4g')} mm is longer than the bar of {number(long, '.4g')} mm.")  # fmt: skip
        elif over < 0.1 * span:
            rig.remarks.append(f"Only {number(over, '.3g')} mm of the bar lie beyond each support: it may slip off.")  # fmt: skip
        else:
            rig.text(middle + half, top - 8, f"{number(over, '.3g')} mm beyond", "end")
        rig.text(
            middle - half,
            top - 8,
            f"{number(span / thick, '.3g')} × the thickness of {number(thick, '.3g')} mm",
            "start",
        )
    else:
        rig.remarks.append("No span is given.")
    rig.path("d-steel", _circle(middle, top - radius, radius))
    _pushed(rig, middle, top - 2 * radius, facts)


def _pushed(rig: DrawnRig, x: float, y: float, facts: Facts) -> None:
    """What presses from above: a weight where a load is fixed, else a moving nose."""
    load = facts.get("load") or facts.get("force")
    if load:
        rig.path("d-steel", f"M{x - 26:.1f},{y - 46:.1f} h52 v36 h-52 Z M{x:.1f},{y - 10:.1f} v10")
        rig.text(x + 36, y - 24, render(load, "force"), "start")
        return
    rig.path("d-steel", f"M{x - 12:.1f},{y - 56:.1f} h24 v56 h-24 Z")
    rig.arrow(x + 34, y - 58, x + 34, y - 12)
    rig.text(x + 46, y - 30, _speed_words(facts), "start")


def _circle(x: float, y: float, r: float) -> str:
    return f"M{x - r:.1f},{y:.1f} a{r:.1f},{r:.1f} 0 1 0 {2 * r:.1f},0 a{r:.1f},{r:.1f} 0 1 0 {-2 * r:.1f},0"  # fmt: skip


def _cantilever(rig: DrawnRig, bar: SpecimenType, facts: Facts) -> None:
    long, thick = bar.overall, bar.box[2]
    reach = facts.get("reach", 0.0) * 1e3
    scale = 440.0 / max(long, reach * 1.2, 20.0)
    left, top = 90.0, 130.0
    deep, held = max(thick * scale, 2.0), max((long - reach) * 0.8, 6.0) * scale
    fixed = left + held
    rig.path("d-bar", f"M{left},{top} h{long * scale:.1f} v{deep:.1f} h{-long * scale:.1f} Z")
    for y in (top - 44, top + deep):
        rig.path("d-steel", f"M{left - 30},{y:.1f} h{held + 30:.1f} v44 h{-held - 30:.1f} Z")
    if not reach:
        rig.remarks.append("No reach is given.")
        return
    x = fixed + reach * scale
    if reach > long - 5:
        rig.remarks.append(f"A reach of {number(reach, '.4g')} mm leaves none of the {number(long, '.4g')} mm bar in the clamp.")  # fmt: skip
    rig.path("d-steel", f"M{x:.1f},{top + deep:.1f} v26 M{x - 22:.1f},{top + deep + 26:.1f} h44 v34 h-44 Z")  # fmt: skip
    load = facts.get("force") or facts.get("load")
    if load:
        rig.text(x + 30, top + deep + 48, render(load, "force"), "start")
    rig.across(fixed, x, _FLOOR + 34, f"reach {number(reach, '.4g')} mm")


def _pulled(rig: DrawnRig, bar: SpecimenType, facts: Facts) -> None:
    long = bar.overall
    scale = min(440.0 / long, 120.0 / bar.wide)
    left, middle = WIDE / 2 - long * scale / 2, 140.0
    points = " L".join(f"{left + y * scale:.1f},{middle - x * scale:.1f}" for x, y in bar.outline)
    rig.path("d-bar", f"M{points} Z")
    parallel = bar.sizes.get("parallel", long * 0.5)
    grip = max((long - parallel) / 2 * 0.62, 4.0) * scale
    high = bar.wide * scale / 2 + 12
    for x in (left - 10, left + long * scale - grip + 10):
        rig.path("d-steel d-grip", f"M{x:.1f},{middle - high:.1f} h{grip:.1f} v{2 * high:.1f} h{-grip:.1f} Z")  # fmt: skip
    end = left + long * scale
    rig.arrow(end + 16, middle, end + 56, middle)
    rig.text(end + 20, middle - 14, _speed_words(facts), "start")
    gauge = facts.get("gauge_length", 0.0) * 1e3
    if gauge:
        a, b = left + (long - gauge) / 2 * scale, left + (long + gauge) / 2 * scale
        rig.across(a, b, middle + high + 18, f"gauge length {number(gauge, '.4g')} mm")
        if gauge > parallel + 1e-6:
            rig.remarks.append(f"The gauge length of {number(gauge, '.4g')} mm is longer than the straight {number(parallel, '.4g')} mm.")  # fmt: skip


def _press(rig: DrawnRig, bar: SpecimenType, facts: Facts) -> None:
    height = (facts.get("height") or bar.overall / 1e3) * 1e3
    wide = bar.wide
    scale = min(120.0 / height, 160.0 / wide)
    middle, low = WIDE / 2, 220.0
    w, h = wide * scale, height * scale
    rig.path("d-bar", f"M{middle - w / 2:.1f},{low} h{w:.1f} v{-h:.1f} h{-w:.1f} Z")
    rig.path("d-steel", f"M{middle - 130},{low} h260 v18 h-260 Z M{middle - 130},{low - h:.1f} h260 v-18 h-260 Z")  # fmt: skip
    rig.arrow(middle, low - h - 70, middle, low - h - 24)
    rig.text(middle + 14, low - h - 44, _speed_words(facts), "start")
    rig.text(middle + w / 2 + 14, low - h / 2 + 5, f"{number(height, '.4g')} mm high", "start")
    strain = facts.get("set_strain")
    if strain:
        y = low - h * (1 - strain)
        rig.path("d-ghost", f"M{middle - w / 2 - 40:.1f},{y:.1f} h{w + 80:.1f}")
        rig.text(middle - w / 2 - 46, y + 5, f"to {number(strain * 100, '.3g')} %", "end")


def _pendulum(rig: DrawnRig, bar: SpecimenType, facts: Facts) -> None:
    arm = facts.get("hammer_arm", 0.35)
    start, free = facts.get("start_angle"), facts.get("free_end_angle")
    scale, px, py = 130.0 / max(arm, 0.05), WIDE / 2, 116.0
    reach = arm * scale * 0.86

    def at(angle: float, side: int) -> tuple[float, float]:
        return px + side * reach * sin(angle), py + reach * cos(angle)

    rig.path("d-steel", f"M{px - 10},{py - 10} h20 v20 h-20 Z")
    if start is not None:
        x, y = at(start, -1)
        rig.path("d-ghost", f"M{px},{py} L{x:.1f},{y:.1f}")
        rig.path("d-steel", _circle(x, y, 15))
        rig.text(x - 22, y + 5, f"{number(degrees(start), '.4g')}°", "end")
        strike = sqrt(2 * _GRAVITY * arm * (1 - cos(start)))
        rig.text(px + 30, py + reach + 34, f"strikes at {number(strike, '.3g')} m/s", "start")
    if free is not None:
        x, y = at(free, 1)
        rig.path("d-ghost", f"M{px},{py} L{x:.1f},{y:.1f}")
        rig.text(x + 8, y + 5, f"free to {number(degrees(free), '.4g')}°", "start")
    rig.path("d-steel", f"M{px - 3},{py} h6 V{py + reach - 14:.1f} h-6 Z")
    rig.path("d-steel", _circle(px, py + reach, 17))
    side = max(bar.box[2] * 2.2, 8)
    rig.path("d-bar", f"M{px + 17},{py + reach - side / 2:.1f} h{side:.1f} v{side:.1f} h{-side:.1f} Z")  # fmt: skip
    rig.text(px - 24, py + reach / 2, f"arm {number(arm * 1e3, '.4g')} mm", "end")
    if facts.get("hammer_mass"):
        rig.text(px - 24, py + reach + 6, f"{number(facts['hammer_mass'], '.3g')} kg", "end")


def _twisted(rig: DrawnRig, bar: SpecimenType, facts: Facts) -> None:
    _pulled_shape(rig, bar)
    long = facts.get("length", 0.0) * 1e3
    scale = min(440.0 / bar.overall, 120.0 / bar.wide)
    left = WIDE / 2 - bar.overall * scale / 2
    x = left + bar.overall * scale + 26
    rig.path("d-arrow", f"M{x:.1f},108 a26,34 0 1 1 0,64 M{x + 10:.1f},160 L{x:.1f},172 l14,4")
    if long:
        a, b = left + (bar.overall - long) / 2 * scale, left + (bar.overall + long) / 2 * scale
        rig.across(a, b, _FLOOR, f"twisted over {number(long, '.4g')} mm")


def _pulled_shape(rig: DrawnRig, bar: SpecimenType) -> None:
    scale = min(440.0 / bar.overall, 120.0 / bar.wide)
    left, middle = WIDE / 2 - bar.overall * scale / 2, 140.0
    points = " L".join(f"{left + y * scale:.1f},{middle - x * scale:.1f}" for x, y in bar.outline)
    rig.path("d-bar", f"M{points} Z")


def _sheared(rig: DrawnRig, bar: SpecimenType, facts: Facts) -> None:
    deep = bar.sizes.get("diameter", 6.0) * 8
    middle, y = WIDE / 2, 150.0
    rig.path("d-bar", f"M{middle - 150},{y - deep / 2:.1f} h300 v{deep:.1f} h-300 Z")
    for x, top, wide in ((-120, -70, 60), (60, -70, 60), (-55, -90, 110)):
        rig.path("d-steel d-grip", f"M{middle + x},{y + top} h{wide} v160 h{-wide} Z")
    rig.path("d-ghost", f"M{middle - 57},{y - 60} v120 M{middle + 57},{y - 60} v120")
    rig.arrow(middle, y - 130, middle, y - 94)
    rig.text(middle + 14, y - 110, _speed_words(facts), "start")
    rig.text(middle, _FLOOR + 40, "cut at two sections")


def _loaded(rig: DrawnRig, bar: SpecimenType, facts: Facts) -> None:
    """The specimen as it is, for what has no rig of its own to draw."""
    _pulled_shape(rig, bar)
    scale = min(440.0 / bar.overall, 120.0 / bar.wide)
    left = WIDE / 2 - bar.overall * scale / 2
    rig.across(left, left + bar.overall * scale, _FLOOR, f"{number(bar.overall, '.4g')} mm")
    if facts.get("speed"):
        rig.text(WIDE / 2, 40, _speed_words(facts))


_RIGS: dict[str, Callable[[DrawnRig, SpecimenType, Facts], None]] = {
    "three_point": _bend,
    "ladder": _bend,
    "creep": _bend,
    "heat": _bend,
    "cantilever": _cantilever,
    "tension_bar": _pulled,
    "hook": _loaded,
    "press": _press,
    "pendulum": _pendulum,
    "rod": _twisted,
    "shear_pin": _sheared,
}


def time_line(times: Sequence[float]) -> list[tuple[float, str]]:
    """Reading times on a line of 540 units: equal steps are equal factors of time."""
    if not times:
        return []
    low, high = max(min(t for t in times if t >= 0), 0.5), max(max(times), 1.0)
    span = log10(high / low) or 1.0
    return [(round(30 + 500 * log10(max(t, low) / low) / span, 1), time_words(t)) for t in times]
