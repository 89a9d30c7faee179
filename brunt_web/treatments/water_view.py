"""Water by mass: treated and control over time, where they end, when they meet, when to weigh next."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from brunt_core.errors import InputError
from brunt_core.quantities.rendering import number, time_words
from brunt_core.treatments.diffusion import Weighing, met_at
from brunt_core.treatments.moisture import Moisture, moisture
from brunt_web.interface.scale import Scale, scale_for
from brunt_web.treatments.moments import Subject

WIDE, HIGH = 560.0, 220.0
GAP = 0.001
SITTING = timedelta(minutes=20)
OFTEN, DAILY_AFTER = timedelta(hours=2), timedelta(hours=12)


@dataclass
class MassCurve:
    """One group's mean share of water over time, as drawn, with what the law foresees."""

    name: str
    points: list[tuple[float, float, str]]
    path: str
    fit: str
    band: str
    judged: Moisture | None
    count: int
    words: str


@dataclass
class Water:
    """Both groups on one scale."""

    curves: list[MassCurve]
    x: Scale
    y: Scale
    times: list[tuple[float, str]]
    met: float | None
    met_when: datetime | None
    now: float
    apart: float | None
    next_weighing: datetime | None
    late: bool
    said: list[str]


@dataclass
class _Series:
    name: str
    rows: list[tuple[datetime, float]]
    count: int
    judged: Moisture | None = None
    words: str = ""


def water(treated: Sequence[Subject], control: Sequence[Subject], now: datetime) -> Water | None:
    """The curves since the treatment; ``None`` where nothing was weighed twice."""
    if not treated:
        return None
    start = min(s.end for s in treated)
    series = [_series("treated", treated, start), _series("control", control, start)]
    series = [s for s in series if len(s.rows) > 1]
    if not series:
        return None
    for s in series:
        _judge(s)
    first = min(s.rows[0][0] for s in series)
    last = max(now, *(s.rows[-1][0] for s in series))
    span = (last - first).total_seconds() or 1.0
    across = Scale(0.0, _until(series, span), WIDE, 44.0)
    shares = [100 * v for s in series for _, v in s.rows]
    up = scale_for([*shares, *_ends(series)], HIGH, 16.0, 4)
    met = _met(series, first)
    newest = max(series, key=lambda s: s.rows[-1][0]).rows[-1][0]
    due = (
        None if all(s.judged and s.judged.settled.settled for s in series) else _due(first, newest)
    )
    return Water(
        curves=[_curve(s, first, across, up) for s in series],
        x=across,
        y=up,
        times=_times(across),
        met=None if met is None else across.x(met),
        met_when=None if met is None else first + timedelta(seconds=met),
        now=across.x((now - first).total_seconds()),
        apart=_apart(series),
        next_weighing=due,
        late=bool(due and due < now),
        said=_said(series, met, first),
    )


def _series(name: str, subjects: Sequence[Subject], start: datetime) -> _Series:
    """The mean share over a group at each sitting, of specimens weighed when made."""
    rows: list[tuple[datetime, float]] = []
    for s in subjects:
        base = s.first_mass
        if base and not s.lost:
            rows += [(at, mass / base - 1) for at, mass in s.masses if at >= start]
    rows.sort()
    found: list[list[tuple[datetime, float]]] = []
    for row in rows:
        if found and row[0] - found[-1][0][0] <= SITTING:
            found[-1].append(row)
        else:
            found.append([row])
    means = [(part[0][0], sum(v for _, v in part) / len(part)) for part in found]
    return _Series(name, means, len({s.specimen.pk for s in subjects if s.first_mass}))


def _judge(series: _Series) -> None:
    first = series.rows[0][0]
    rows = [Weighing((at - first).total_seconds(), 1.0 + share) for at, share in series.rows]
    try:
        series.judged = moisture(rows)
    except InputError as error:
        series.words = error.sentence
        return
    series.words = _words(series.judged)


def _words(judged: Moisture) -> str:
    fit = judged.fit
    if judged.settled.settled and judged.settled.at is not None:
        return f"settled since {time_words(judged.settled.at, 2)} after the first weighing"
    if fit is None:
        return " ".join(judged.remarks)
    ends = [None if m is None else (m - 1) * 100 for m in (fit.end_low, fit.end_high)]
    low, high = ("open" if e is None else number(e, ".2f") for e in ends)
    when = f", settles after {time_words(judged.settles, 2)}" if judged.settles else ""
    return f"ends at {number((fit.end - 1) * 100, '.2f')} % ({low} to {high}){when}"


