"""What bench drawings are made with: outlines to scale, bent beams, swings, twists."""

from collections.abc import Callable, Mapping, Sequence
from math import cos, log, pi, sin
from textwrap import wrap
from typing import Any, Protocol

from django import template

from brunt_core.computation import ComputedResult
from brunt_core.mechanics.beams import beam_curve
from brunt_core.mechanics.picture import Measured
from brunt_core.methods.base import Input
from brunt_core.methods.judgement import words_of_scale
from brunt_core.quantities.rendering import number, time_words
from brunt_core.quantities.series import SeriesRow
from brunt_core.specimens.parting import parted
from brunt_core.specimens.types import SpecimenType
from brunt_web.campaigns.models import Turn
from brunt_web.interface.templatetags.brunt import DrawnTest
from brunt_web.library.models import PartMesh, Procedure
from brunt_web.library.part_drawing import side_view
from brunt_web.testing.course import Course
from brunt_web.testing.models import PictureReading
from brunt_web.testing.pictured import said

register = template.Library()


class Stood(DrawnTest, Protocol):
    """What is tested, with how it stood on the plate."""

    @property
    def orientation(self) -> str:
        """Flat, on edge, upright …"""


_TOP, _BOTTOM, _CENTRE = 34.0, 366.0, 255.0


@register.filter
def scale_steps(procedure: Procedure, result: ComputedResult | None) -> list[dict[str, object]]:
    """The words of a scale with their heights in the drawing, the best on top, and where it is."""
    words = words_of_scale(procedure.parameters.get("scale", "")) if procedure.parameters else []
    here = round(result.observation.anchor) if result else 0
    gap = 290.0 / max(len(words) - 1, 1)
    return [
        {"place": i, "word": w[:44], "y": round(360 - (i - 1) * gap, 1), "here": i == here}
        for i, w in enumerate(words, 1)
    ]


@register.filter
def scale_words(procedure: Procedure) -> list[str]:
    """The words of its scale, worst first; none where it has no scale."""
    scale = procedure.parameters.get("scale", "")
    return words_of_scale(scale) if procedure.ranked_property.ordinal and scale else []


@register.filter
def taken_from(spec: Input, procedure: Procedure) -> str:
    """Where a number comes from that was not read of the specimen."""
    if spec.daily:
        return "of the day"
    return "as of the batch" if procedure.sizes == "batch" else "nominal"


@register.filter
def taken_by_key(key: str, procedure: Procedure) -> str:
    """The same for an input's key, in a list of readings."""
    spec = procedure.method.input(key)
    words = taken_from(spec, procedure)
    return words if spec.daily else f"{words}, not measured"


@register.simple_tag
def own_part(turn: Turn) -> dict[str, Any] | None:
    """A custom part from the side, its load and its places; nothing for another specimen."""
    geometry = turn.geometry
    if geometry.part is None:
        return None
    kept = PartMesh.objects.filter(variant=int(geometry.key.removeprefix("own-"))).values_list("views", "variant__part")  # fmt: skip
    views, facts = kept.first() or ({}, None)
    return side_view(facts, views, geometry.sizes) if facts and "side" in views else None


@register.filter
def wrapped(text: str, width: int = 30) -> list[str]:
    """A text in lines of at most so many characters, six at most, for a drawing."""
    return wrap(text, width, max_lines=6, placeholder=" …")


@register.filter
def bench_drawing(procedure: Stood) -> dict[str, object]:
    """Outline, layer lines, halves for each break place, and the zones to press."""
    places = tuple((p.key, p.label, p.letter, p.at) for p in procedure.method.places)
    return _drawing(procedure.geometry, procedure.orientation, places)


def _drawing(
    bar: SpecimenType, orientation: str, places: tuple[tuple[str, str, str, float], ...]
) -> dict[str, object]:
    scale = (_BOTTOM - _TOP) / bar.overall
    wide = scale * 1.5

    def place(points: Sequence[tuple[float, float]]) -> str:
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
    bar: SpecimenType, orientation: str, scale: float, wide: float
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
def small_outline(procedure: DrawnTest) -> dict[str, object]:
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


