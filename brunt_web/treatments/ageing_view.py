"""A property over age: fresh, and each place at several ages, with its trend."""

import re
from dataclasses import dataclass

from brunt_core.quantities.rendering import figures
from brunt_core.statistics.trend import WEEK, Aged, Trend, trend, trend_in_words
from brunt_web.campaigns.models import Campaign, Condition
from brunt_web.campaigns.queries import procedures_of
from brunt_web.interface.scale import scale_for
from brunt_web.results import reading as samples

WIDE, HIGH = 520.0, 180.0
_NUMBER = re.compile(r"[-+−]?\d+(?:[.,]\d+)?\s*[a-z]*", re.I)


@dataclass
class AgeingCourse:
    """One place of exposure: its specimens, its line, what it says."""

    name: str
    dots: list[tuple[float, float, str, bool]]
    line: str
    words: str
    found: Trend | None


@dataclass
class Ageing:
    """One procedure's property over age."""

    title: str
    courses: list[AgeingCourse]
    x_ticks: tuple[tuple[float, str], ...]
    y_ticks: list[tuple[float, str]]


def ageing(campaign: Campaign) -> list[Ageing]:
    """Every procedure with results at two ages or more; empty where no level asks for an age."""
    conditions = list(campaign.conditions.prefetch_related("levels__factor"))
    places = {c.pk: _place(c) for c in conditions if c.requirements.age}
    if len(places) < 2:
        return []
    rows = samples.of_campaign(campaign)
    found = []
    for procedure in procedures_of(campaign):
        prop = procedure.ranked_property
        groups = samples.grouped(rows, [procedure])
        fresh: list[Aged] = []
        by_place: dict[str, list[Aged]] = {}
        for condition in conditions:
            group = groups.get((condition.pk, procedure.pk))
            if condition.pk not in places or group is None:
                continue
            age = condition.requirements.seconds
            points = [
                Aged(age, s.in_unit(prop).observation.anchor, s.code)
                for s in group.counted
                if s.observation.is_exact
            ]
            if age == 0:
                fresh += points
            else:
                by_place.setdefault(places[condition.pk], []).extend(points)
        if by_place and any(by_place.values()):
            found.append(_drawn(f"{procedure.name}, {prop.unit}", fresh, by_place))
    return found


def _place(condition: Condition) -> str:
    """Where it was exposed: the words of its age without the number."""
    level = next((x for x in condition.levels.all() if x.factor.kind == "age"), None)
    words = _NUMBER.sub("", level.label).strip(" ,") if level else ""
    return words or "aged"


def _drawn(title: str, fresh: list[Aged], by_place: dict[str, list[Aged]]) -> Ageing:
    every = [*fresh, *(p for points in by_place.values() for p in points)]
    across = scale_for([p.age / WEEK for p in every], WIDE, 44)
    up = scale_for([p.value for p in every], HIGH, 16, 4)

    def y(value: float) -> float:
        return round(HIGH - up.x(value), 1)

    courses = []
    for name, points in by_place.items():
        line = trend([*fresh, *points])
        ends = (0.0, max(p.age for p in points))
        path = ""
        if line:
            path = "M" + " L".join(f"{across.x(a / WEEK)},{y(line.at(a))}" for a in ends)
        courses.append(
            AgeingCourse(
                name,
                [
                    (
                        across.x(p.age / WEEK),
                        y(p.value),
                        f"{p.code}: {figures(p.value)} at {figures(p.age / WEEK)} weeks",
                        bool(line and line.odd == p.code),
                    )
                    for p in [*fresh, *points]
                ],
                path,
                words=trend_in_words(line)
                if line
                else "Too few for a trend: four specimens at two ages are the least.",
                found=line,
            )
        )
    return Ageing(title, courses, across.ticks, [(round(HIGH - a, 1), b) for a, b in up.ticks])
