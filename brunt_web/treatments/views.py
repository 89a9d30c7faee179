"""Treat, as far as it is built: what is owed is noted when it is done, and taken back."""

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from brunt_core.errors import InputError
from brunt_web.campaigns.actions.make import carry_out, take_back_step, take_out
from brunt_web.campaigns.models import Campaign, LifeEvent
from brunt_web.campaigns.queries import campaign_of, progress
from brunt_web.interface.context import campaign_surroundings
from brunt_web.interface.typed import checked
from brunt_web.people.requests import SeatedRequest
from brunt_web.treatments import queries
from brunt_web.treatments.forms import ChosenForm, DoneForm


@require_GET
def treat(request: SeatedRequest, pk: int) -> HttpResponse:
    """What this campaign's specimens owe before their test."""
    return _page(request, campaign_of(request.workshop, pk))


def _page(
    request: SeatedRequest, campaign: Campaign, error: InputError | None = None, what: str = ""
) -> HttpResponse:
    steps = queries.owed_steps(campaign)
    return render(
        request,
        "treatments/treat.html",
        {
            "steps": steps,
            "carried": queries.carried_out(campaign),
            "in_state": queries.in_their_state(campaign),
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
    """A step was carried out on the specimens ticked."""
    campaign = campaign_of(request.workshop, pk)
    form = DoneForm(request.POST, campaign)
    try:
        told = checked(form)
        step = (told["kind"], told["what"])
        count = carry_out(list(told["specimens"]), request.user, told["at"], step, told["words"])
    except InputError as error:
        return _page(request, campaign, error, str(form["what"].value() or ""))
    messages.success(request, f"“{told['what']}” is noted for {count} specimens.")
    return redirect("treat", pk)


@require_POST
def back(request: SeatedRequest, pk: int, event: int) -> HttpResponse:
    """Take back that a step was carried out, for all it was noted for at once."""
    campaign = campaign_of(request.workshop, pk)
    first = LifeEvent.objects.filter(specimen__campaign=campaign, pk=event).first()
    if first is None:
        return redirect("treat", pk)
    alike = LifeEvent.objects.filter(
        specimen__campaign=campaign, kind=first.kind, at=first.at, what=first.what, undone_at=None
    ).select_related("specimen")
    for one in alike:
        take_back_step(one.specimen, one, request.user, timezone.now())
    messages.success(request, f"“{first.what}” is owed again.")
    return redirect("treat", pk)


@require_POST
def out(request: SeatedRequest, pk: int) -> HttpResponse:
    """The specimens ticked were taken out of their state just now."""
    campaign = campaign_of(request.workshop, pk)
    try:
        specimens = list(checked(ChosenForm(request.POST, campaign))["specimens"])
        take_out(specimens, request.user, timezone.now())
    except InputError as error:
        return _page(request, campaign, error)
    messages.success(request, f"{len(specimens)} are out; the bench counts the minutes.")
    return redirect("treat", pk)