_PIVOT, _SWING = (310.0, 190.0), 150.0


@register.simple_tag
def pendulum(values: Mapping[str, float]) -> dict[str, object]:
    """The swing: where it started, ends and would end freely, the arcs between, heights in mm."""
    start, end = values.get("start_angle"), values.get("end_angle")
    free, reach = values.get("free_end_angle"), values.get("hammer_arm")
    return {
        "ticks": [_mark(sign * k * pi / 6) for k in range(1, 5) for sign in (-1, 1)],
        "start": _raised(-start, reach) if start else None,
        "end": _raised(end, reach) if end is not None else None,
        "free": _raised(free, None) if free else None,
        "down": _arc(-start, 0.0) if start else "",
        "up": _arc(0.0, end) if end else "",
        "beyond": _arc(end or 0.0, free) if free and free > (end or 0.0) else "",
        "turn": round(-(end or 0.0) * 180 / pi, 2),
    }


def _on_swing(angle: float, radius: float = _SWING) -> tuple[float, float]:
    """A point of the swing, the angle in rad from straight down, to the right above zero."""
    return _PIVOT[0] + radius * sin(angle), _PIVOT[1] + radius * cos(angle)


def _mark(angle: float) -> dict[str, object]:
    (x0, y0), (x1, y1) = _on_swing(angle, _SWING + 4), _on_swing(angle, _SWING + 12)
    x, y = _on_swing(angle, _SWING + 26)
    path = f"M{x0:.1f},{y0:.1f} L{x1:.1f},{y1:.1f}"
    return {
        "path": path,
        "x": round(x, 1),
        "y": round(y + 4, 1),
        "label": f"{abs(angle) * 180 / pi:.0f}°",
    }


def _raised(angle: float, reach: float | None) -> dict[str, object]:
    x, y = _on_swing(angle)
    lowest = _PIVOT[1] + _SWING
    high = f"{reach * (1 - cos(angle)) * 1e3:.0f} mm" if reach else ""
    return {
        "x": round(x, 1),
        "y": round(y, 1),
        "middle": round((y + lowest) / 2, 1),
        "height": high,
        "label": f"{number(abs(angle) * 180 / pi, '.4g')}°",
    }


def _arc(start: float, end: float) -> str:
    points = (_on_swing(start + (end - start) * k / 30) for k in range(31))
    return "M" + " L".join(f"{x:.1f},{y:.1f}" for x, y in points)


@register.simple_tag
def dialhand(value: float | str, full: float | str) -> dict[str, object]:
    """A hand on a half dial whose full swing is nine tenths of it, and the part of the swing lost."""
    share = min(float(value) / float(full), 1.1) if full else 0.0

    def at(part: float, radius: float) -> str:
        angle = pi * (1 - 0.9 * part)
        return f"{290 + radius * cos(angle):.1f},{310 - radius * sin(angle):.1f}"

    x, y = at(share, 165).split(",")
    lost = " L".join(at(share + (1 - share) * k / 20, 150) for k in range(21))
    return {"x": float(x), "y": float(y), "lost": f"M{lost}"}


@register.simple_tag
def bent(kind: str, left: float, right: float, y: float, sag: float | str) -> str:
    """The line of a bar bent by a load: ``three-point`` at its middle, ``cantilever`` at its end."""
    sag, width = float(sag or 0.0), right - left
    if kind == "cantilever":
        shape = [(k / 40, (k / 40) ** 2 * (3 - k / 40) / 2 * sag) for k in range(41)]
    else:
        shape = beam_curve(0.5, sag, 41)
    return "M" + " L".join(f"{left + u * width:.1f},{y + w:.1f}" for u, w in shape)


@register.simple_tag
def sagging(
    value: float | str, most: float = 70.0, full: float | None = None
) -> dict[str, float | str]:
    """How far to draw a deflection so that it can be seen, and the sentence that says so.

    ``full`` in m is drawn as ``most``; without it the deflection itself, times what fits.
    """
    value = abs(float(value or 0.0))
    if not value:
        return {"px": 0.0, "says": ""}
    times = next((n for n in (1, 2, 5, 10, 20, 50) if value * 4000 * n >= 12), 50)
    px = min(value * 4000 * times, most) if full is None else min(value / full * most, most)
    says = f"deflection drawn {times} times its size" if times > 1 else "deflection drawn to scale"
    return {"px": round(px, 1), "says": says}


