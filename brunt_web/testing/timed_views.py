"""The clock of a timed test: start, take a reading, undo it, finish."""

from django.http import HttpResponse
from django.shortcuts import redirect
from django.utils import timezone
from django.views.decorators.http import require_POST

from brunt_core.errors import InputError
from brunt_web.interface.typed import checked
from brunt_web.people.requests import SeatedRequest
from brunt_web.testing import queries, timed_queries
from brunt_web.testing.actions import timed
from brunt_web.testing.forms import ClockForm, EntryForm, PassForm, TakenForm, check_named
from brunt_web.testing.names import TurnName
from brunt_web.testing.views import (
    bench_page_view,
    campaign_bench,
    entry_from,
    next_for,
    onward,
    refused_view,
)


@require_POST
def timed_start_view(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """The load is on: start the clock, or start it again for the next load."""
    turn = queries.turn_of(request.workshop, *at)
    form = ClockForm(request.POST)
    try:
        told = checked(form)
        check_named(turn, told["specimen"])
        entered, _ = form.times(timezone.now())
        timed.start_clock(turn, request.user, entered, told["load_step"], told["untimely"])
    except InputError as error:
        return refused_view(request, turn, queries.entered_values(turn), error)
    queries.let_go(turn)
    return _again(request, at)


@require_POST
def take_view(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """Store one reading with the time it was really taken."""
    turn = queries.turn_of(request.workshop, *at)
    try:
        form = TakenForm(request.POST)
        taken = form.taken(timezone.now())
        check_named(turn, form.cleaned_data["specimen"])
        timed.take(turn, request.user, taken)
    except InputError as error:
        return refused_view(request, turn, queries.entered_values(turn), error)
    return _again(request, at)


@require_POST
def pass_over_view(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """Give up a reading that was missed, or want it again."""
    turn = queries.turn_of(request.workshop, *at)
    try:
        told = checked(PassForm(request.POST))
        missed = (told["input"], told["load_step"], told["due"])
        timed.pass_over(turn, request.user, timezone.now(), missed)
    except InputError as error:
        return refused_view(request, turn, queries.entered_values(turn), error)
    queries.let_go(turn)
    return _again(request, at)


@require_POST
def timed_undo_view(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """Undo the last timed reading, or the clock."""
    turn = queries.turn_of(request.workshop, *at)
    timed.undo_take(turn, request.user, timezone.now())
    queries.let_go(turn)
    return _again(request, at)


@require_POST
def finish_view(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """Record the test from its timed readings."""
    turn = queries.turn_of(request.workshop, *at)
    form = EntryForm(request.POST, turn)
    try:
        form.check_specimen()
        texts = {**form.texts, **timed_queries.series_of(turn)}
        timed.finish(turn, request.user, entry_from(turn, form, texts))
    except InputError as error:
        return refused_view(request, turn, form.texts, error)
    queries.let_go(turn)
    return onward(request, next_for(request, turn), campaign_bench(turn))


def _again(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """The same bench as it stands now."""
    fresh = queries.turn_of(request.workshop, *at)
    if request.headers.get("X-Part") == "outbox":
        return onward(request, None, fresh.address)
    if request.headers.get("X-Part") != "bench":
        return redirect(fresh.address)
    return bench_page_view(request, fresh, queries.entered_values(fresh))
