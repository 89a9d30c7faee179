"""What bench drawings are made with: outlines to scale, bent beams, swings, twists."""

from math import cos, pi, sin

from django import template

from brunt_core.mechanics.beams import beam_curve
from brunt_core.specimens.parting import parted
from brunt_core.specimens.types import SpecimenType

register = template.Library()
_TOP, _BOTTOM, _CENTRE = 34.0, 366.0, 255.0


@register.filter
def bench_drawing(procedure) -> dict:
    """Outline, layer lines, halves for each break place, and the zones to press."""
    places = tuple((p.key, p.label, p.letter, p.at) for p in procedure.method.places)
    return _drawing(procedure.geometry, procedure.orientation, places)


def _drawing(bar: SpecimenType, orientation: str, places: tuple) -> dict:
    scale = (_BOTTOM - _TOP) / bar.overall
    wide = scale * 1.5

    def place(points) -> str:
        return " ".join(f"{_CENTRE + x * wide:.1f},{_BOTTOM - y * scale:.1f}" for x, y in points)

    height = (_BOTTOM - _TOP) / len(places)
    order = sorted(places, key=lambda p: -p[3])
    zones = [
        {
            "key": key,
            "label": label,
            "letter": letter,
            "y": round(_TOP + i * height, 1),
            "height": round(height, 1),
            "middle": round(_BOTTOM - at * (_BOTTOM - _TOP)),
        }
        for i, (key, label, letter, at) in enumerate(order)
    ]
    halves = [
        {
            "key": key,
            "low": place(parted(bar.outline, at)[0]),
            "high": place(parted(bar.outline, at)[1]),
        }
        for key, _, _, at in places
    ]
    return {
        "whole": place(bar.outline),
        "halves": halves,
        "zones": zones,
        "layers": _layers(bar, orientation, scale, wide),
    }


def _layers(
    bar, orientation: str, scale: float, wide: float
) -> list[tuple[float, float, float, float]]:
    """Lines across for an upright print, along for a flat one."""
    narrow, parallel = (
        bar.sizes.get("narrow", bar.wide),
        bar.sizes.get("parallel", bar.overall * 0.6),
    )
    half = narrow / 2 * wide
    low, high = (bar.overall - parallel) / 2, (bar.overall + parallel) / 2
    if orientation == "upright":
        ys = [_BOTTOM - (low + (high - low) * k / 14) * scale for k in range(15)]
        return [
            (round(_CENTRE - half, 1), round(_CENTRE + half, 1), round(y, 1), round(y, 1))
            for y in ys
        ]
    xs = [_CENTRE - half + 2 * half * k / 5 for k in range(1, 5)]
    return [
        (
            round(x, 1),
            round(x, 1),
            round(_BOTTOM - high * scale, 1),
            round(_BOTTOM - low * scale, 1),
        )
        for x in xs
    ]


@register.filter
def small_outline(procedure) -> dict:
    """The specimen's own outline, standing, with the zones of its break places; 170 by 340."""
    bar, places = procedure.geometry, procedure.method.places
    scale = min(300.0 / bar.overall, 46.0 / bar.wide)
    low = 20 + (300 + scale * bar.overall) / 2
    points = " ".join(f"{40 + x * scale:.1f},{low - y * scale:.1f}" for x, y in bar.outline)
    order = sorted(places, key=lambda p: -p.at)
    step = 300 / max(len(order), 1)
    zones = [
        {
            "key": p.key,
            "label": p.label,
            "letter": p.letter,
            "y": round(20 + i * step, 1),
            "height": round(step, 1),
            "at": round(low - p.at * scale * bar.overall, 1),
            "text": round(20 + (i + 0.5) * step, 1),
        }
        for i, p in enumerate(order)
    ]
    return {"points": points, "zones": zones}


@register.simple_tag
def polar(cx: float, cy: float, radius: float, angle, mirror: int = 1) -> dict:
    """A point on a circle, the angle in rad from straight down."""
    angle = float(angle or 0.0)
    return {
        "x": round(cx + mirror * radius * sin(angle), 1),
        "y": round(cy + radius * cos(angle), 1),
        "degrees": round(angle * 180 / pi, 2),
    }


@register.simple_tag
def arc(cx: float, cy: float, radius: float, start, end) -> str:
    """The path of a swing from ``start`` on one side to ``end`` on the other, rad from straight down."""
    start, end = float(start or 0.0), float(end or 0.0)
    pairs = [
        (cx + radius * sin(a), cy + radius * cos(a))
        for a in (-start + (start + end) * k / 40 for k in range(41))
    ]
    return "M" + " L".join(f"{x:.1f},{y:.1f}" for x, y in pairs)


@register.simple_tag
def bent(kind: str, left: float, right: float, y: float, sag) -> str:
    """The line of a bar bent by a load: ``three-point`` at its middle, ``cantilever`` at its end."""
    sag, width = float(sag or 0.0), right - left
    if kind == "cantilever":
        shape = [(k / 40, (k / 40) ** 2 * (3 - k / 40) / 2 * sag) for k in range(41)]
    else:
        shape = beam_curve(0.5, sag, 41)
    return "M" + " L".join(f"{left + u * width:.1f},{y + w:.1f}" for u, w in shape)


@register.simple_tag
def sagging(value, most: float = 70.0, full=None) -> dict:
    """How far to draw a deflection so that it can be seen, and the sentence that says so.

    ``full`` in m is drawn as ``most``; without it the deflection itself, times what fits.
    """
    value = abs(float(value or 0.0))
    if not value:
        return {"px": 0.0, "says": ""}
    times = next((n for n in (1, 2, 5, 10, 20, 50) if value * 4000 * n >= 12), 50)
    px = min(value * 4000 * times, most) if full is None else min(value / full * most, most)
    return {"px": round(px, 1), "says": f"deflection drawn {times} times" if times > 1 else ""}


@register.simple_tag
def twisted(left: float, right: float, y: float, half: float, angle) -> list[str]:
    """Lines once straight along a rod, wound by a twist of ``angle`` rad at its right end."""
    angle = float(angle or 0.0)
    lines = []
    for k in range(6):
        turn = 2 * pi * k / 6
        points = [(left + (right - left) * u / 30, turn + angle * u / 30) for u in range(31)]
        seen = [(x, y + half * sin(a)) for x, a in points if cos(a) > -0.05]
        if len(seen) > 1:
            lines.append("M" + " L".join(f"{x:.1f},{v:.1f}" for x, v in seen))
    return lines


@register.simple_tag
def stretch(value, full: float, most: float) -> float:
    """A length to draw for a value: ``most`` for ``full``, never beyond."""
    return round(min(abs(float(value or 0.0)) / full, 1.0) * most, 1)


@register.simple_tag
def plotted(rows, width: float, height: float, part: int = 0) -> dict:
    """Points of a series in a field: x by place in the series or by time, y by value."""
    if not rows:
        return {"points": [], "line": ""}
    values = [r.value for r in rows]
    times = [r.at[part] if len(r.at) > part else i for i, r in enumerate(rows)]
    low, high = min(values), max(values)
    first, last = min(times), max(times)
    points = [
        {
            "x": round((t - first) / ((last - first) or 1) * width, 1),
            "y": round(height - (v - low) / ((high - low) or 1) * height, 1),
            "text": r.text,
            "value": v,
        }
        for t, v, r in zip(times, values, rows, strict=True)
    ]
    return {
        "points": points,
        "line": "M" + " L".join(f"{p['x']},{p['y']}" for p in points) if len(points) > 1 else "",
    }
