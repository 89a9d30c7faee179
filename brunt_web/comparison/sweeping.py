"""The sweep: a factor with numbers for levels, drawn over those numbers, a line per level of the rest."""

import re
from collections import Counter
from dataclasses import dataclass, replace

from brunt_core.errors import InputError
from brunt_core.quantities.numbers import read_number
from brunt_core.statistics.ranking import Ranking, Row
from brunt_core.statistics.sweep import Sweep, sweep
from brunt_web.campaigns.models import Campaign, Level
from brunt_web.comparison.page import Page
from brunt_web.interface.scale import Scale, scale_for

WIDTH, HEIGHT = 620, 230
_LEVEL = re.compile(r"^\s*([-+−]?[\d.,]+)\s*(.*)$")
_MARKS = (
    "M-4,0 a4,4 0 1,0 8,0 a4,4 0 1,0 -8,0",
    "M-4,-4 h8 v8 h-8 Z",
    "M0,-5 L5,4 L-5,4 Z",
    "M0,-5.5 L5,0 L0,5.5 L-5,0 Z",
    "M0,5 L5,-4 L-5,-4 Z",
)
_DASHES = ("", "7 4", "2 4", "12 4 2 4")


@dataclass(frozen=True)
class Point:
    """One condition on the drawing: its mean, its interval and its specimens."""

    x: float
    mean: float
    bar: tuple[float, float] | None
    dots: tuple[float, ...]
    name: str


@dataclass(frozen=True)
class Series:
    """The conditions alike in everything but the swept factor: points, line, mark and a sentence."""

    name: str
    sentence: str
    points: tuple[Point, ...]
    line: str
    mark: str
    dash: str


@dataclass(frozen=True)
class Drawn:
    """The sweep as series and ticks."""

    name: str
    unit: str
    series: tuple[Series, ...]
    x_ticks: tuple[tuple[float, str], ...]
    y_ticks: list[tuple[float, str]]


@dataclass(frozen=True)
class Swept:
    """A factor with numbers for levels: by condition the number, and what else it is."""

    name: str
    unit: str
    numbers: dict[str, float]
    texts: dict[float, str]
    others: dict[str, str]


def swept_levels(campaign: Campaign) -> Swept | None:
    """The factor whose levels are all numbers in one unit; the one with most levels where several are."""
    rows = Level.objects.filter(factor__campaign=campaign, conditions__isnull=False).values_list(
        "factor__position", "factor__name", "factor__kind", "label",
        "conditions__label", "conditions__detail",
    )  # fmt: skip
    by_condition: dict[str, dict[int, str]] = {}
    levels: dict[int, set[str]] = {}
    names, barred = {}, set()
    for place, name, kind, text, label, detail in rows:
        by_condition.setdefault(f"{label}, {detail}" if detail else label, {})[place] = text
        levels.setdefault(place, set()).add(text)
        names[place] = name
        if kind in ("material", "lot"):
            barred.add(place)
    fit = {
        place: found
        for place, texts in levels.items()
        if place not in barred and len(texts) > 1 and (found := _numbers(texts))
    }
    if not fit:
        return None
    chosen = max(fit, key=lambda place: (len(levels[place]), -place))
    unit, numbers = fit[chosen]
    return Swept(
        names[chosen],
        unit,
        {c: numbers[own[chosen]] for c, own in by_condition.items() if chosen in own},
        {value: text for text, value in numbers.items()},
        {c: ", ".join(t for p, t in sorted(own.items()) if p != chosen)
         for c, own in by_condition.items()},
    )  # fmt: skip


def _numbers(texts: set[str]) -> tuple[str, dict[str, float]] | None:
    """The one unit of these levels and the number of each; ``None`` if one is no number."""
    read = {text: _number(text) for text in texts}
    if any(value is None for value, _ in read.values()):
        return None
    (unit, _), *more = Counter(unit for _, unit in read.values()).most_common()
    return None if more else (unit, {t: v for t, (v, _) in read.items() if v is not None})


def _number(text: str) -> tuple[float | None, str]:
    """The number and the unit of a level, if it starts with a number."""
    found = _LEVEL.match(text)
    try:
        return (read_number(found.group(1)), found.group(2)) if found else (None, "")
    except InputError:
        return None, ""


def drawn(campaign: Campaign, page: Page) -> Drawn | None:
    """The sweep of what the page compares; ``None`` when the campaign is none or too little is in."""
    numbered = any(f.kind not in ("material", "lot") for f in campaign.factors.all())
    swept = swept_levels(campaign) if numbered and page.procedure is not None else None
    if swept is None:
        return None
    rows = [
        r for r in page.ranking.rows
        if r.name in swept.numbers and r.summary.mean == r.summary.mean
    ]  # fmt: skip
    held: dict[str, list] = {}
    for row in rows:
        held.setdefault(swept.others[row.name], []).append(row)
    held = {name: own for name, own in sorted(held.items()) if len(own) > 1}
    rows = [r for own in held.values() for r in own]
    if not rows:
        return None
    across = scale_for([swept.numbers[r.name] for r in rows], WIDTH, 50)
    values = [o.anchor for r in rows for o in r.observations]
    ends = [e for r in rows for e in (r.summary.low, r.summary.high) if e is not None]
    up = scale_for([*values, *ends], HEIGHT, 26, 4)
    return Drawn(
        swept.name,
        swept.unit,
        tuple(
            _series(i, name, own, swept=swept, ranking=page.ranking, across=across, up=up)
            for i, (name, own) in enumerate(held.items())
        ),
        across.ticks,
        [(round(HEIGHT - y, 1), label) for y, label in up.ticks],
    )


def _series(
    place: int, name: str, rows: list[Row], swept: Swept, ranking: Ranking, across: Scale, up: Scale
) -> Series:
    ordered = sorted(rows, key=lambda r: swept.numbers[r.name])
    points = tuple(_point(r, across.x(swept.numbers[r.name]), up) for r in ordered)
    own = tuple(r for r in ranking.rows if r in rows)
    found = sweep(replace(ranking, rows=own), swept.numbers)
    return Series(
        name,
        _sentence(found, swept, len(own)),
        points,
        "M" + " L".join(f"{p.x},{p.mean}" for p in points),
        _MARKS[place % len(_MARKS)],
        _DASHES[place % len(_DASHES)],
    )


def _point(row: Row, x: float, up: Scale) -> Point:
    def y(value: float) -> float:
        return round(HEIGHT - up.x(value), 1)

    s = row.summary
    return Point(
        x,
        y(s.mean),
        (y(s.low), y(s.high)) if s.low is not None and s.high is not None else None,
        tuple(y(o.anchor) for o in row.observations),
        row.name,
    )


def _sentence(found: Sweep, swept: Swept, tried: int) -> str:
    """Where the best lies; at the edge of three or more there may be better beyond."""
    said = f"{swept.name}: best at {swept.texts[found.best]}"
    others = [swept.texts[x] for x in found.level_with_best if x != found.best]
    said += f"; {', '.join(others)} cannot be told apart from it" if others else ""
    edge = " The best is at the edge of what was tried: go on beyond it."
    return f"{said}.{edge if found.at_edge and tried > 2 else ''}"
