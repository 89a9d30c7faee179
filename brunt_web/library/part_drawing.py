"""A custom part from three sides on one sheet, with its dimensions and what is marked on it."""

from collections.abc import Mapping, Sequence
from math import hypot
from typing import Any

from brunt_core.parts.views import VIEWS, frame
from brunt_core.quantities.rendering import number

_HEADS = {"above": "from above", "side": "from the side", "end": "from its end"}
_AXIS = {"x": 0, "y": 1, "z": 2}


def sheet(facts: Mapping[str, Any], views: Mapping[str, Any], sizes: Mapping[str, float]) -> dict[str, Any]:  # fmt: skip
    """The drawing: views placed on a sheet in mm, y down, their marks, and the sheet's box."""
    long, wide, high = sizes["overall"], sizes["width"], sizes["thickness"]
    size = max(long + wide, (wide + high) * 1.35, 20.0) / 30
    gap = size * 6
    # Where each view's own (0, 0) lies: right runs right, up runs up.
    places = {
        "above": (0.0, wide / 2),
        "side": (0.0, wide + gap + high),
        "end": (long + gap + wide / 2, wide + gap + high),
    }
    drawn = [_view(k, views[k], places[k], facts, size) for k in VIEWS]
    pad = size * 4.5
    box = (-pad, -pad, long + gap + wide + 2 * pad, wide + gap + high + 2 * pad)
    return {
        "views": drawn,
        "box": box,
        "size": size,
        "dimensions": _dimensions(long, wide, high, gap, size),
    }


def side_view(
    facts: Mapping[str, Any], views: Mapping[str, Any], sizes: Mapping[str, float]
) -> dict[str, Any]:
    """The view from the side alone, with its load and places: for the bench."""
    size = max(sizes["overall"], sizes["thickness"] * 1.6) / 30
    drawn = _view("side", views["side"], (0.0, 0.0), facts, size)
    left, low, right, high = views["side"]["box"]
    pad = size * 7
    box = (left - pad, -high - pad, right - left + 2 * pad, high - low + 2 * pad)
    return drawn | {"box": box, "size": size}


def _view(
    key: str,
    kept: Mapping[str, Any],
    at: tuple[float, float],
    facts: Mapping[str, Any],
    size: float,
) -> dict[str, Any]:
    box = kept["box"]
    return {
        "key": key,
        "head": _HEADS[key],
        "x": at[0],
        "y": at[1],
        "axes": [VIEWS[key][0], VIEWS[key][1]],
        "path": " ".join(_closed(o) for o in kept["outlines"]),
        "edges": " ".join(
            f"M{a[0]:.3f},{-a[1]:.3f} L{b[0]:.3f},{-b[1]:.3f}" for a, b in kept["edges"]
        ),  # fmt: skip
        "press": (box[0], -box[3], box[2] - box[0], box[3] - box[1]),
        "title_x": box[0],
        "title_y": -box[3] - size * 1.2,
        "load": _load(key, facts.get("load"), size),
        "section": _section(key, facts.get("section"), box, size),
        "places": [
            {
                "x": p[0],
                "y": -p[1],
                "letter": one["letter"] or "·",
                "label": one["label"],
                "key": one["key"],
            }
            for one in facts.get("places", [])
            for p in [_seen(key, one["point"])]
        ],
    }


def _closed(loop: Sequence[Sequence[float]]) -> str:
    return "M" + " L".join(f"{x:.3f},{-y:.3f}" for x, y in loop) + " Z"


def _seen(key: str, point: Sequence[float]) -> tuple[float, float]:
    right, up, _ = frame(key)
    return float(right @ point), float(up @ point)


def _load(key: str, load: Mapping[str, Any] | None, size: float) -> dict[str, Any] | None:
    """An arrow that ends at the point when it pushes in, and a dot where it runs along the eye."""
    if not load:
        return None
    x, y = _seen(key, load["point"])
    dx, dy = _seen(key, load["direction"])
    long = hypot(*load["direction"])
    dx, dy = dx / long, dy / long
    reach = size * 6
    return {
        "x": x,
        "y": -y,
        "to_x": x + dx * reach,
        "to_y": -(y + dy * reach),
        "flat": hypot(dx, dy) > 0.15,
        "head": _head(x + dx * reach, -(y + dy * reach), dx, -dy, size),
        "radius": size * 0.7,
    }


