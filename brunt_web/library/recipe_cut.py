"""A recipe as a cut through a specimen, its heat and air on one scale, and what a change comes to."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from math import cos, radians, sin
from typing import Any

from brunt_core.printing.cut import Cut, cut_across, pattern_angle
from brunt_core.printing.recipes import FIELDS
from brunt_core.printing.resolved import setting_text, values
from brunt_core.specimens.types import SpecimenType
from brunt_web.library.models import Material
from brunt_web.library.recipe_change import RecipeChange, cycle_drawing, heat, version_changes

Settings = Mapping[str, Mapping[str, Any]]

# Where each field stands about the cut; what is not named here stands below it, in the order of work.
AROUND: dict[str, dict[str, tuple[str, ...]]] = {
    "filament": {
        "above": ("walls", "nozzle_temperature", "nozzle_size", "speed", "flow"),
        "left": ("top_layers", "layer_height", "first_layer_height", "bottom_layers"),
        "right": ("cooling", "infill", "infill_pattern", "line_width"),
        "below": ("bed_temperature", "bed_surface", "adhesive"),
    },
    "resin": {
        "above": ("lift_speed", "lift_distance", "retract_speed", "lift_stages"),
        "left": ("layer_height", "bottom_layers"),
        "right": ("exposure", "bottom_exposure", "rest_before_exposure"),
        "below": ("resin_temperature",),
    },
}
# Which part of the drawing a field acts on.
ACTS = {
    "walls": "wall",
    "top_layers": "top",
    "bottom_layers": "bottom",
    "infill": "infill",
    "infill_pattern": "infill",
    "layer_height": "layer",
    "first_layer_height": "first",
    "line_width": "line",
    "nozzle_size": "nozzle",
    "nozzle_temperature": "nozzle",
    "nozzle_material": "nozzle",
    "speed": "nozzle",
    "flow": "nozzle",
    "pressure_advance": "nozzle",
    "cooling": "fan",
    "bed_temperature": "bed",
    "bed_surface": "bed",
    "adhesive": "bed",
    "exposure": "light",
    "bottom_exposure": "bottom",
    "lift_speed": "lift",
    "retract_speed": "lift",
    "lift_distance": "lift",
}
# A step of an arrow key in the field's own unit.
STEPS = {
    "walls": 1,
    "top_layers": 1,
    "bottom_layers": 1,
    "infill": 5,
    "layer_height": 0.02,
    "first_layer_height": 0.02,
    "line_width": 0.02,
    "nozzle_temperature": 5,
    "bed_temperature": 5,
    "chamber_temperature": 5,
    "cooling": 5,
    "speed": 5,
    "flow": 1,
    "nozzle_size": 0.1,
    "pressure_advance": 0.005,
    "exposure": 0.1,
    "bottom_exposure": 1,
    "rest_before_exposure": 0.5,
    "lift_speed": 5,
    "lift_distance": 0.5,
    "retract_speed": 5,
}
_ON = {"bend-80": "bending bar", "tension-1b": "tension bar", "tension-1ba": "small tension bar"}


@dataclass
class DrawnSection:
    """All that is drawn of a recipe; lengths of the drawing in units of it."""

    kind: str
    cut: dict[str, Any] | None
    plan: dict[str, Any] | None
    heat: dict[str, Any] | None
    cycle: dict[str, Any] | None
    changes: list[RecipeChange]
    remarks: list[str] = field(default_factory=list)
    was: dict[str, str] = field(default_factory=dict)


def drawn_cut(
    kind: str,
    settings: Settings,
    other: Settings | None,
    geometry: SpecimenType,
    material: Material | None,
) -> DrawnSection:
    """A recipe drawn beside another version of it, on a specimen's section."""
    now, then = values(settings), values(other or {})
    width, height = _section(geometry)
    result = DrawnSection(kind, None, None, None, None, version_changes(kind, now, then if other else None, geometry, material))  # fmt: skip
    if other is not None:
        result.was = {
            k: setting_text(other, k)
            for k in FIELDS[kind]
            if setting_text(other, k) != setting_text(settings, k)
        }
    if kind == "resin":
        result.cycle = cycle_drawing(now, then if other else None, height)
        result.cut = _resin_cut(now, width, height)
        return result
    pattern = setting_text(settings, "infill_pattern")
    found = cut_across(now, pattern, width, height)
    before = cut_across(then, setting_text(other or {}, "infill_pattern"), width, height) if other else None  # fmt: skip
    if found:
        result.cut = _drawing(found, found.changed_from(before), settings)
        result.plan = _plan(now, pattern, width)
        result.remarks = list(found.remarks)
    result.heat = heat(now, then if other else None, material)
    return result


