"""The sweep: a campaign whose one factor has numbers for levels, drawn over those numbers."""

import re
from dataclasses import dataclass

from brunt_core.errors import InputError
from brunt_core.quantities.numbers import read_number
from brunt_core.quantities.rendering import figures
from brunt_core.statistics.sweep import sweep
from brunt_web.campaigns.models import Campaign, Level
from brunt_web.interface.scale import scale_for

WIDTH, HEIGHT = 620, 230
_LEVEL = re.compile(r"^\s*([-+−]?[\d.,]+)\s*(.*)$")


@dataclass
class Drawn:
    """The sweep as points, ticks and a sentence."""

    name: str
    unit: str
    sentence: str
    points: list[dict]
    line: str
    x_ticks: tuple
    y_ticks: list


def swept_levels(campaign: Campaign) -> tuple[str, str, dict[str, float]] | None:
    """The one factor with numbers for levels: (name, unit, number by condition)."""
    rows = Level.objects.filter(factor__campaign=campaign, conditions__isnull=False).values_list(
        "factor__name", "factor__kind", "label", "conditions__label", "conditions__detail"
    )
    numbers, units, names = {}, set(), set()
    for name, kind, text, label, detail in rows:
        value, unit = _number(text) if kind not in ("material", "lot") else (None, "")
        if value is None:
            return None
        names.add(name)
        units.add(unit)
        numbers[f"{label}, {detail}" if detail else label] = value
    return (names.pop(), units.pop(), numbers) if len(names) == len(units) == 1 else None


def _number(text: str) -> tuple[float | None, str]:
    """The number and the unit of a level, if it starts with a number."""
    found = _LEVEL.match(text)
    try:
        return (read_number(found.group(1)), found.group(2)) if found else (None, "")
    except InputError:
        return None, ""


def drawn(campaign: Campaign, page) -> Drawn | None:
    """The sweep of what the page compares; ``None`` when the campaign is none or too little is in."""
    if len({c.material_id for c in page.conditions}) > 1:
        return None
    swept = swept_levels(campaign)
    rows = [r for r in page.ranking.rows if r.summary.mean == r.summary.mean]
    if swept is None or len(rows) < 2 or page.procedure is None:
        return None
    name, unit, levels = swept
    try:
        found = sweep(page.ranking, levels)
    except InputError:
        return None
    across = scale_for([levels[r.name] for r in rows], WIDTH, 50)
    values = [o.anchor for r in rows for o in r.observations]
    ends = [e for r in rows for e in (r.summary.low, r.summary.high) if e is not None]
    up = scale_for([*values, *ends], HEIGHT, 26, 4)
    points = [_point(r, across.x(levels[r.name]), up) for r in rows]
    points.sort(key=lambda p: p["x"])
    return Drawn(
        name,
        unit,
        _sentence(found, name, unit),
        points,
        "M" + " L".join(f"{p['x']},{p['mean']}" for p in points),
        across.ticks,
        [(round(HEIGHT - y, 1), label) for y, label in up.ticks],
    )


def _point(row, x: float, up) -> dict:
    def y(value: float) -> float:
        return round(HEIGHT - up.x(value), 1)

    s = row.summary
    return {
        "x": x,
        "mean": y(s.mean),
        "bar": (y(s.low), y(s.high)) if s.low is not None and s.high is not None else None,
        "dots": [y(o.anchor) for o in row.observations],
        "name": row.name,
    }


def _sentence(found, name: str, unit: str) -> str:
    best = f"{figures(found.best)} {unit}".strip()
    said = f"{name}: best at {best}"
    others = [f"{figures(x)}" for x in found.level_with_best if x != found.best]
    said += f"; {', '.join(others)} {unit} cannot be told apart from it" if others else ""
    edge = " The best is at the edge of what was tried: go on beyond it." if found.at_edge else ""
    return f"{said}.{edge}"
