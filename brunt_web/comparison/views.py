"""Compare: the ranking."""

from dataclasses import replace
from typing import Any
from urllib.parse import urlencode

from django.db.models import prefetch_related_objects
from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from brunt_core.quantities.rendering import figures, number
from brunt_core.statistics.comparisons import Pair, together, welch_p
from brunt_core.statistics.equivalence import within
from brunt_web.asking.guard import campaign_confounders
from brunt_web.campaigns.models import Campaign, Condition
from brunt_web.campaigns.queries import campaign_of, conditions_made, procedures_of, progress
from brunt_web.comparison.further import FAMILIES, further_of
from brunt_web.comparison.lines import Line
from brunt_web.comparison.normalising import choices_of
from brunt_web.comparison.numeric_factor import numeric_factor
from brunt_web.comparison.page import Page, build
from brunt_web.comparison.pages.frame import shown_conditions
from brunt_web.comparison.plausibility import scale_errors
from brunt_web.comparison.queries import RATIO, SHOWN, grades_of, shifted
from brunt_web.comparison.ranking_chart import HEIGHT, WIDTH
from brunt_web.comparison.strips import strip_of
from brunt_web.comparison.summary_view import hangs_on
from brunt_web.comparison.switches import upright_and_flat
from brunt_web.comparison.tabs import address_of, kept_of, tabs_of
from brunt_web.interface.context import campaign_surroundings
from brunt_web.library.models import Procedure
from brunt_web.people.requests import SeatedRequest

_FEW = 12


@require_GET
def compare(request: SeatedRequest, pk: int) -> HttpResponse:
    """The ranking for the switches in the address."""
    campaign = campaign_of(request.workshop, pk)
    prefetch_related_objects([campaign], "factors")
    procedures = procedures_of(campaign)
    every = conditions_made(campaign)
    conditions = shown_conditions(request, campaign, every)
    page = build(campaign, procedures, conditions, request.GET)
    page.carried = {
        k: request.GET[k]
        for k in ("lit", "keep", "sort", "apart", "by", "family")
        if request.GET.get(k)
    }
    if page.procedure:
        page.remarks += shifted(campaign.workshop, page.procedure, page.groups)
        page.remarks[:0] = scale_errors(campaign, [page.procedure])
    for shown in (page, *page.beside):
        shown.light()
    opened = _linked(page)
    return render(
        request,
        "comparison/ranking_chart.html",
        {
            "page": page,
            "procedures": procedures,
            "ranking_chart": {"width": WIDTH, "height": HEIGHT},
            "views": _views(page, procedures),
            "shows": _shows(page),
            "orders": _orders(page),
            "references": _references(page),
            "properties": _properties(page),
            "opened": opened,
            "further": further_of(opened.row.observations, opened.group, page.switches.family)
            if opened
            else [],
            "families": _families(page),
            "pairs": _pairs(page) if page.switches.pairs or len(page.lines) <= _FEW else None,
            "pairs_url": _address(page, pairs=1) + "#pairs",
            **_pair_links(page),
            "tabs": tabs_of(campaign, "ranking", request.GET),
            "kept": kept_of(campaign, "ranking", request.GET),
            "bys": choices_of(campaign, "ranking", request.GET),
            "hangs": hangs_on(strip_of(campaign, page)) if page.compared else "",
            "factor": _factor(campaign, request),
            "grades": grades_of(page.switches.opened) if page.switches.opened else [],
            "guard": _guard(campaign, every, procedures),
            **campaign_surroundings(campaign, "compare", progress(campaign)),
        },
    )


def _linked(page: Page) -> Line | None:
    """Give every row its addresses; the one that is opened."""
    for line in page.every:
        line.working_url = _address(page, working=line.group.condition.pk) + "#working"
        line.choose_url = _address(page, chosen=line.group.condition.pk)
    own = page.switches.opened
    return next((line for line in page.every if line.group.condition.pk == own), None)


def _guard(
    campaign: Campaign, conditions: list[Condition], procedures: list[Procedure]
) -> list[tuple[str, str]]:
    """What differs besides the factors: (sentence, accepted reason or nothing)."""
    found = campaign_confounders(campaign, conditions, procedures)
    accepted = {a.key: a.reason for a in campaign.accepted.all()} if found else {}
    return [(f.sentence, accepted.get(f.key, "")) for f in found]


def _address(page: Page, **changed: Any) -> str:
    s = page.switches
    kept = {
        **page.carried,
        "view": s.view,
        "show": s.show,
        "reference": s.reference,
        "property": s.property,
        "order": s.order if s.order != "mean" else "",
        "chosen": s.chosen,
        "alike": f"{s.alike * 100:.0f}" if s.alike else "",
        "control": 1 if s.control else "",
    }
    query = {**kept, **changed}
    return "?" + urlencode({k: v for k, v in query.items() if v not in (None, "")})