def _section(geometry: SpecimenType) -> tuple[float, float]:
    nominal = geometry.nominal
    return nominal.get("width", 10.0), nominal.get("thickness", 4.0)


def cut_specimens() -> list[tuple[str, str]]:
    """What a recipe can be cut through: keys and names."""
    return list(_ON.items())


# -- the cut ------------------------------------------------------------------------------------

_WIDE, _HIGH = 520.0, 210.0


def _drawing(cut: Cut, lit: set[int], settings: Settings) -> dict[str, Any]:
    """Beads as strokes with round ends, an edge below a body; y down, the bed at ``floor``."""
    scale = min(_WIDE / cut.width, _HIGH / max(cut.built, cut.height))
    floor, left = 96.0 + _HIGH, 60.0 + (_WIDE - cut.width * scale) / 2
    groups: dict[tuple[str, float], list[str]] = {}
    for i, b in enumerate(cut.beads):
        part = b.part if b.layer or b.part != "wall" else "wall first"
        x, y = left + (cut.width / 2 + b.x) * scale, floor - (b.z + b.height / 2) * scale
        wide, high = max(b.width * scale - 0.5, 0.4), max(b.height * scale - 0.4, 0.4)
        half = max((wide - high) / 2, 0.0)
        key = (f"bead b-{part}{' lit' if i in lit else ''}", round(min(high, wide), 1))
        groups.setdefault(key, []).append(f"M{x - half:.1f},{y:.1f}h{2 * half:.1f}")
    top = floor - cut.built * scale
    nozzle = left + cut.width * scale * 0.62
    return {
        "groups": [
            {
                "classes": classes,
                "line": "".join(steps),
                "edge": thick,
                "body": round(max(thick - 1.3, thick * 0.6), 1),
                "count": len(steps),
            }
            for (classes, thick), steps in groups.items()
        ],
        "left": left,
        "right": left + cut.width * scale,
        "top": top,
        "floor": floor,
        "width": cut.width,
        "height": cut.height,
        "layers": cut.layers,
        "walls": cut.walls,
        "asked": floor - cut.height * scale,
        "nozzle": _nozzle(nozzle, top, settings, scale),
        "brackets": _brackets(cut, scale, left, floor),
        "ruler": scale,
        "dots": len(lit) < 400,
    }


def _nozzle(x: float, top: float, settings: Settings, scale: float) -> dict[str, Any]:
    """The nozzle over the top layer, its hole to scale."""
    hole = max(((settings.get("nozzle_size") or {}).get("value") or 4e-4) * 1e3 * scale, 3.0)
    half = min(hole / 2, 24.0)
    tip = half + 5
    shoulder, throat = top - 34, top - 30
    outer = [(-30, top - 64), (30, top - 64), (30, shoulder), (tip, top - 2), (-tip, top - 2)]
    inner = [(-10, top - 64), (10, top - 64), (10, throat), (half, top - 12), (half, top - 2)]
    inner += [(-half, top - 2), (-half, top - 12), (-10, throat)]
    return {
        "x": x,
        "body": _corners(x, [*outer, (-30, shoulder)]),
        "hole": _corners(x, inner),
        "arrow": f"M{x + 44},{top - 44} h44 m-8,-4 l8,4 l-8,4",
    }


