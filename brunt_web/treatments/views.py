"""Treat: what is outstanding, the runs that carry it out, and the library of treatments."""

from django.contrib import messages
from django.db import transaction
from django.forms import Form
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from brunt_core.errors import InputError
from brunt_core.quantities.rendering import count_of
from brunt_core.treatments.kinds import KINDS
from brunt_web.campaigns.actions.make import carry_out, take_back_step, take_out
from brunt_web.campaigns.models import Campaign, HistoryEvent
from brunt_web.campaigns.queries import campaign_of, progress
from brunt_web.interface.context import campaign_surroundings
from brunt_web.interface.typed import checked, kept
from brunt_web.people.requests import SeatedRequest
from brunt_web.treatments import queries
from brunt_web.treatments.actions.library import add_own_kind, add_vessel
from brunt_web.treatments.forms import ChosenForm, DoneForm, OwnKindForm, RunForm, VesselForm
from brunt_web.treatments.models import OwnKind, Run, RunStep, Vessel


@require_GET
def treat(request: SeatedRequest, pk: int) -> HttpResponse:
    """What this campaign's specimens owe before their test."""
    return _page(request, campaign_of(request.workshop, pk))


def _page(
    request: SeatedRequest, campaign: Campaign, error: InputError | None = None, what: str = ""
) -> HttpResponse:
    steps = queries.outstanding_steps(campaign)
    return render(
        request,
        "treatments/treat.html",
        {
            "steps": steps,
            "carried": queries.treatments_done(campaign),
            "in_state": queries.in_their_state(campaign),
            "runs": [(r, step_now(r)) for r in queries.runs_of(campaign)],
            "sprites": [s for row in steps for s in row.specimens],
            "error": error,
            "refused": what,
            "now": timezone.localtime(),
            **campaign_surroundings(campaign, "treat", progress(campaign)),
        },
        status=422 if error else 200,
    )


@require_POST
def done(request: SeatedRequest, pk: int) -> HttpResponse:
    """A step was done on the specimens ticked."""
    campaign = campaign_of(request.workshop, pk)
    form = DoneForm(request.POST, campaign)
    try:
        told = checked(form)
        step = (told["kind"], told["what"])
        count = carry_out(list(told["specimens"]), request.user, told["at"], step, told["words"])
    except InputError as error:
        return _page(request, campaign, error, str(form["what"].value() or ""))
    messages.success(request, f"“{told['what']}” is noted for {count_of(count, 'specimen')}.")
    return redirect("treat", pk)


@require_POST
def treatment_back_view(request: SeatedRequest, pk: int, event: int) -> HttpResponse:
    """Undo that a step was done, for all it was noted for at once."""
    campaign = campaign_of(request.workshop, pk)
    first = HistoryEvent.objects.filter(specimen__campaign=campaign, pk=event).first()
    if first is None:
        return redirect("treat", pk)
    alike = HistoryEvent.objects.filter(
        specimen__campaign=campaign, kind=first.kind, at=first.at, what=first.what, undone_at=None
    ).select_related("specimen")
    try:
        if first.kind not in ("treated", "conditioned") or not alike:
            raise InputError("There is no such step to undo; perhaps somebody did just now.")
        with transaction.atomic():
            for one in alike:
                take_back_step(one.specimen, one, request.user, timezone.now())
    except InputError as error:
        messages.error(request, error.sentence)
        return redirect("treat", pk)
    messages.success(request, f"“{first.what}” is outstanding again.")
    return redirect("treat", pk)


@require_POST
def treatment_out_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """The specimens ticked were taken out of their state just now."""
    campaign = campaign_of(request.workshop, pk)
    try:
        specimens = list(checked(ChosenForm(request.POST, campaign))["specimens"])
        take_out(specimens, request.user, timezone.now())
    except InputError as error:
        return _page(request, campaign, error)
    messages.success(request, f"{len(specimens)} are out; the bench counts the minutes.")
    return redirect("treat", pk)


def step_now(run: Run) -> RunStep | None:
    """The step a run is in; its first where it has not begun, ``None`` where it is over."""
    steps = list(run.steps.all())
    return next((s for s in steps if not s.ended_at), None) if run.open else None


@require_GET
def treatment_kinds_view(request: SeatedRequest) -> HttpResponse:
    """The library of treatments: kinds with their steps, vessels, lots to dry, what goes on."""
    return _library(request)


def _library(request: SeatedRequest, status: int = 200, **forms: Form) -> HttpResponse:
    shop = request.workshop
    groups: dict[str, list] = {}
    own = [k.kind for k in OwnKind.objects.filter(workshop=shop)]
    for kind in (*KINDS.values(), *own):
        groups.setdefault(kind.group, []).append(kind)
    return render(
        request,
        "treatments/library.html",
        {
            "groups": groups.items(),
            "vessels": Vessel.objects.filter(workshop=shop),
            "open_runs": [(r, step_now(r)) for r in queries.open_runs(shop)],
            "vessel_form": VesselForm(auto_id="vessel-%s"),
            "kind_form": OwnKindForm(auto_id="kind-%s"),
            "dry_form": RunForm(None, shop, None, KINDS["dry-stock"]),
            **forms,
        },
        status=status,
    )


@require_POST
def new_vessel(request: SeatedRequest) -> HttpResponse:
    """One more oven, bath, freezer …"""
    form = VesselForm(request.POST, auto_id="vessel-%s")
    made = kept(form, lambda **told: add_vessel(request.workshop, **told))
    if made is None:
        return _library(request, 422, vessel_form=form)
    messages.success(request, f"{made.name} is added.")
    return redirect("treatments")


@require_POST
def new_kind(request: SeatedRequest) -> HttpResponse:
    """A treatment of the workshop's own."""
    form = OwnKindForm(request.POST, auto_id="kind-%s")
    made = kept(form, lambda **told: add_own_kind(request.workshop, **told))
    if made is None:
        return _library(request, 422, kind_form=form)
    messages.success(request, f"{made.name} is added.")
    return redirect("treatments")
