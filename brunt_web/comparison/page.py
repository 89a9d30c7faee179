"""Everything the Compare screen shows, made from groups and three switches."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from brunt_core.comparability import comparability_key
from brunt_core.normalisation import NORMALISERS
from brunt_core.planning.deviations import speed_words
from brunt_core.properties import Property
from brunt_core.statistics.campaign_summary import Finding, campaign_summary
from brunt_core.statistics.direction import rank_ratios
from brunt_core.statistics.ranking import Ranking, rank, with_calibration
from brunt_core.statistics.rigs import Rigs, quotients
from brunt_web.campaigns.models import Campaign, Condition
from brunt_web.comparison import ranking_chart
from brunt_web.comparison.lines import Line, by_the_worst, interval_of, line_for, spoken_mean
from brunt_web.comparison.normalising import fits, named
from brunt_web.comparison.queries import (
    RATIO,
    ComparedGroup,
    groups_of,
    remarks_of,
    without_outliers,
)
from brunt_web.comparison.switches import Switches, switches_from, upright_and_flat
from brunt_web.interface.scale import Scale, scale_for
from brunt_web.library.models import Procedure
from brunt_web.results import reading as samples
from brunt_web.testing.rigs import rig_shares_of_groups, unlike_in_quotients, unlike_rigs


@dataclass
class Page:
    """The whole screen."""

    switches: Switches
    title: str
    unit: str
    ranking: Ranking
    campaign_summary: list[Finding]
    lines: list[Line]
    scale: Scale
    guide: float | None
    missing: list[ComparedGroup]
    conditions: list
    procedure: Procedure | None
    remarks: list[str]
    properties: list[Property]
    kind: str = ""
    beside: list["Page"] = field(default_factory=list)
    groups: list[ComparedGroup] = field(default_factory=list)
    carried: dict[str, str] = field(default_factory=dict)
    outlier: bool = False
    rigs: Rigs | None = None

    @property
    def every(self) -> list[Line]:
        """The rows of this ranking and of those beside it."""
        return [*self.lines, *(line for other in self.beside for line in other.lines)]

    @property
    def crowded(self) -> bool:
        """Whether brackets would run off: then the rows that do not differ significantly from the chosen are lit."""
        return len(self.lines) > 12 or len(self.ranking.sets) > 4 or not self.ranking.sets

    def light(self) -> None:
        """Mark the rows that do not differ significantly from the chosen one, the first unless another was pressed."""
        names = {line.row.name: i for i, line in enumerate(self.lines)}
        rows = {r.name: i for i, r in enumerate(self.ranking.rows)}
        picked = next((x for x in self.lines if x.group.condition.pk == self.switches.chosen), None)
        if picked is None and (not self.crowded or not self.lines):
            return
        picked = picked or self.lines[0]
        picked.chosen = True
        place = rows[picked.row.name]
        for name, i in names.items():
            if name != picked.row.name:
                self.lines[i].alike = not self.ranking.apart(place, rows[name])

    @property
    def compared(self) -> Property | None:
        """The property compared; none where ratios are."""
        return compared_property(self.procedure, self.switches) if self.procedure else None

    @property
    def agreement(self) -> str:
        """What all tests compared here agree on, or in what they do not."""
        if self.procedure is None:
            return ""
        keys: dict[str, list[str]] = {}
        for group in self.groups:
            for speed, state in {(s.speed, s.state) for s in group.found.counted}:
                facts = replace(
                    self.procedure.facts,
                    speed=speed_words(speed) if speed else "",
                    conditioning=state,
                )
                keys.setdefault(comparability_key(facts), []).append(str(group.condition))
        if len(keys) > 1:
            said = "; ".join(f"{key}: {', '.join(who)}" for key, who in keys.items())
            return f"not tested alike, which is either the question or must be fixed: {said}"
        return (
            f"compared because all agree on: {next(iter(keys), self.procedure.comparability_key)}"
        )

    @property
    def worst(self) -> str:
        """What a part that must not fail is designed on; empty where the order is by mean."""
        if self.switches.order != "worst" or self.compared is None:
            return ""
        return "greatest" if self.compared.better == "lower" else "smallest"

    @property
    def ranking_unit(self) -> str:
        """The unit the means and differences of the ranking are in."""
        return (self.compared.unit or "the number itself") if self.compared else "ratio"


def compared_property(procedure: Procedure, switches: Switches) -> Property:
    """The property the switches ask for, else the one the procedure is ranked by."""
    prop = procedure.property_called(switches.property or procedure.ranked_property.key)
    return named(procedure, prop, switches.by)


def build(
    campaign: Campaign,
    procedures: list[Procedure],
    conditions: list[Condition],
    query: Mapping[str, str],
) -> Page:
    """The page for these switches."""
    switches = switches_from(query, campaign, procedures, {c.pk for c in conditions})
    if switches.reference is None and conditions:
        switches.reference = conditions[0].pk
    ratio = switches.view == RATIO
    chosen = {} if ratio else {int(switches.view): switches.property}
    asked = procedures if ratio else [p for p in procedures if str(p.pk) == switches.view]
    found = groups_of(campaign, asked, conditions, chosen, switches.by)
    if ratio:
        return _ratio_page(campaign, procedures, found.by_procedure, switches)
    procedure = next(p for p in procedures if str(p.pk) == switches.view)
    groups = found.by_procedure[procedure.pk]
    outlier = any(g.outlier for g in groups.values())
    if switches.order == "without":
        groups = {pk: without_outliers(g) for pk, g in groups.items()}
    page = _by_kind(campaign, procedure, groups, switches)
    page.outlier = outlier
    page.properties = _measured(procedure, found.measured[procedure.pk])
    return page


def _measured(procedure: Procedure, keys: set[str]) -> list[Property]:
    """The properties that have results, in the method's order; none when there is no choice."""
    order = dict.fromkeys(r.property for r in procedure.method.results)
    found = [procedure.property_called(key) for key in order if key in keys]
    return found if len(found) > 1 else []


