"""The read API: JSON lists that can be filtered and paged, by a personal token."""

from typing import Any

from django.db.models import Q, QuerySet
from django.http import Http404, HttpRequest
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import NinjaAPI, Query
from ninja.pagination import LimitOffsetPagination, paginate
from ninja.security import HttpBearer

from brunt_core.errors import InputError
from brunt_core.observations import Observation
from brunt_core.properties import PROPERTIES
from brunt_core.quantities.rendering import width_in_unit
from brunt_web.campaigns.models import Campaign, HistoryEvent, Turn
from brunt_web.campaigns.queries import conditions_made, procedures_of
from brunt_web.comparison.page import Page, build
from brunt_web.exchange.records import (
    condition_record,
    procedure_record,
    property_record,
    records_of,
    shown_in,
    tested_turns,
)
from brunt_web.library.models import Material, Procedure
from brunt_web.notebooks import shapes
from brunt_web.notebooks.actions.tokens import opened_by
from brunt_web.people.models import Workshop
from brunt_web.rack.finding import found as campaigns_found
from brunt_web.results.models import Result


class Refused(Exception):
    """A token that opens nothing, with the sentence to say."""


class PersonalToken(HttpBearer):
    """``Authorization: Bearer brunt_…``"""

    def authenticate(self, request: HttpRequest, token: str) -> Workshop:
        """The workshop it opens."""
        try:
            return opened_by(token, timezone.now(), timezone.localdate()).workshop
        except InputError as error:
            raise Refused(error.sentence) from None


api = NinjaAPI(
    title="Brunt, for reading",
    version="1",
    description="Everything measured in a workshop, as JSON. Values are in SI unless a field says otherwise; "
    "bounds stay bounds. Lists are {items, count}; page them with limit (1 to 1000) and offset.",
    auth=PersonalToken(),
    docs_url=None,
    urls_namespace="api",
)


class Pages(LimitOffsetPagination):
    """Pages of up to 1000."""

    class Input(LimitOffsetPagination.Input):
        """limit and offset."""

    def paginate_queryset(
        self, queryset: Any, pagination: Any, request: HttpRequest, **params: Any
    ) -> Any:
        """One page; the rows of lazy lists are made for it alone."""
        asked = min(pagination.limit, 1000)
        if isinstance(queryset, Made):
            items = queryset.rows(pagination.offset, asked)
            return {"items": items, "count": queryset.count}
        return super().paginate_queryset(queryset, pagination, request, **params)


class Made:
    """A query whose rows become records a page at a time."""

    def __init__(self, query: QuerySet, make: Any) -> None:
        self.query, self.make = query, make

    @property
    def count(self) -> int:
        """How many there are in all."""
        return int(self.query.count())

    def rows(self, offset: int, limit: int) -> list[Any]:
        """The records of one page."""
        return list(self.make(list(self.query[offset : offset + limit])))


@api.exception_handler(Refused)
def refused(request: HttpRequest, error: Refused) -> Any:
    """401 with the sentence."""
    return api.create_response(request, {"detail": str(error)}, status=401)


@api.exception_handler(Http404)
def missing(request: HttpRequest, error: Http404) -> Any:
    """404 with a sentence that names no model."""
    return api.create_response(request, {"detail": "There is no such thing in this workshop."}, status=404)  # fmt: skip


def _shop(request: HttpRequest) -> Workshop:
    shop = request.auth  # type: ignore[attr-defined]
    assert isinstance(shop, Workshop)
    return shop


@api.get("/campaigns", response=list[shapes.CampaignOut], summary="Campaigns, newest first")
@paginate(Pages)
def campaigns(request: HttpRequest, asked: Query[shapes.CampaignsAsked]) -> Any:
    """Filter by words, state and the day they were asked on."""
    query = campaigns_found(_shop(request), asked.dict())
    return Made(query, lambda rows: [_campaign(c) for c in rows])


