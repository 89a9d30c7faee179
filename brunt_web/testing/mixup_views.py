"""Mix-ups put right from a specimen's page: swapped labels, a test that was another's, another role."""

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.utils import timezone
from django.views.decorators.http import require_POST

from brunt_core.errors import InputError
from brunt_core.identifiers import tidy_code
from brunt_web.campaigns.actions import mixups
from brunt_web.campaigns.models import HistoryEvent, Specimen
from brunt_web.interface.typed import checked
from brunt_web.people.requests import SeatedRequest
from brunt_web.testing import queries
from brunt_web.testing.forms import ConditionRoleForm, MixupForm
from brunt_web.testing.names import TurnName
from brunt_web.testing.specimen_views import history_page


def _other(request: SeatedRequest, typed: str) -> Specimen:
    code = tidy_code(typed) or typed
    found = Specimen.objects.filter(workshop=request.workshop, code=code).first()
    if found is None:
        raise InputError(f"There is no specimen {typed or '(nothing typed)'} here.", "other")
    return found


@require_POST
def swap_view(request: SeatedRequest, code: str) -> HttpResponse:
    """The labels of two specimens were exchanged."""
    specimen = queries.specimen_of(request.workshop, code)
    try:
        told = checked(MixupForm(request.POST))
        other = _other(request, told["other"])
        mixups.swap_labels(
            specimen, other, request.user, timezone.now(), told["reason"], told["since"]
        )
    except InputError as error:
        return history_page(request, specimen, error, "swap")
    messages.success(request, f"{code} and {other.code} are swapped; both histories record it.")
    return redirect("specimen", code)


@require_POST
def mixup_move_view(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """A test written down here was another's."""
    turn = queries.turn_of(request.workshop, *at)
    try:
        told = checked(MixupForm(request.POST))
        other = _other(request, told["other"])
        mixups.move_test(turn, other, request.user, timezone.now(), told["reason"])
    except InputError as error:
        specimen = queries.specimen_of(request.workshop, turn.code)
        return history_page(request, specimen, error, "move")
    queries.let_go(turn)
    messages.success(request, f"The test is {other.code}'s now; {turn.code} waits again.")
    return redirect("specimen", turn.code)


@require_POST
def role(request: SeatedRequest, code: str) -> HttpResponse:
    """It is one of another condition from now on."""
    specimen = queries.specimen_of(request.workshop, code)
    try:
        told = checked(ConditionRoleForm(request.POST, specimen))
        made = mixups.change_role(
            specimen,
            told["condition"],
            request.user,
            timezone.now(),
            told["reason"],
            told["replace"],
        )
    except InputError as error:
        return history_page(request, specimen, error, "role")
    instead = f" {made.code} is planned as a replacement." if made else ""
    messages.success(request, f"{code} is now one of {told['condition']}.{instead}")
    return redirect("specimen", code)


@require_POST
def mixup_back_view(request: SeatedRequest, code: str, pk: int) -> HttpResponse:
    """Take a correction back."""
    specimen = queries.specimen_of(request.workshop, code)
    event = get_object_or_404(
        HistoryEvent.objects.select_related("specimen"), pk=pk, specimen=specimen
    )
    try:
        mixups.reverse(event, request.user, timezone.now())
    except InputError as error:
        return history_page(request, specimen, error, "back")
    messages.success(request, "It was undone; the history keeps both entries.")
    return redirect("specimen", code)