@register.simple_tag
def twisted(left: float, right: float, y: float, half: float, angle: float | str) -> list[str]:
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
def stretch(value: float | str, full: float, most: float) -> float:
    """A length to draw for a value: ``most`` for ``full``, never beyond."""
    return round(min(abs(float(value or 0.0)) / full, 1.0) * most, 1)


@register.simple_tag
def tallest(rows: Sequence[SeriesRow]) -> float:
    """The greatest place of a series; one where there is none."""
    return max((r.at[0] for r in rows or ()), default=1.0) or 1.0


@register.simple_tag
def plotted(
    rows: Sequence[SeriesRow],
    width: float,
    height: float,
    part: int = 0,
    course: Course | None = None,
) -> dict[str, object]:
    """Points of a series in a field: x by time, or by order where a row has no such part; y by value.

    Times that span more than fifty-fold are drawn on a logarithm; ``scale`` says so. ``course`` adds
    the times that are due and what the siblings read; the field then holds them all.
    """
    times = [r.at[part] if len(r.at) > part else float(i) for i, r in enumerate(rows or ())]
    lines = course.beside if course else {}
    dues = course.dues if course else []
    every = [*times, *dues, *(t for ps in lines.values() for t, _ in ps)]
    across, wide = _over_time(every, width, bool(course))
    up = _over(
        [*(r.value for r in rows or ()), *(v for ps in lines.values() for _, v in ps)], height
    )
    points = [
        {
            "x": across(t),
            "y": round(height - up(r.value), 1),
            "text": r.text,
            "value": r.value,
            "time": time_words(t, 2),
        }
        for r, t in zip(rows or (), times, strict=True)
    ]
    scale = "reading over the logarithm of time" if wide else "reading over time"
    return {
        "points": points,
        "line": _through([(p["x"], p["y"]) for p in points]),
        "scale": scale if every else "",
        "dues": [{"x": across(t), "time": time_words(t, 2) if t else "at once"} for t in dues],
        "beside": [
            (code, _through([(across(t), round(height - up(v), 1)) for t, v in ps]))
            for code, ps in lines.items()
        ],
    }


def _through(points: list[tuple[Any, Any]]) -> str:
    """A line through points; nothing through one."""
    return "M" + " L".join(f"{x},{y}" for x, y in points) if len(points) > 1 else ""


def _over(values: list[float], size: float) -> Callable[[float], float]:
    """Where a value lies between 0 and ``size``."""
    low, high = min(values, default=0.0), max(values, default=0.0)
    wide = (high - low) or 1.0
    return lambda v: round((v - low) / wide * size, 1)


def _over_time(
    times: list[float], width: float, with_dues: bool
) -> tuple[Callable[[float], float], bool]:
    """Where a time lies, and whether on a logarithm; "at once" then stands a third below the first."""
    later = [t for t in times if t > 0]
    wide = bool(later) and max(later) / min(later) > 50 and (with_dues or min(times) > 0)
    if not wide:
        return _over(times, width), False
    least = min(later) / 3 if min(times) <= 0 else min(later)
    place = _over([log(least), log(max(later))], width)
    return lambda t: place(log(max(t, least))), True


@register.simple_tag
def grown(rows: Sequence[SeriesRow], most: float) -> float:
    """How far to draw a sag for the last of a series: a start, and the growth since the first."""
    if not rows:
        return 0.0
    first, last = abs(rows[0].value), abs(rows[-1].value)
    share = min(last / first - 1, 1.0) if first else 0.0
    return round(most * (0.3 + 0.7 * max(share, 0.0)), 1)


@register.filter
def picked(reading: PictureReading) -> str:
    """A reading from a picture with its uncertainty."""
    if reading.value is None:
        return ""
    return said(reading.kind, Measured(reading.value, reading.uncertainty or 0.0))
