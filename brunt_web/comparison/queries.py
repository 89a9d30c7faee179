"""Reading what is compared, in a fixed number of queries."""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from django.db.models import Avg, Count, Q
from django.utils import timezone

from brunt_core.computation import compute
from brunt_core.computation.working import bounded_text
from brunt_core.methods.base import Method
from brunt_core.methods.judgement import words_of_scale
from brunt_core.observations import Observation
from brunt_core.planning.deviations import speed_words
from brunt_core.printing.checks import ASPECTS
from brunt_core.quantities.rendering import number, time_words
from brunt_web.campaigns.models import Campaign, Condition, Turn
from brunt_web.checks.queries import changes_for
from brunt_web.comparison.normalising import normalised
from brunt_web.library.models import Procedure
from brunt_web.people.models import Workshop
from brunt_web.printing.ease import ease_of_condition
from brunt_web.printing.models import Grade
from brunt_web.results import reading as samples
from brunt_web.results.reading import Sample
from brunt_web.testing.models import Reading
from brunt_web.testing.timed_queries import so_far, unlike

SHOWN = {"unit": "unit", "best": "% of best", "reference": "% of reference"}
RATIO = "ratio"
_SOON = 300.0


@dataclass
class ComparedGroup:
    """A condition's results under one procedure, in the property's unit."""

    condition: Condition
    found: samples.Group = field(default_factory=samples.Group)
    void: int = 0
    waiting: int = 0
    running: list[str] = field(default_factory=list)
    scale: str = ""
    lower_is_better: bool = False

    @property
    def values(self) -> list[Observation]:
        """The observations that count."""
        return self.found.values

    @property
    def codes(self) -> list[str]:
        """The IDs of those that count."""
        return [s.code for s in self.found.counted]

    @property
    def outcomes(self) -> list[str]:
        """How those that count ended."""
        return [s.outcome for s in self.found.counted]

    @property
    def failed(self) -> int:
        """How many of those that count ended in a failure of their method."""
        method = self.found.method
        fails = {o.key for o in method.outcomes if o.fails} if method else set()
        return sum(s.outcome in fails for s in self.found.counted)

    @property
    def times(self) -> list[float]:
        """When those that count were read, s after the start."""
        return [s.at_time for s in self.found.counted if s.at_time is not None]

    @property
    def excluded(self) -> list[tuple[str, Observation, str]]:
        """What is excluded: ID, observation, reason."""
        return [(s.code, s.observation, s.because) for s in self.found.excluded]

    @property
    def unlike(self) -> list[tuple[str, Observation, str]]:
        """What ended otherwise than those averaged: ID, observation, why it is apart."""
        if not self.found.unlike or self.found.method is None:
            return []
        words = {o.key: o.label for o in self.found.method.outcomes}
        main = words[self.found.counted[0].outcome]
        return [
            (s.code, s.observation, f"{words[s.outcome]}: never averaged with {main}")
            for s in self.found.unlike
        ]

    @property
    def shares(self) -> str:
        """How many ended in each way, where unlike ways are kept apart and there were several."""
        method = self.found.method
        if self.scale:
            return self._counted_words()
        ended = [s.outcome for s in (*self.found.counted, *self.found.unlike)]
        if method is None or not method.apart or len(set(ended)) < 2:
            return ""
        known = [(o.label, ended.count(o.key)) for o in method.outcomes if o.key in ended]
        return ", ".join(f"{n} of {len(ended)} {label}" for label, n in known)

    def _counted_words(self) -> str:
        """Judgements counted by their words, the best first: ``2 bends, 1 snaps``."""
        places = [round(s.observation.anchor) for s in self.found.counted]
        words = words_of_scale(self.scale)
        known = [(w, places.count(i)) for i, w in enumerate(words, 1) if i in places]
        return ", ".join(f"{n} {w}" for w, n in reversed(known))

    @property
    def stated(self) -> int:
        """How many came as a figure without the readings behind it."""
        return sum(s.stated for s in self._all)

    @property
    def untimely(self) -> list[tuple[str, str]]:
        """Those tested although they not ready: ID and reason."""
        return [(s.code, s.untimely) for s in self._all if s.untimely]

    @property
    def _all(self) -> list[Sample]:
        return [*self.found.counted, *self.found.unlike, *self.found.excluded]

    @property
    def rounding(self) -> float:
        """What the display's step leaves open of each value."""
        return self.found.rounding

    @cached_property
    def outlier(self) -> str:
        """The ID of the specimen that stands apart from the others, if one does."""
        return self.found.outlier

    @property
    def with_all(self) -> list[Observation]:
        """The values with the excluded ones back in."""
        return self.found.everything


