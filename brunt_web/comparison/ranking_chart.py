"""The ranking's drawing: one scale for every row, dots in lanes, brackets in a column of their own."""

from collections.abc import Sequence
from dataclasses import dataclass

from brunt_core.statistics.ranking import Ranking, Row
from brunt_web.interface.scale import Scale

WIDTH, HEIGHT = 560, 46
_MIDDLE, _LANE, _DOT = 19, 7, 9.5


@dataclass(frozen=True)
class Dot:
    """One specimen: where it stands and what it is."""

    x: float
    y: float
    kind: str
    title: str
    href: str = ""


@dataclass(frozen=True)
class IntervalBar:
    """An interval between two x."""

    x: float
    width: float


def values_shown(
    ranking: Ranking, factor: dict[str, float], intervals: dict[str, tuple[float, float] | None]
) -> list[float]:
    """Every value that the scale must hold, in the unit shown."""
    dots = [o.anchor * factor[r.name] for r in ranking.rows for o in r.observations]
    means = [
        r.summary.mean * factor[r.name] for r in ranking.rows if r.summary.mean == r.summary.mean
    ]
    core = dots + means
    if not core:
        return []
    span = (max(core) - min(core)) or abs(max(core)) or 1.0
    ends = [e for pair in intervals.values() if pair for e in pair]
    return core + [min(max(e, min(core) - span), max(core) + span) for e in ends]


def dots_for(row: Row, scale: Scale, factor: float, titles: Sequence[tuple[str, str]]) -> list[Dot]:
    """The row's specimens: exact ones in lanes about the middle, bounded ones in a lane below."""
    placed: list[Dot] = []
    for observation, (title, href) in sorted(
        zip(row.observations, titles, strict=True), key=lambda p: p[0].anchor
    ):
        x = scale.x(observation.anchor * factor)
        lane = HEIGHT - 7.0 if observation.kind in ("at_least", "at_most") else _lane(x, placed)
        placed.append(Dot(x, lane, observation.kind, title, href))
    return placed


def _lane(x: float, placed: Sequence[Dot]) -> float:
    for offset in (0, -_LANE, _LANE):
        y = _MIDDLE + offset
        if not any(d.y == y and abs(d.x - x) < _DOT for d in placed):
            return y
    return _MIDDLE


def bar_for(interval: tuple[float, float] | None, scale: Scale) -> IntervalBar | None:
    """The interval's bar."""
    if interval is None:
        return None
    left, right = scale.x(interval[0]), scale.x(interval[1])
    return IntervalBar(left, max(right - left, 0.5))


def brackets(ranking: Ranking) -> list[list[str]]:
    """For each row, for each set that does not differ significantly: ``start``, ``inside``, ``end``,
    ``pass`` (the set goes by this row), or nothing. Sets of one have no bracket."""
    sets = [s for s in ranking.sets if len(s) > 1][:6]
    return [[_mark(i, s) for s in sets] for i in range(len(ranking.rows))]


def _mark(row: int, members: frozenset[int]) -> str:
    if row not in members:
        return "pass" if min(members) < row < max(members) else ""
    return "start" if row == min(members) else "end" if row == max(members) else "inside"