def _head(x: float, y: float, dx: float, dy: float, size: float) -> str:
    back, half = size * 1.8, size * 0.7
    return (
        f"{x:.3f},{y:.3f} {x - dx * back - dy * half:.3f},{y - dy * back + dx * half:.3f} "
        f"{x - dx * back + dy * half:.3f},{y - dy * back - dx * half:.3f}"
    )


def _section(
    key: str, section: Mapping[str, Any] | None, box: Sequence[float], size: float
) -> dict[str, float] | None:
    """The cut as a line across the views that see it from its edge."""
    if not section:
        return None
    right, up = VIEWS[key][0], VIEWS[key][1]
    at, over = section["at"], size * 0.8
    if section["axis"] == right:
        return {"x1": at, "x2": at, "y1": -box[3] - over, "y2": -box[1] + over}
    if section["axis"] == up:
        return {"x1": box[0] - over, "x2": box[2] + over, "y1": -at, "y2": -at}
    return None


def _dimensions(long: float, wide: float, high: float, gap: float, size: float) -> list[dict[str, Any]]:  # fmt: skip
    """Length below the side view, width beside the view from above, height beside the end view."""
    low = wide + gap + high
    tick, off = size * 0.6, size * 2.6
    right = long + gap + wide
    return [
        {
            "path": f"M0,{low + off} H{long} M0,{low + off - tick} v{2 * tick} M{long},{low + off - tick} v{2 * tick}",
            "x": long / 2,
            "y": low + off - size * 0.6,
            "label": number(long, ".4g"),
        },
        {
            "path": f"M{-off},0 V{wide} M{-off - tick},0 h{2 * tick} M{-off - tick},{wide} h{2 * tick}",
            "x": -off - size * 1.8,
            "y": wide / 2 + size * 0.5,
            "label": number(wide, ".4g"),
        },
        {
            "path": f"M{right + off},{wide + gap} V{low} M{right + off - tick},{wide + gap} h{2 * tick} M{right + off - tick},{low} h{2 * tick}",
            "x": right + off + size * 1.9,
            "y": wide + gap + high / 2 + size * 0.5,
            "label": number(high, ".4g"),
        },
    ]


def rest_pictures(faces: Sequence[Mapping[str, Any]]) -> list[dict[str, Any]]:
    """Each face it can rest on, drawn as the part then stands on the plate, all to one scale."""
    reach = max((max(f["box"][2] - f["box"][0], f["height"]) for f in faces), default=1.0)
    return [
        {
            "index": i,
            "path": " ".join(_closed(o) for o in f["outlines"]),
            "box": f"{(f['box'][0] + f['box'][2]) / 2 - reach * 0.55:.2f} {-reach * 1.02:.2f} {reach * 1.1:.2f} {reach * 1.1:.2f}",
            "plate": f"M{(f['box'][0] + f['box'][2]) / 2 - reach * 0.52:.2f},0 h{reach * 1.04:.2f}",
            "contact": f["contact"],
            "height": f["height"],
            "overhang": f["overhang"],
        }
        for i, f in enumerate(faces)
    ]


def section_picture(section: Mapping[str, Any]) -> dict[str, Any]:
    """The cut as it is seen along its axis."""
    loops = section.get("outlines") or []
    xs = [x for loop in loops for x, _ in loop]
    ys = [y for loop in loops for _, y in loop]
    wide, high = max(xs) - min(xs), max(ys) - min(ys)
    pad = max(wide, high) * 0.08
    return {
        "path": " ".join(_closed(o) for o in loops),
        "box": f"{min(xs) - pad:.2f} {-max(ys) - pad:.2f} {wide + 2 * pad:.2f} {high + 2 * pad:.2f}",
        "wide": wide,
        "high": high,
    }