def without_outliers(group: ComparedGroup) -> ComparedGroup:
    """The same with its suspected outlier excluded by the option, not for good."""
    code = group.outlier
    if not code:
        return group
    found = group.found
    out = [replace(s, because="suspected outlier, excluded by the option") for s in found.counted if s.code == code]  # fmt: skip
    kept = [s for s in found.counted if s.code != code]
    return replace(group, found=replace(found, counted=kept, excluded=[*found.excluded, *out]))


@dataclass
class Grouped:
    """Groups by procedure and condition, and the properties that have results, by procedure."""

    by_procedure: dict[int, dict[int, ComparedGroup]]
    measured: dict[int, set[str]]


def groups_of(
    campaign: Campaign,
    procedures: list[Procedure],
    conditions: list[Condition],
    chosen: Mapping[int, str] | None = None,
    by: str = "",
) -> Grouped:
    """Groups by procedure and condition. Three queries however many specimens there are.

    ``chosen`` names a property by procedure where another than the ranked one is asked for; ``by``
    what values are normalised by.
    """
    known = {p.pk: p for p in procedures}
    wanted = {
        pk: p.property_called((chosen or {}).get(pk) or p.ranked_property.key)
        for pk, p in known.items()
    }
    where = Q(turn__campaign=campaign, turn__procedure__in=list(known))
    measured = samples.measured(where, known)
    shown = samples.samples(where, {p.key for p in wanted.values()}, wanted)
    if by:
        shown = normalised(campaign, shown, procedures, conditions, by)
    found = samples.grouped(shown, procedures, {pk: p.key for pk, p in wanted.items()})
    groups = {
        pk: {
            c.pk: ComparedGroup(
                c,
                found.get((c.pk, pk), samples.Group()),
                scale=_scale_of(known[pk]),
                lower_is_better=wanted[pk].better == "lower",
            )
            for c in conditions
        }
        for pk in known
    }
    _count_unfinished(campaign, groups)
    return Grouped(groups, measured)


def _scale_of(procedure: Procedure) -> str:
    """The scale of words its results are places on; empty for numbers."""
    return procedure.parameters.get("scale", "") if procedure.ranked_property.ordinal else ""


def remarks_of(groups: Sequence[ComparedGroup], method: Method) -> list[str]:
    """What unlike reading times or unlike outcomes say against one ranking."""
    said = []
    times = [t for g in groups for t in g.times]
    if times and unlike(max(times), min(times)):
        said.append(
            f"Readings were taken at different times, {time_words(round(min(times), 1))} to "
            f"{time_words(round(max(times), 1))} after the start; creep affects the difference."
        )
    said += _together(groups, method) + _running(groups) + _untimely(groups) + _unlike_facts(groups)
    said += _out_of_state(groups) + _bent(groups) + _overdue(groups)
    ends = unlike_breaks(groups, method)
    if ends:
        said.append(
            f"The conditions had different failure modes ({', '.join(ends)}): ranked within each, never across."
        )
    return said


def shifted(workshop: Workshop, procedure: Procedure, groups: Iterable[ComparedGroup]) -> list[str]:
    """What is compared across a change of a check standard's level: who was tested before it, and who after.

    The check standards are only read where tests lie on more than one day.
    """
    own = [(g, s) for g in groups for s in g.found.counted if s.tested_at]
    days = {id(s): timezone.localtime(s.tested_at).date() for _, s in own}
    if len(set(days.values())) < 2:
        return []
    said = []
    for change in changes_for(workshop, [procedure]):
        before = {str(g.condition) for g, s in own if days[id(s)] <= change.before}
        after = {str(g.condition) for g, s in own if days[id(s)] >= change.on}
        if before and after:
            who = f"{', '.join(sorted(before)[:3])} before it, {', '.join(sorted(after)[:3])} after"
            said.append(f"Not all comparable: {change.words}. Tested {who}.")
    return said


def _together(groups: Sequence[ComparedGroup], method: Method) -> list[str]:
    """Drops of several specimens of a condition taken as one series, in the order they were tested."""
    if method.key != "drop":
        return []
    rows = Reading.objects.filter(
        test__turn__in=[s.turn for g in groups for s in g.found.counted], key="drops"
    ).order_by("test__at", "id")
    texts: dict[int, list[str]] = defaultdict(list)
    for condition, text in rows.values_list("test__turn__condition_id", "text"):
        texts[condition].append(text)
    said = []
    for g in groups:
        series = texts.get(g.condition.pk, [])
        if len(series) < 2:
            continue
        drops = compute(method, {"drops": "; ".join(series)})
        prop = drops.results[0].property
        value = bounded_text(drops.results[0].observation, prop.dimension, prop.unit)
        count = len(drops.readings["drops"].rows)
        by = drops.results[0].steps[0].numbers if drops.results[0].steps else ""
        said.append(
            f"{g.condition}: {count} drops of {len(series)} specimens as one series: {value} ({by})."
        )
    return said