def _campaign(campaign: Campaign) -> dict[str, Any]:
    return {
        "id": campaign.pk,
        "question": campaign.question,
        "asked": campaign.created_at,
        "last_tested": getattr(campaign, "last", None),
        "archived": campaign.archived_at is not None,
        "confidence": campaign.confidence,
        "replicates": campaign.replicates,
        "seed": campaign.seed,
    }


@api.get("/campaigns/{pk}/conditions", response=list[shapes.ConditionOut], summary="Conditions of a campaign")  # fmt: skip
@paginate(Pages)
def conditions(request: HttpRequest, pk: int, q: str = "") -> Any:
    """In the order they were planned; filter by part of the name."""
    one = get_object_or_404(Campaign, workshop=_shop(request), pk=pk)
    named = Q(label__icontains=q[:80]) | Q(detail__icontains=q[:80])
    query = (
        one.conditions.filter(named).select_related("material").prefetch_related("levels__factor")
    )
    return Made(query, lambda rows: [condition_record(c) for c in rows])


@api.get(
    "/campaigns/{pk}/ranking", response=shapes.RankingOut, summary="The ranking of a procedure"
)
def ranking(request: HttpRequest, pk: int, procedure: int | None = None, property: str = "") -> Any:
    """What Compare shows: ranked conditions with intervals, letters and every specimen.

    The first procedure and the property it is ranked by, unless others are named.
    """
    one = get_object_or_404(Campaign, workshop=_shop(request), pk=pk)
    procedures = procedures_of(one)
    if not procedures or (procedure and procedure not in {p.pk for p in procedures}):
        raise Http404
    view = str(procedure or procedures[0].pk)
    query = {"view": view, "property": property}
    return _ranking(one, build(one, procedures, conditions_made(one), query))


def _ranking(campaign: Campaign, page: Page) -> dict[str, Any]:
    prop = page.compared
    return {
        "campaign": campaign.pk,
        "procedure": str(page.procedure),
        "property": prop.key if prop else "",
        "unit": page.unit,
        "confidence": campaign.confidence,
        "summary": [str(f) for f in page.campaign_summary],
        "rows": [
            {
                "place": i,
                "condition": r.name,
                "mean": _number(r.summary.mean),
                "sign": r.summary.sign,
                "low": _number(r.summary.low),
                "high": _number(r.summary.high),
                "n": r.summary.n,
                "n_bounded": r.summary.n_bounded,
                "letters": r.letters,
                "values": [o.anchor for o in r.observations],
                "kinds": [o.kind for o in r.observations],
            }
            for i, r in enumerate(page.ranking.rows, 1)
        ],
    }


def _number(value: float | None) -> float | None:
    return None if value is None or value != value else value


@api.get("/materials", response=list[shapes.MaterialOut], summary="Materials by name")
@paginate(Pages)
def materials(request: HttpRequest, q: str = "", family: str = "") -> Any:
    """Filter by part of the name and by family."""
    query = Material.objects.filter(workshop=_shop(request), name__icontains=q[:80])
    query = query.filter(family=family) if family else query
    return Made(query.order_by("name"), lambda rows: [_material(m) for m in rows])


def _material(m: Material) -> dict[str, Any]:
    price = None if m.price is None else float(m.price)
    names = ("name", "family", "form", "filler", "density")
    return {"id": m.pk, "price_per_kg": price, **{n: getattr(m, n) for n in names}}


@api.get("/procedures", response=list[shapes.ProcedureOut], summary="Procedures by name")
@paginate(Pages)
def procedures(request: HttpRequest, method: str = "") -> Any:
    """Filter by method."""
    query = Procedure.objects.filter(workshop=_shop(request)).select_related("rig", "variant")
    query = query.filter(method_key=method[:40]) if method else query
    return Made(query.order_by("name"), lambda rows: [procedure_record(p) for p in rows])


@api.get("/properties", response=list[shapes.PropertyOut], summary="What can be measured")
@paginate(Pages)
def properties(request: HttpRequest, q: str = "") -> Any:
    """Keys, names, units, and which way is better; filter by part of key or name."""
    low = q.lower()
    fit = [p for p in PROPERTIES.values() if low in p.key or low in p.name.lower()]
    return [property_record(p) for p in fit]


