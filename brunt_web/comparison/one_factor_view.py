"""The one-factor view: every specimen over its level, the curve with its band, the optimum with its interval."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from brunt_core.errors import InputError
from brunt_core.quantities.rendering import count_of, figures, p_value
from brunt_core.statistics.response import CURVED, PLATEAU, Response, respond, response_in_words
from brunt_web.campaigns.models import Condition
from brunt_web.comparison.numeric_factor import NumericFactor
from brunt_web.comparison.queries import ComparedGroup
from brunt_web.comparison.strips import Mark, Strip, strip_marks
from brunt_web.interface.scale import scale_for

WIDE, HIGH, LEFT, FOOT = 760.0, 380.0, 58.0, 40.0
LOSS = 0.05
_DASHES = ("", "7 4", "2 4", "12 4 2 4")


@dataclass
class DrawnLevelMean:
    """A level: where it stands, its mean with its interval, its name."""

    x: float
    y: float
    bar: tuple[float, float] | None
    label: str
    odd: str = ""


@dataclass
class FactorCourse:
    """The conditions alike in all but the setting: their marks, means, curve, band, optimum, words."""

    name: str
    dash: str
    marks: list[Mark]
    means: list[DrawnLevelMean]
    curve: str = ""
    band: str = ""
    best: float | None = None
    best_words: str = ""
    lane: tuple[float, float] | None = None
    open_ends: tuple[bool, bool] = (False, False)
    loss: tuple[float, float] | None = None
    says: list[str] = field(default_factory=list)
    model: str = ""
    found: Response | None = None


@dataclass
class OneFactorView:
    """The whole drawing."""

    setting: str
    unit: str
    courses: list[FactorCourse]
    x_ticks: list[tuple[float, str]]
    y_ticks: list[tuple[float, str]]
    headline: str
    rest: str
    why_not: str = ""


def one_factor_of(
    strip: Strip, factor: NumericFactor | None, conditions: Sequence[Condition]
) -> OneFactorView:
    """The drawing, or why there is none."""
    empty = OneFactorView("", "", [], x_ticks=[], y_ticks=[], headline="", rest="")
    if factor is None:
        empty.why_not = (
            "No factor of this campaign has numbers in one unit for its levels, so nothing can be "
            "drawn over one. A setting, a speed or an age at several levels is needed for a one-factor view."
        )
        return empty
    by_course: dict[str, list[tuple[float, Condition]]] = {}
    for c in conditions:
        if str(c) in factor.numbers and strip.groups.get(c.pk) and strip.groups[c.pk].values:
            by_course.setdefault(factor.others[str(c)], []).append((factor.numbers[str(c)], c))
    rows = [(x, c) for own in by_course.values() for x, c in own]
    if len({x for x, _ in rows}) < 2:
        empty.why_not = f"Results at two levels of {factor.name.lower()} at least are needed."
        return empty
    values = [o.anchor for _, c in rows for o in strip.groups[c.pk].values]
    across = scale_for([x for x, _ in rows], WIDE - LEFT, 28, 8)
    up = scale_for(values, HIGH - FOOT, 22, 6)

    def at_x(value: float) -> float:
        return round(LEFT + across.x(value), 1)

    def at_y(value: float) -> float:
        return round(HIGH - FOOT - up.x(value), 1)

    courses = [
        _course(
            i,
            name,
            sorted(own, key=lambda r: r[0]),
            strip=strip,
            factor=factor,
            at_x=at_x,
            at_y=at_y,
        )
        for i, (name, own) in enumerate(sorted(by_course.items()))
    ]
    first = courses[0]
    return OneFactorView(
        factor.name,
        factor.unit,
        courses,
        [(round(LEFT + x, 1), label) for x, label in across.ticks],
        [(round(HIGH - FOOT - y, 1), label) for y, label in up.ticks],
        headline=first.says[0] if first.says else "",
        rest=" ".join(first.says[1:]),
    )


def _course(
    place: int,
    name: str,
    rows: list[tuple[float, Condition]],
    strip: Strip,
    factor: NumericFactor,
    at_x: Callable[[float], float],
    at_y: Callable[[float], float],
) -> FactorCourse:
    course = FactorCourse(name, _DASHES[place % len(_DASHES)], [], [])
    settings, values = [], []
    bounded = 0
    for x, c in rows:
        group = strip.groups[c.pk]
        course.marks += _beside(group, at_x(x), at_y)
        s = strip.summary(c.pk)
        if s is not None and s.mean == s.mean:
            bar = (at_y(s.high), at_y(s.low)) if s.low is not None and s.high is not None else None
            course.means.append(DrawnLevelMean(at_x(x), at_y(s.mean), bar, factor.texts[x]))
        for o in group.values:
            settings.append(x)
            values.append(o.anchor)
            bounded += not o.is_exact
    levels = _by_level(rows, strip, factor)
    try:
        found = respond(settings, values, strip.prop.better, strip.confidence)
    except InputError as error:
        course.says = [levels, error.sentence] if levels else [error.sentence]
        return course
    course.found, course.model = found, _model_words(found)
    course.says = response_in_words(found, factor.name, factor.unit)
    course.says += [levels] if levels else []
    if bounded:
        course.says.append(
            f"{bounded} did not fail and are used at their load: the curve is at least this high there."
            if not strip.lower
            else f"{bounded} are bounds and are used at their bound."
        )
    for odd in found.odd:
        near = next((m for m in course.means if abs(m.x - at_x(odd.level)) < 0.6), None)
        if near:
            near.odd = "one specimen" if odd.alone else "off the curve"
    _draw(course, found, settings, at_x, at_y, strip)
    return course


def _by_level(rows: list[tuple[float, Condition]], strip: Strip, factor: NumericFactor) -> str:
    """Which of the levels tested is first, which do not differ significantly from it, and whether it lies at an end."""
    tested = [(strip.places[c.pk], x, c) for x, c in rows if c.pk in strip.places]
    if len(tested) < 2:
        return ""
    _, best, first = min(tested, key=lambda t: t[0])
    alike = [
        factor.texts[x] for _, x, c in tested if c.pk != first.pk and strip.alike(first.pk, c.pk)
    ]
    said = f"Best level tested: {factor.texts[best]}"
    said += (
        f"; {', '.join(alike)} not significantly different from it."
        if alike
        else ", significantly."
    )
    settings = [x for _, x, _ in tested]
    at_end = len(tested) > 2 and best in (min(settings), max(settings))
    return said + (" It is the last level on that side: test beyond it." if at_end else "")


def _beside(group: ComparedGroup, x: float, at_y: Callable[[float], float]) -> list[Mark]:
    """Specimens beside their level, so that those of one height do not hide one another."""
    return [
        Mark(
            round(x + (0, 8, -8, 16)[min(m.lane, 3)], 1),
            m.lane,
            m.kind,
            m.title,
            m.href,
            y=m.x,
        )
        for m in strip_marks(group, at_y, near=9.0, lanes=4)
    ]


def _model_words(found: Response) -> str:
    words = {
        "none": "no trend detectable",
        "straight": "straight line",
        CURVED: "quadratic curve",
        PLATEAU: "levelling-off curve",
    }[found.model]
    lack = found.lack_of_fit_p
    fit = "" if lack is None else f", lack of fit {p_value(lack)}"
    return f"{words}, {count_of(found.n, 'specimen')}, SD {figures(found.residual_sd)}{fit}"


def _draw(
    course: FactorCourse,
    found: Response,
    settings: Sequence[float],
    at_x: Callable[[float], float],
    at_y: Callable[[float], float],
    strip: Strip,
) -> None:
    low, high = min(settings), max(settings)
    places = [low + (high - low) * i / 60 for i in range(61)]
    course.curve = "M" + " L".join(f"{at_x(p)},{at_y(found.at(p))}" for p in places)
    bands = [(p, found.band(p, strip.confidence)) for p in places]
    if all(b for _, b in bands):
        upper = [f"{at_x(p)},{at_y(b[1])}" for p, b in bands if b]
        lower = [f"{at_x(p)},{at_y(b[0])}" for p, b in reversed(bands) if b]
        course.band = "M" + " L".join([*upper, *lower]) + " Z"
    best = found.optimum
    if best is None:
        return
    course.best = at_x(best.value)
    course.best_words = figures(best.value)
    if not best.at_edge:
        ends = (
            best.low if best.low is not None else low,
            best.high if best.high is not None else high,
        )
        course.lane = (at_x(ends[0]), round(at_x(ends[1]) - at_x(ends[0]), 1))
        course.open_ends = (best.low is None, best.high is None)
    top = found.at(best.value)
    if top > 0:
        limit = top * (1 + LOSS) if strip.lower else top * (1 - LOSS)
        kept = [
            p for p in places if (found.at(p) <= limit if strip.lower else found.at(p) >= limit)
        ]
        if kept:
            course.loss = (at_x(kept[0]), round(at_x(kept[-1]) - at_x(kept[0]), 1))