def _running(groups: Sequence[ComparedGroup]) -> list[str]:
    """What was read so far of tests that run."""
    return [words for g in groups for words in g.running]


def _bent(groups: Sequence[ComparedGroup]) -> list[str]:
    """Specimens that were too bowed or slanted to sit right."""
    rows = [s for g in groups for s in g.found.counted if s.doubt]
    return [
        f"{s.code} was {s.doubt} when it was tested: its strength is doubtful." for s in rows[:6]
    ]


def _out_of_state(groups: Sequence[ComparedGroup]) -> list[str]:
    """Specimens tested some while after they left the state they were brought to."""
    late = [s for g in groups for s in g.found.counted if s.happened and (s.out or 0) > _SOON]
    if not late:
        return []
    worst = max(late, key=lambda s: s.out or 0)
    codes = ", ".join(s.code for s in late[:6]) + (" …" if len(late) > 6 else "")
    return [
        f"{codes} {'was' if len(late) == 1 else 'were'} tested up to {time_words(worst.out or 0, 2)} "
        f"out of “{worst.happened}”: no longer fully conditioned."
    ]


def _untimely(groups: Sequence[ComparedGroup]) -> list[str]:
    """Specimens that were tested although they were not ready, with the reason."""
    return [
        f"{code} of {g.condition} was tested anyway: {why}"
        for g in groups
        for code, why in g.untimely
    ]


def _overdue(groups: Sequence[ComparedGroup]) -> list[str]:
    """Tests on a rig whose calibration was overdue that day."""
    late = [s for g in groups for s in g.found.counted if s.overdue]
    if not late:
        return []
    codes = ", ".join(s.code for s in late[:4]) + (" …" if len(late) > 4 else "")
    was = "was" if len(late) == 1 else "were"
    return [f"{len(late)} {was} tested on a rig whose calibration was overdue: {codes}."]


def _unlike_facts(groups: Sequence[ComparedGroup]) -> list[str]:
    """Within one condition, tests that were set to unlike speeds or states."""
    said = []
    for g in groups:
        speeds = {s.speed for s in g.found.counted if s.speed}
        if len(speeds) > 1:
            words = ", ".join(speed_words(x) for x in sorted(speeds))
            said.append(f"{g.condition} mixes tests at {words}.")
    return said


def unlike_breaks(groups: Sequence[ComparedGroup], method: Method) -> list[str]:
    """In words how the conditions broke, where the method keeps unlike ways apart and they differ."""
    ends = {g.outcomes[0] for g in groups if g.outcomes}
    return (
        [o.label for o in method.outcomes if o.key in ends]
        if method.apart and len(ends) > 1
        else []
    )


def grades_of(condition: int) -> list[tuple[str, float, int]]:
    """Printability of a condition: (aspect, mean grade, how many), from its specimens and their batches."""
    rows = (
        Grade.objects.filter(batch__plates__prints__specimen__condition_id=condition)
        .filter(Q(specimen__isnull=True) | Q(specimen__condition_id=condition))
        .values("aspect")
        .annotate(mean=Avg("score"), n=Count("id", distinct=True))
        .order_by("aspect")
    )
    found = [(ASPECTS[r["aspect"]][0], r["mean"], r["n"]) for r in rows]
    tried = ease_of_condition(condition)
    if tried:
        words = f"Ease, {number(tried.mean, '.1f')} attempts a plate over {tried.plates}"
        found.append((words, float(tried.grade), 1))
    return found


def _count_unfinished(campaign: Campaign, groups: dict[int, dict[int, ComparedGroup]]) -> None:
    counts: dict[tuple[int, int, str], int] = defaultdict(int)
    rows = (
        Turn.objects.filter(campaign=campaign)
        .values_list("procedure_id", "condition_id", "state", "reading_outstanding")
        .order_by()
        .annotate(n=Count("id"))
    )
    for procedure, condition, state, outstanding, n in rows:
        counts[procedure, condition, "waiting" if outstanding else state] += n
    if any(state == "running" for _, _, state in counts):
        for condition, procedure, words in so_far(campaign):
            if procedure in groups and condition in groups[procedure]:
                groups[procedure][condition].running.append(words)
    for procedure, by_condition in groups.items():
        for condition, group in by_condition.items():
            group.void = counts[procedure, condition, "void"]
            group.waiting = (
                counts[procedure, condition, "waiting"] + counts[procedure, condition, "running"]
            )