@api.get("/tests", response=list[shapes.TestOut], summary="Tests, done or waiting")
@paginate(Pages)
def tests(request: HttpRequest, asked: Query[shapes.TestsAsked]) -> Any:
    """With sizes, readings as typed, results and deviations."""
    where = _where(asked, "")
    turns = Turn.objects.filter(where, campaign__workshop=_shop(request)).order_by("campaign_id", "run_order", "id")  # fmt: skip
    return Made(tested_turns(turns), records_of)


@api.get("/results", response=list[shapes.ResultOut], summary="Results, a row each")
@paginate(Pages)
def results(request: HttpRequest, asked: Query[shapes.ResultsAsked]) -> Any:
    """Flat rows for a data frame, in the order they were tested."""
    query = Result.objects.filter(_where(asked, "turn__"), turn__campaign__workshop=_shop(request))
    if asked.property:
        query = query.filter(property_key=asked.property)
    if not asked.excluded:
        query = query.counted()
    query = query.select_related(
        *("turn__specimen", "turn__condition__material", "turn__procedure__variant")
    ).order_by("turn__campaign_id", "turn__tested_at", "turn_id", "property_key")
    return Made(query, lambda rows: [_result(r) for r in rows])


def _where(asked: shapes.TestsAsked, way: str) -> Q:
    found = Q()
    for name, path in (
        ("campaign", "campaign_id"),
        ("condition", "condition_id"),
        ("material", "condition__material_id"),
        ("procedure", "procedure_id"),
    ):
        number = getattr(asked, name)
        if number is not None:
            found &= Q(**{way + path: number})
    if asked.specimen:
        found &= Q(**{f"{way}specimen__code": asked.specimen.upper()})
    if asked.since:
        found &= Q(**{f"{way}tested_at__date__gte": asked.since})
    if asked.until:
        found &= Q(**{f"{way}tested_at__date__lte": asked.until})
    return found


def _result(row: Result) -> dict[str, Any]:
    turn = row.turn
    prop = turn.procedure.property_called(row.property_key)
    seen = Observation(row.lower, row.upper)
    width = row.uncertainty
    return {
        "specimen": turn.code,
        "campaign": turn.campaign_id,
        "condition": str(turn.condition),
        "condition_id": turn.condition_id,
        "material": str(turn.condition.material) if turn.condition.material else None,
        "procedure": turn.procedure.name,
        "procedure_id": turn.procedure_id,
        "replicate": turn.replicate,
        "property": row.property_key,
        "kind": seen.kind,
        "lower": row.lower,
        "upper": row.upper,
        "value": shown_in(seen.anchor, prop),
        "unit": prop.unit,
        "uncertainty": None if width is None else width_in_unit(width, prop.dimension, prop.unit),
        "outcome": turn.outcome,
        "excluded": turn.excluded_because if turn.excluded else None,
        "tested": turn.tested_at,
    }


@api.get("/histories", response=list[shapes.EventOut], summary="History of specimens")
@paginate(Pages)
def histories(
    request: HttpRequest, campaign: int | None = None, specimen: str = "", kind: str = ""
) -> Any:
    """In the order it happened."""
    query = HistoryEvent.objects.filter(specimen__workshop=_shop(request))
    query = query.filter(specimen__campaign=campaign) if campaign is not None else query
    query = query.filter(specimen__code=specimen.upper()[:20]) if specimen else query
    query = query.filter(kind=kind[:20]) if kind else query
    return Made(query.select_related("specimen", "by").order_by("at", "id"), lambda rows: [_event(e) for e in rows])  # fmt: skip


def _event(event: HistoryEvent) -> dict[str, Any]:
    return {
        "specimen": event.specimen.code,
        "at": event.at,
        "written_down": event.noted_at,
        "kind": event.kind,
        "what": event.what,
        "by": event.by.get_username() if event.by else "",
        "taken_back": event.undone_at,
    }