def _until(series: Sequence[_Series], span: float) -> float:
    settles = [s.judged.settles for s in series if s.judged and s.judged.settles]
    return max([span * 1.04, *(min(x * 1.05, span * 2.5) for x in settles)])


def _ends(series: Sequence[_Series]) -> list[float]:
    """Where they end, where that does not leave the picture."""
    found = []
    for s in series:
        if s.judged and s.judged.fit:
            values = [100 * v for _, v in s.rows]
            reach = max(values) - min(values) or 1.0
            end = 100 * (s.judged.fit.end - 1)
            found.append(min(max(end, min(values) - reach), max(values) + reach))
    return found


def _curve(series: _Series, first: datetime, across: Scale, up: Scale) -> MassCurve:
    def place(at: float, share: float) -> tuple[float, float]:
        return across.x(at), round(HIGH - up.x(100 * share), 1)

    points = [
        (
            *place((at - first).total_seconds(), share),
            f"{at:%d %b %H:%M}, {number(100 * share, '+.3f')} %",
        )
        for at, share in series.rows
    ]
    fit = band = ""
    judged = series.judged
    if judged and judged.fit:
        begin = (series.rows[0][0] - first).total_seconds()
        times = [i / 60 * (across.high - begin) for i in range(61)]
        fit = _line([place(begin + t, judged.fit.mass(t) - 1) for t in times])
        band = _band(judged, begin, times, place)
    return MassCurve(
        series.name,
        points,
        path=_line([(x, y) for x, y, _ in points]),
        fit=fit,
        band=band,
        judged=judged,
        count=series.count,
        words=series.words,
    )


def _band(judged: Moisture, begin: float, times: Sequence[float], place: Any) -> str:
    """Where it ends, between its bounds, over the last third of the picture."""
    fit = judged.fit
    if fit is None or fit.end_low is None or fit.end_high is None:
        return ""
    late = times[40:]
    return (
        _line(
            [place(begin + t, fit.end_low - 1) for t in (late[0], late[-1])]
            + [place(begin + t, fit.end_high - 1) for t in (late[-1], late[0])]
        )
        + " Z"
    )


def _line(points: Sequence[tuple[float, float]]) -> str:
    return "M" + " L".join(f"{x},{y}" for x, y in points) if len(points) > 1 else ""


def _times(across: Scale) -> list[tuple[float, str]]:
    hours = across.high / 3600
    step = next((s for s in (1, 2, 6, 12, 24, 48, 168) if hours / s <= 8), 720)
    marks = range(0, int(hours) + 1, step)
    return [(across.x(h * 3600.0), f"{h // 24} d" if step >= 24 else f"{h} h") for h in marks]


def _weighings(series: _Series, first: datetime) -> list[Weighing]:
    return [Weighing((at - first).total_seconds(), 1.0 + share) for at, share in series.rows]


def _met(series: Sequence[_Series], first: datetime) -> float | None:
    if len(series) < 2:
        return None
    return met_at(_weighings(series[0], first), _weighings(series[1], first), (1.0, 1.0), GAP)


def _apart(series: Sequence[_Series]) -> float | None:
    return 100 * abs(series[0].rows[-1][1] - series[1].rows[-1][1]) if len(series) > 1 else None


def _due(first: datetime, last: datetime) -> datetime:
    """Every two hours at first, then daily."""
    return last + (OFTEN if last - first < DAILY_AFTER else timedelta(days=1))


def _said(series: Sequence[_Series], met: float | None, first: datetime) -> list[str]:
    said = []
    both = len(series) > 1
    if both and met is not None:
        said.append("They have met from both sides: what they are tested for from now on compares.")
    elif both:
        said.append("They have not met yet: strength compared now is of unlike water.")
    if both and all(s.judged and s.judged.fit for s in series):
        ends = [100 * (s.judged.fit.end - 1) for s in series if s.judged and s.judged.fit]
        said.append(
            f"Dry is not zero: they end near {number(ends[0], '.2f')} and {number(ends[1], '.2f')} % of the mass as printed."
        )
    return said
