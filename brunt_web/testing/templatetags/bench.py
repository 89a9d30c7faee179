"""The bench drawing of a bar in its grips, to scale from the core's geometry."""

from django import template

from brunt_core.specimens.parting import parted
from brunt_core.specimens.types import SpecimenType

register = template.Library()
_TOP, _BOTTOM, _CENTRE = 34.0, 366.0, 255.0


@register.filter
def bench_drawing(procedure) -> dict:
    """Outline, layer lines, halves for each break place, and the zones to press."""
    return _drawing(
        procedure.geometry,
        procedure.orientation,
        tuple((p.key, p.label, p.letter, p.at) for p in procedure.method.places),
    )


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