def _corners(x: float, points: list[tuple[float, float]]) -> str:
    return " ".join(f"{x + dx:.1f},{y:.1f}" for dx, y in points)


def _brackets(cut: Cut, scale: float, left: float, floor: float) -> dict[str, str]:
    """Spans of the top and bottom layers, one layer, and one side's walls."""
    found = {}
    for part, x in (("top", left - 10), ("bottom", left - 10)):
        zs = [b for b in cut.beads if b.part == part]
        if zs:
            low, high = min(b.z for b in zs), max(b.z + b.height for b in zs)
            found[part] = f"M{x + 6},{floor - high * scale:.1f} h-6 V{floor - low * scale:.1f} h6"
    walls = [b for b in cut.beads if b.part == "wall" and b.x < 0 and b.layer == cut.layers - 1]
    if walls:
        high = floor - cut.built * scale - 10
        end = left + (cut.width / 2 + max(b.x + b.width / 2 for b in walls)) * scale
        found["wall"] = f"M{left:.1f},{high + 6:.1f} v-6 H{end:.1f} v6"
    return found


def _plan(known: Mapping[str, float | None], pattern: str, width: float) -> dict[str, Any] | None:
    """A layer of the fill from above: walls along, and the lines between them."""
    line = (known.get("line_width") or 0) * 1e3
    share = known.get("infill")
    if not line or width <= 0:
        return None
    walls = min(int(known.get("walls") or 0), int(width / line / 2))
    scale = 96.0 / width
    inside = (width - 2 * walls * line) * scale
    spacing = line * scale / min(max(1.0 if share is None else share, 0.02), 1.0)
    angle = pattern_angle(pattern)
    edge = 96.0 / 2 - inside / 2
    lines = []
    if share is None or share > 0.001:
        across = abs(cos(radians(angle)))
        reach = 170.0 + inside / max(across, 0.2)
        count = int((reach * abs(sin(radians(angle))) + inside) / spacing) + 2
        for k in range(-count, count + 1):
            lines.append(_slanted(k * spacing, angle, 170.0, inside, edge))
    return {
        "walls": [
            y
            for k in range(walls)
            for y in ((k + 0.5) * line * scale, 96.0 - (k + 0.5) * line * scale)
        ],
        "line": line * scale,
        "edge": edge,
        "inside": inside,
        "lines": " ".join(one for one in lines[:160] if one),
    }


def _slanted(offset: float, angle: float, long: float, high: float, edge: float) -> str:
    """A line at an angle to the length, clipped by the drawing's own clip."""
    a = radians(angle)
    x, y = long / 2 - offset * sin(a), edge + high / 2 + offset * cos(a)
    dx, dy = cos(a) * 400, sin(a) * 400
    return f"M{x - dx:.1f},{y - dy:.1f} L{x + dx:.1f},{y + dy:.1f}"


def _resin_cut(known: Mapping[str, float | None], width: float, height: float) -> dict[str, Any] | None:  # fmt: skip
    """Layers hanging from the plate; the light comes from below."""
    layer = (known.get("layer_height") or 0) * 1e3
    if not layer:
        return None
    layers = max(round(height / layer), 1)
    scale = min(_WIDE / width, _HIGH / height)
    bottom = min(int(known.get("bottom_layers") or 0), layers)
    each = layer * scale
    shown = [k for k in range(layers) if layers <= 200 or k % (layers // 200 + 1) == 0]
    return {
        "layers": layers,
        "left": 60.0 + (_WIDE - width * scale) / 2,
        "width_px": width * scale,
        "width": width,
        "height": height,
        "top": 96.0,
        "lines": [round(96.0 + k * each, 2) for k in shown],
        "bottom": bottom * each,
        "bottom_layers": bottom,
        "low": 96.0 + layers * each,
        "ruler": scale,
        "short": abs(layers * layer - height) > 0.005
        and f"{layers} layers come to {layers * layer:.2f} mm.",  # fmt: skip
    }
