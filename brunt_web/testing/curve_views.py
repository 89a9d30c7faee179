"""A specimen's load–displacement curve: imported, drawn, its points moved."""

from collections.abc import Callable
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST

from brunt_core.errors import InputError
from brunt_web.campaigns.models import Turn
from brunt_web.campaigns.queries import progress
from brunt_web.interface.context import campaign_surroundings
from brunt_web.interface.typed import checked
from brunt_web.jobs.handing import heavy
from brunt_web.people.requests import SeatedRequest
from brunt_web.testing import queries
from brunt_web.testing.actions import curves
from brunt_web.testing.attempt import attempt_result
from brunt_web.testing.curve_drawing import ABOVE, HEIGHT, WIDTH, plot, sketch
from brunt_web.testing.curve_queries import reduced
from brunt_web.testing.forms import AnswerForm, CurveForm, PickForm, ShareForm
from brunt_web.testing.models import AskedCurve, Curve
from brunt_web.testing.names import TurnName


@require_http_methods(["GET", "POST"])
@heavy("Curve", file_bytes=4_000_000, text=4_000_000)
def curve(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """The curve's page; a file on POST."""
    turn = queries.turn_of(request.workshop, *at)
    if not turn.procedure.method.curve:
        return redirect(turn.address)
    if request.method == "GET":
        return _page(request, turn)
    form = CurveForm(request.POST, request.FILES)
    try:
        told = checked(form)
        file = told["curve"]
        content = file.read() if file else told["pasted"].encode()
        name = file.name if file else told["named"] or "pasted"
        curves.bring_curve(turn, request.user, timezone.now(), name, content)
    except InputError as error:
        return _page(request, turn, error, form["pasted"].value() or "")
    return redirect("curve", at)


@require_POST
def pick(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """Move a point."""
    form = PickForm(request.POST)

    def move(row: Curve) -> None:
        if not form.is_valid():
            raise InputError("That is not a point on the curve.", "pick")
        curves.move_pick(row, form.cleaned_data["pick"], form.cleaned_data["at"])

    return _change(request, at, move)


@require_POST
def restore_view(request: SeatedRequest, at: TurnName, point: str = "") -> HttpResponse:
    """A point where it was found by itself again, or all of them."""
    return _change(request, at, lambda row: curves.restore_picks(row, point))


@require_POST
def curve_answer_view(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """Which way the file is to be read that the tester was asked about."""
    turn = queries.turn_of(request.workshop, *at)
    form = AnswerForm(request.POST)
    try:
        chosen = form.cleaned_data["chosen"] if form.is_valid() else "?"
        curves.read_as_chosen(turn, request.user, timezone.now(), chosen)
    except InputError as error:
        return _page(request, turn, error)
    queries.let_go(turn)
    return redirect("curve", at)


@require_POST
def share(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """Whose each pull of a file is."""
    turn = queries.turn_of(request.workshop, *at)
    form = ShareForm(request.POST)
    try:
        given = curves.share_out(turn, request.user, timezone.now(), form.whose)
    except InputError as error:
        return _page(request, turn, error)
    for one in (turn, *given):
        queries.let_go(one)
    if len(given) > 1:
        messages.success(
            request, f"{len(given)} curves imported: {', '.join(t.code for t in given)}."
        )
    return redirect("curve", (turn if turn in given else given[0]).at)


@require_POST
def forget_view(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """Throw away the file the tester was asked about."""
    curves.discard_file(queries.turn_of(request.workshop, *at))
    return redirect("curve", at)


@require_POST
def spikes_out(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """Reduce the curve without its spikes."""
    return _change(request, at, lambda row: curves.leave_spikes_out(row, True))


@require_POST
def spikes_in(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """Reduce the curve with its spikes again."""
    return _change(request, at, lambda row: curves.leave_spikes_out(row, False))


@require_POST
def curve_take_off_view(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """Take the curve off."""
    turn = queries.turn_of(request.workshop, *at)
    curves.remove_curve(turn)
    queries.let_go(turn)
    return redirect("curve", at)


def _change(
    request: SeatedRequest, at: TurnName, change: Callable[[Curve], object]
) -> HttpResponse:
    turn = queries.turn_of(request.workshop, *at)
    row = getattr(turn, "curve", None)
    if row is None:
        return redirect("curve", at)
    error = None
    try:
        change(row)
    except InputError as problem:
        error = problem
    queries.let_go(turn)
    if request.headers.get("X-Part") == "curve":
        context = _context(turn, error)
        return render(request, "testing/_curve.html", context, status=422 if error else 200)
    return _page(request, turn, error) if error else redirect("curve", at)


def _page(
    request: SeatedRequest, turn: Turn, error: InputError | None = None, pasted: str = ""
) -> HttpResponse:
    return render(
        request,
        "testing/curve.html",
        {
            **_context(turn, error),
            "pasted": pasted,
            **campaign_surroundings(turn.campaign, "test", progress(turn.campaign)),
        },
        status=422 if error else 200,
    )


def _context(turn: Turn, error: InputError | None = None) -> dict[str, Any]:
    found = reduced(turn) if getattr(turn, "curve", None) else None
    asked = AskedCurve.objects.filter(turn=turn).first()
    context: dict[str, Any] = {
        "turn": turn,
        "specimen": turn.specimen,
        "procedure": turn.procedure,
        "found": found,
        "error": error or (found.error if found else None),
        "width": WIDTH,
        "height": HEIGHT,
        "above": -ABOVE,
        "whole": HEIGHT + ABOVE,
        "asked": asked,
    }
    if asked:
        doubt = curves.ways_to_read(asked)
        context |= {
            "question": doubt.sentence,
            "ways": [sketch(g) for g in doubt.guesses],
            "pulls": doubt.pulls,
        }
        if doubt.pulls:
            offered = curves.may_have(turn)
            after = (
                offered[[t.pk for t in offered].index(turn.pk) :] if turn in offered else offered
            )
            # The first pull is of the specimen at hand, the next ones of those that follow in the order of tests.
            context |= {
                "whose": [
                    (way, after[i].pk if i < len(after) else None)
                    for i, way in enumerate(context["ways"])
                ],
                "offered": offered,
            }
    if found and found.reduction:
        texts = queries.entered_values(turn)
        outcome = turn.test.outcome if hasattr(turn, "test") else ""
        ends = turn.procedure.method.outcome(outcome)
        held = ends is not None and ends.bound == "at_least"
        context |= {"plot": plot(found, held), "tried": attempt_result(turn, texts, outcome)}
    return context
