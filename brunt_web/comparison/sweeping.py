"""The sweep: a campaign whose one factor has numbers for levels, drawn over those numbers."""

import re
from dataclasses import dataclass

from brunt_core.errors import InputError
from brunt_core.quantities.numbers import read_number
from brunt_core.quantities.rendering import figures
from brunt_core.statistics.sweep import sweep
from brunt_web.campaigns.models import Campaign
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
    factors = list(campaign.factors.prefetch_related("levels__conditions"))
    if len(factors) != 1 or factors[0].kind in ("material", "lot"):
        return None
    numbers, units = {}, set()
    for level in factors[0].levels.all():
        found = _LEVEL.match(level.label)
        try:
            value = read_number(found.group(1)) if found else None
        except InputError:
            value = None
        if value is None:
            return None
        units.add(found.group(2) if found else "")
        numbers |= {str(c): value for c in level.conditions.all()}
    return (factors[0].name, units.pop(), numbers) if len(units) == 1 else None


def drawn(campaign: Campaign, page) -> Drawn | None:
    """The sweep of what the page compares; ``None`` when the campaign is none or too little is in."""
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