def _by_kind(
    campaign: Campaign, procedure: Procedure, groups: dict[int, ComparedGroup], switches: Switches
) -> Page:
    """One ranking; where the method never averages unlike breaks, one within each kind.

    The kind most conditions ended in comes first; a group that ended otherwise does not silence it.
    """
    ends = {pk: g.outcomes[0] for pk, g in groups.items() if g.outcomes}
    kinds = list(dict.fromkeys(ends.values()))
    if not procedure.method.apart or len(kinds) < 2:
        return _means_page(campaign, procedure, groups, switches)
    order = [o.key for o in procedure.method.outcomes]
    kinds.sort(key=lambda k: (-list(ends.values()).count(k), order.index(k)))
    pages = []
    for kind in kinds:
        members = {pk: g for pk, g in groups.items() if ends.get(pk, kinds[0]) == kind}
        page = _means_page(campaign, procedure, members, switches)
        found = procedure.method.outcome(kind)
        page.kind = found.label if found else kind
        pages.append(page)
    first, *first.beside = pages
    named = {str(g.condition): g for g in groups.values()}
    rigs = rig_shares_of_groups(procedure, compared_property(procedure, switches), _found(named))
    first.remarks = remarks_of(list(groups.values()), procedure.method) + unlike_rigs(rigs)
    first.conditions = [g.condition for g in groups.values()]
    first.groups = list(groups.values())
    return first


def _means_page(
    campaign: Campaign, procedure: Procedure, groups: dict[int, ComparedGroup], switches: Switches
) -> Page:
    named = {str(g.condition): g for g in groups.values()}
    reference = str(groups[switches.reference].condition) if switches.reference in groups else None
    if reference and not named[reference].values:
        reference = None
    prop = compared_property(procedure, switches)
    rigs = rig_shares_of_groups(procedure, prop, _found(named))
    ranking = rank(
        {n: g.values for n, g in named.items() if g.values},
        reference,
        prop.better,
        campaign.confidence,
        {n: g.rounding for n, g in named.items()},
        prop.ordinal,
        rigs=rigs,
    )
    ranking = with_calibration(ranking, {n: rigs.of_mean(n) for n in named})
    percent = {"best": "of_best", "reference": "of_reference"}.get(switches.show)
    base = None if prop.ordinal else _base(ranking, switches.show, reference)
    factor = {r.name: (100.0 / base if base else 1.0) for r in ranking.rows}
    unit = (
        f"% of {ranking.rows[0].name if switches.show == 'best' else reference}"
        if base
        else prop.unit
    )
    told = switches.property or switches.by
    title = f"{procedure.name}: {prop.name.lower()}" if told else procedure.name
    page = _page(
        switches,
        title,
        unit,
        ranking=ranking,
        named=named,
        factor=factor,
        percent=percent if base else None,
        procedure=procedure,
    )
    page.rigs = rigs
    page.remarks += unlike_rigs(rigs)
    return page