def _factor(campaign: Campaign, request: SeatedRequest) -> tuple[str, str] | None:
    """The factor that the one-factor view draws, and where; nothing where no factor has numbers."""
    if not any(f.kind not in ("material", "lot") for f in campaign.factors.all()):
        return None
    found = numeric_factor(campaign)
    return (
        (found.name, address_of(campaign, "one-factor", request.GET, working="")) if found else None
    )


def _families(page: Page) -> list[tuple[str, str, bool]]:
    """By which distribution the opened one's median and bounds are worked."""
    now, opened = page.switches.family, page.switches.opened
    return [
        (word, _address(page, family=key, working=opened) + "#working", key == now)
        for key, word in FAMILIES.items()
    ]


def _views(page: Page, procedures: list[Procedure]) -> list[tuple[str, str, bool]]:
    pair = upright_and_flat(procedures)
    short = pair and len(procedures) == 2
    rows = [(p.orientation.capitalize() if short else p.name, str(p.pk)) for p in procedures]
    rows += [("Upright ÷ flat", RATIO)] if pair else []
    return [
        (label, _address(page, view=key, property=""), key == page.switches.view)
        for label, key in rows
    ]


def _shows(page: Page) -> list[tuple[str, str, bool]]:
    if page.compared is None:
        return []
    unit = page.compared.unit or "number"
    s = page.switches
    return [
        (
            unit if key == "unit" else label,
            _address(page, show=key),
            key == s.show,
        )
        for key, label in SHOWN.items()
    ]


def _orders(page: Page) -> list[tuple[str, str, bool]]:
    """By mean, or by the worst specimen of each."""
    if page.compared is None or page.compared.ordinal:
        return []
    without = (("without", "without outliers"),) if page.outlier else ()
    worst = "by maximum" if page.compared.better == "lower" else "by minimum"
    return [
        (word, _address(page, order=key), key == page.switches.order)
        for key, word in (("mean", "by mean"), *without, ("worst", worst))
    ]


def _properties(page: Page) -> list[tuple[str, str, bool]]:
    """What else can be compared: (key, name, chosen)."""
    compared = page.compared
    if not page.properties or compared is None:
        return []
    return [(p.key, p.name, p.key == compared.key) for p in page.properties]


def _references(page: Page) -> list[tuple[int, str, bool]]:
    return [(c.pk, str(c), c.pk == page.switches.reference) for c in page.conditions]


def _pair_links(page: Page) -> dict[str, Any]:
    """Which pairs are judged together, and the limit of equivalence."""
    control, limit = page.switches.control, page.switches.alike
    return {
        "families": [
            ("all pairs", _address(page, pairs=1, control="") + "#pairs", not control),
            ("with the reference only", _address(page, pairs=1, control=1) + "#pairs", control),
        ],
        "alikes": [
            (
                f"{n} %" if n else "not asked",
                _address(page, pairs=1, alike=n or "") + "#pairs",
                limit == n / 100,
            )
            for n in (0, 5, 10, 20)
        ],
    }


def judged_pairs(page: Page) -> list[Pair]:
    """All pairs, or those with the reference judged as so many only (Šidák)."""
    if not page.switches.control:
        return list(page.ranking.pairs)
    base = next(
        (i for i, r in enumerate(page.ranking.rows) if r.name == page.ranking.reference), None
    )
    with_it = [p for p in page.ranking.pairs if base in (p.first, p.second)]
    family = max(sum(p.basis != "none" for p in with_it), 1)
    return [
        p
        if p.basis in ("none", "rank-sum")
        else replace(
            p,
            p=float(together(welch_p(p.difference, p.standard_error, p.df), family)),
            family=family,
        )
        for p in with_it
    ]


def _pairs(page: Page) -> list[dict[str, Any]]:
    """All pairs in words and numbers: the table behind the brackets."""
    rows = page.ranking.rows
    found = []
    for pair in judged_pairs(page):
        low, high = pair.interval(page.ranking.confidence)
        alike = None
        if page.switches.alike:
            one, other = rows[pair.first].summary, rows[pair.second].summary
            names = rows[pair.first].name, rows[pair.second].name
            unlike = page.rigs.of_difference(*names) if page.rigs else 0.0
            alike, _ = within(
                one, other, page.switches.alike, page.ranking.confidence, pair.family, unlike
            )
        found.append(
            {
                "alike": {True: "yes", False: "cannot be said", None: "–"}[alike],
                "first": rows[pair.first].name,
                "second": rows[pair.second].name,
                "difference": figures(pair.difference),
                "low": figures(low),
                "high": figures(high),
                "df": number(pair.df, ".1f"),
                "p": "< 0.0001" if pair.p < 1e-4 else number(pair.p, ".4f"),
                "basis": pair.basis,
                "spread": pair.basis not in ("none", "rank-sum"),
                "apart": pair.basis != "none" and pair.p < 1 - page.ranking.confidence,
            }
        )
    return found