def _found(named: dict[str, ComparedGroup]) -> dict[str, samples.Group]:
    return {name: g.found for name, g in named.items()}


def _base(ranking: Ranking, show: str, reference: str | None) -> float | None:
    if show == "best" and ranking.rows:
        return ranking.rows[0].summary.mean or None
    found = (
        next((r for r in ranking.rows if r.name == reference), None)
        if show == "reference"
        else None
    )
    return found.summary.mean if found else None


def _ratio_page(
    campaign: Campaign,
    procedures: list[Procedure],
    groups: dict[int, dict[int, ComparedGroup]],
    switches: Switches,
) -> Page:
    top, bottom = upright_and_flat(procedures)  # type: ignore[misc]
    named = {str(g.condition): g for g in groups[top.pk].values()}
    flat = {str(g.condition): g for g in groups[bottom.pk].values()}
    above, under = (
        rig_shares_of_groups(p, p.ranked_property, _found(own))
        for p, own in ((top, named), (bottom, flat))
    )
    rigs = quotients(above, under)
    upright, along = ({n: g.values for n, g in own.items()} for own in (named, flat))
    ranking = rank_ratios(upright, along, campaign.confidence, rigs)
    factor = {r.name: 1.0 for r in ranking.rows}
    whole = _ratios_with_all(named, flat, campaign.confidence)
    page = _page(
        switches,
        f"Upright ÷ flat{_by_words(top, bottom, switches.by)}",
        "ratio",
        ranking=ranking,
        named=named,
        factor=factor,
        percent=None,
        procedure=None,
        with_all=whole,
    )
    page.rigs = rigs
    page.remarks += unlike_in_quotients(rigs)
    return page


def _by_words(top: Procedure, bottom: Procedure, by: str) -> str:
    """What both sides of a quotient are normalised by, where both can be."""
    both = by and all(fits(p, p.ranked_property, by) for p in (top, bottom))
    return f", {NORMALISERS[by].words}" if both else ""


def _ratios_with_all(
    top: dict[str, ComparedGroup], bottom: dict[str, ComparedGroup], confidence: float
) -> dict[str, str]:
    """The ratio with every specimen back in, for conditions where one is excluded."""
    touched = {n for n in top if top[n].excluded or (n in bottom and bottom[n].excluded)}
    if not touched:
        return {}
    whole = rank_ratios(
        {n: top[n].with_all for n in touched},
        {n: bottom[n].with_all for n in touched if n in bottom},
        confidence,
    )
    return {r.name: spoken_mean(r.summary, 1.0) for r in whole.rows}


def _page(
    switches: Switches,
    title: str,
    unit: str,
    ranking: Ranking,
    named: dict[str, ComparedGroup],
    factor: dict[str, float],
    percent: str | None,
    procedure: Procedure | None,
    with_all: dict[str, str] | None = None,
) -> Page:
    intervals = {r.name: interval_of(r, factor[r.name], percent) for r in ranking.rows}
    scale = scale_for(ranking_chart.values_shown(ranking, factor, intervals), ranking_chart.WIDTH)
    marks = ranking_chart.brackets(ranking)
    lines = [
        line_for(
            i,
            r,
            named[r.name],
            scale=scale,
            factor=factor[r.name],
            interval=intervals[r.name],
            marks=marks[i],
            with_all=None if with_all is None else with_all.get(r.name, ""),
        )
        for i, r in enumerate(ranking.rows)
    ]
    prop = compared_property(procedure, switches) if procedure else None
    if switches.order == "worst" and prop:
        lines = by_the_worst(lines, prop.better)
    reference = next((r for r in ranking.rows if r.name == ranking.reference), None)
    guide = scale.x(reference.summary.mean * factor[reference.name]) if reference else None
    missing = [g for n, g in named.items() if n not in factor]
    return Page(
        switches,
        title,
        unit,
        ranking=ranking,
        campaign_summary=campaign_summary(ranking, prop is not None, bool(prop and prop.ordinal)),
        lines=lines,
        scale=scale,
        guide=guide,
        missing=missing,
        conditions=[g.condition for g in named.values()],
        procedure=procedure,
        remarks=remarks_of(list(named.values()), procedure.method) if procedure else [],
        properties=[],
        groups=list(named.values()),
    )
