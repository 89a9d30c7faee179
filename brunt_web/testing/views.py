"""The bench: one specimen at a time, read, computed, stored, and on to the next."""

from collections.abc import Callable, Mapping
from contextlib import suppress
from datetime import datetime
from typing import Any
from urllib.parse import quote
from uuid import uuid4

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from brunt_core.errors import InputError
from brunt_web.campaigns import history
from brunt_web.campaigns.models import Campaign, Turn
from brunt_web.campaigns.queries import campaign_of, next_up, outstanding, progress
from brunt_web.campaigns.state import state_of
from brunt_web.interface.context import campaign_surroundings, stage_counts
from brunt_web.interface.edit_conflicts import fingerprint
from brunt_web.interface.typed import whole
from brunt_web.interface.ways import written_moment
from brunt_web.library.models import Procedure
from brunt_web.people.requests import SeatedRequest
from brunt_web.testing import queries, timed_queries
from brunt_web.testing.actions import change_test
from brunt_web.testing.actions.cautions import dismiss
from brunt_web.testing.actions.in_hand import in_another_hand, take_next, take_up
from brunt_web.testing.actions.note_daily import note_daily
from brunt_web.testing.actions.record_test import Entry, record_test
from brunt_web.testing.attempt import PlausibilityQuestion, TriedEntry, attempt_result
from brunt_web.testing.course import course_of
from brunt_web.testing.day import daily_texts, of_day
from brunt_web.testing.enough import Standing, standing_lately, standing_of
from brunt_web.testing.forms import EntryForm
from brunt_web.testing.inputs import assumed_for
from brunt_web.testing.instruments import allowed_rigs, live_of, put_on_rig
from brunt_web.testing.names import TurnName

_TAKEN_BACK = "taken_back"
# Drawings that the page itself lets follow what is typed; the others come again with the answer.
FOLLOWS_BY_ITSELF = {"tension_bar"}


@require_GET
def bench(request: SeatedRequest, pk: int) -> HttpResponse:
    """To the next specimen that is ready, or to the page that says why none is."""
    campaign = campaign_of(request.workshop, pk)
    following = next_up(campaign, in_another_hand(request.user, timezone.now()))
    if following:
        return redirect(following.address)
    counts = progress(campaign)
    return render(
        request,
        "testing/done.html",
        {
            "clocks": timed_queries.running_clocks(campaign, timezone.now()),
            "outstanding": outstanding(campaign) if counts["outstanding"] else [],
            "ageing": queries.not_old_enough(campaign, timezone.now()),
            "unmade": counts["specimens"] - counts["printed"],
            "last_entry": queries.last_entered(campaign, request.user),
            **campaign_surroundings(campaign, "test", counts),
        },
    )


@require_http_methods(["GET", "POST"])
def bench_specimen(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """One specimen at the bench: read on GET, store on POST."""
    turn = queries.turn_of(request.workshop, *at)
    if request.method == "POST":
        return _store(request, turn)
    if turn.state not in ("waiting", "running") and not request.GET.get("correct"):
        return redirect("specimen", turn.code)
    take_up(turn, request.user, timezone.now())
    _usual_rig(request, turn)
    typed = _taken_back(request, turn)
    return bench_page_view(request, turn, queries.entered_values(turn) | typed, post=typed)


def _usual_rig(request: SeatedRequest, turn: Turn) -> None:
    """The rig this person used last for the procedure, where the turn has none of its own yet."""
    chosen = request.session.get(f"rig-{turn.procedure_id}")
    if chosen and not turn.rig_id and not hasattr(turn, "test"):
        with suppress(InputError):
            put_on_rig(turn, chosen)


def _taken_back(request: SeatedRequest, turn: Turn) -> dict[str, str]:
    """What was typed for the test that was just undone, once."""
    held = request.session.get(_TAKEN_BACK)
    if not held or held["turn"] != turn.pk:
        return {}
    del request.session[_TAKEN_BACK]
    return {str(k): str(v) for k, v in held["typed"].items()}


def bench_page_view(
    request: SeatedRequest,
    turn: Turn,
    texts: Mapping[str, str],
    error: InputError | None = None,
    post: Mapping[str, str] | None = None,
) -> HttpResponse:
    """The whole bench, or its inside alone when the script asks; ``post`` is what was typed."""
    status = 422 if error else 200
    context = _context(request, turn, texts, error, post or {}) | _queue_context(turn)
    if request.headers.get("X-Part") == "bench":
        response = render(request, "testing/_bench.html", context, status=status)
        response["X-Address"] = turn.address
        return response
    return render(
        request,
        "testing/bench.html",
        {
            **context,
            "sprites": [turn],
            **campaign_surroundings(turn.campaign, "test", progress(turn.campaign)),
        },
        status=status,
    )


def _context(
    request: SeatedRequest,
    turn: Turn,
    texts: Mapping[str, str],
    error: InputError | None,
    post: Mapping[str, str],
) -> dict[str, Any]:
    procedure, now = turn.procedure, timezone.now()
    method, test = procedure.method, getattr(turn, "test", None)
    outcome = post.get("outcome") or (test.outcome if test else method.outcomes[0].key)
    place = post.get("place", test.place if test else "")
    running = timed_queries.timed_of(turn, now) if test is None else None
    if running:
        texts = {**texts, **timed_queries.series_of(turn)}
    tried = attempt_result(turn, texts, outcome, place)
    if turn.state == "waiting":
        queries.take_in_hand(turn)
    return {
        "turn": turn,
        "specimen": turn.specimen,
        "procedure": procedure,
        "method": method,
        "campaign": turn.campaign,
        "timed": running,
        "outstanding": "" if test or turn.untimely else history.outstanding_words(turn, now),
        "error": error,
        "place": place,
        "mode": post.get("mode", test.mode if test else ""),
        "reason": post.get("reason", test.reason if test else ""),
        "untimely": post.get("untimely", test.untimely if test else ""),
        "noted_speed": post.get("noted_speed", ""),
        "note": post.get("note", test.note if test else ""),
        "take_text": post.get("text", ""),
        "entry_key": post.get("key") or uuid4(),
        "correcting": bool(test),
        "seen": fingerprint(change_test.reading_words(test)) if test else "",
        "curve": getattr(turn, "curve", None),
        "cautions_open": queries.cautions_open(request.user, method),
        **_fields(turn, texts, now),
        "live": live_of(turn, request.user.get_username()) if not test else None,
        **answer_context(tried, turn),
    }


def _fields(turn: Turn, texts: Mapping[str, str], now: datetime) -> dict[str, Any]:
    """What is asked for: the big reading, the section, the rest."""
    procedure = turn.procedure
    test, clock = getattr(turn, "test", None), getattr(turn, "clock", None)
    further = queries.further_inputs(turn)
    rigs = allowed_rigs(procedure) if procedure.rig_id else []
    return {
        "one_clock": bool(procedure.reading_times) and not procedure.method.timed and not test,
        "elapsed": (now - clock.started_at).total_seconds() if clock else None,
        "reading": procedure.reading,
        "reading_text": texts.get(procedure.reading.key, ""),
        "sections": [(i, texts.get(i.key, "")) for i in queries.section_inputs(turn)],
        "needed": [(i, texts.get(i.key, "")) for i in further if i.required],
        "further": [(i, texts.get(i.key, "")) for i in further if not i.required],
        "further_open": any(texts.get(i.key) or i.timed for i in further if not i.required),
        "assumed": (assumed_for(turn) | daily_texts(turn)) if not test else test.assumed,
        "of_day": [] if test else of_day(turn),
        "ticks": turn.condition.requirements.ticks,
        "out_for": queries.minutes_out(turn, now),
        "rigs": rigs,
        "overdue": _overdue(turn, now),
        "state": state_of(turn.specimen, now)
        if turn.specimen.treated or _is_in_state(turn)
        else None,
    }


def _overdue(turn: Turn, now: datetime) -> str:
    """That its rig's calibration is overdue, in words."""
    rig = turn.on_rig
    if rig is None or not rig.due_on or not rig.overdue(timezone.localtime(now).date()):
        return ""
    return f"{rig.name}: its calibration was due {written_moment(rig.due_on, 'j M Y')}. Readings taken now are marked."


def _queue_context(
    turn: Turn, standing: Callable[[Campaign, Procedure], Standing | None] = standing_of
) -> dict[str, Any]:
    """What the queue shows, with the clocks that run where the method reads at set times."""
    procedure, now = turn.procedure, timezone.now()
    return {
        "turn": turn,
        "procedure": procedure,
        "method": procedure.method,
        "queue": queries.queue_for(turn, now),
        "clocks": timed_queries.running_clocks(turn.campaign, now)
        if procedure.reading_times
        else [],
        "standing": standing(turn.campaign, procedure),
        "stage_counts": stage_counts(turn.campaign, progress(turn.campaign)),
    }


def _is_in_state(turn: Turn) -> bool:
    return turn.condition.requirements.state_to_reach is not None


def answer_context(tried: TriedEntry, turn: Turn) -> dict[str, Any]:
    """What the answer and the drawing show."""
    field = tried.error.field if tried.misread and tried.error else ""
    unit_mixup = tried.unit_mixup.field if tried.unit_mixup else ""
    asked = (
        tried.computation.readings[unit_mixup].typed.text
        if unit_mixup and tried.computation
        else ""
    )
    return {
        "tried": tried,
        "drawing": f"testing/drawings/{tried.method.drawing}.svg",
        "asked_text": asked,
        "course": course_of(turn),
        "said": [
            (
                i.key,
                tried.became.get(i.key, ""),
                tried.error.sentence if tried.error and i.key == field else "",
            )
            for i in tried.method.inputs
            if i.role != "fixed" or i.required
        ],
    }


def entry_from(turn: Turn, form: EntryForm, texts: dict[str, str]) -> Entry:
    """The entry with what was asked and answered; an implausible value that has no answer yet is asked about.

    Raises :class:`InputError` when it has lost its key, or is to be asked about first.
    """
    answers = [{**c, "answer": "changed"} for c in form.changes]
    outcome = form.said("outcome")
    asks = outcome != "void" and not form.cleaned_data.get("reading_outstanding")
    unit_mixup = attempt_result(turn, texts, outcome).unit_mixup if asks else None
    if unit_mixup:
        if form.said("kept") != unit_mixup.sentence:
            raise PlausibilityQuestion(unit_mixup.sentence)
        answers.append({"asked": unit_mixup.sentence, "answer": "kept"})
    return form.entry(timezone.now(), texts, tuple(answers))


def _on_rig(request: SeatedRequest, turn: Turn) -> None:
    """The rig the form names; it is proposed for the next of this procedure by the same person."""
    if "rig" not in request.POST:
        return
    chosen = whole(request.POST["rig"])
    put_on_rig(turn, chosen)
    key = f"rig-{turn.procedure_id}"
    if request.session.get(key) != chosen:
        request.session[key] = chosen


def _store(request: SeatedRequest, turn: Turn) -> HttpResponse:
    form = EntryForm(request.POST, turn)
    correct = bool(form.cleaned_data.get("correct"))
    try:
        form.check_specimen()
        _on_rig(request, turn)
        entry = entry_from(turn, form, form.texts)
        if correct:
            change_test.correct(turn, request.user, entry, request.POST.get("seen", ""))
        else:
            record_test(turn, request.user, entry)
    except InputError as error:
        queries.let_go(turn)
        fresh = queries.turn_of(request.workshop, turn.code, turn.step + 1)
        return refused_view(request, fresh, form.texts, error)
    queries.let_go(turn)
    if correct:
        messages.success(
            request, f"{turn.code} is corrected; its history keeps the earlier values."
        )
        return onward(request, None, turn.specimen.address)
    return onward(request, next_for(request, turn), campaign_bench(turn))


def refused_view(
    request: SeatedRequest, turn: Turn, texts: Mapping[str, str], error: InputError
) -> HttpResponse:
    """The page with the sentence beside its field, or the sentence alone for a delayed entry."""
    if request.headers.get("X-Part") == "outbox":
        answer = HttpResponse(error.sentence, status=422, content_type="text/plain; charset=utf-8")
        if isinstance(error, PlausibilityQuestion):
            answer["X-Question"] = quote(error.question)
        return answer
    return bench_page_view(request, turn, texts, error, request.POST)


def campaign_bench(turn: Turn) -> str:
    """The campaign's bench."""
    return reverse("bench", args=[turn.campaign_id])


def next_for(request: SeatedRequest, turn: Turn) -> Turn | None:
    """The turn to go on to; none is looked up for an entry that arrives late."""
    if request.headers.get("X-Part") == "outbox":
        return None
    following = take_next(turn, request.user, timezone.now())
    return queries.turn_of(request.workshop, *following) if following else None


def onward(request: SeatedRequest, following: Turn | None, otherwise: str) -> HttpResponse:
    """The next specimen's bench, as a part for the script or as a redirect."""
    if request.headers.get("X-Part") not in ("bench", "outbox"):
        return redirect(following.address if following else otherwise)
    if following is None:
        return HttpResponse(status=204, headers={"X-Address": otherwise})
    _usual_rig(request, following)
    return bench_page_view(request, following, queries.entered_values(following))


@require_POST
def try_out(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """What the fields come to, while they are being typed."""
    turn = queries.turn_in_hand(request.workshop, *at)
    form = EntryForm(request.POST, turn)
    if "rig" in request.POST:
        with suppress(InputError):
            put_on_rig(turn, whole(request.POST["rig"]))
    texts = form.texts
    if timed_queries.timed_of(turn, timezone.now()):
        texts |= timed_queries.series_of(turn)
    tried = attempt_result(turn, texts, form.said("outcome"), form.said("place"))
    context = answer_context(tried, turn) | {"turn": turn, "procedure": turn.procedure}
    redrawn = turn.procedure.method.drawing not in FOLLOWS_BY_ITSELF
    return render(request, "testing/_answer.html", context | {"redrawn": redrawn})


@require_POST
def bench_ahead_view(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """The specimen after this one, taken up and made ready while this one is being tested."""
    following = next_for(request, queries.turn_in_hand(request.workshop, *at))
    if following is None:
        return HttpResponse(status=204)
    _usual_rig(request, following)
    context = _context(request, following, queries.entered_values(following), None, {})
    response = render(request, "testing/_entry.html", context)
    response["X-Address"] = following.address
    return response


@require_GET
def queue(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """The queue beside the bench, as it stands now."""
    turn = queries.turn_in_hand(request.workshop, *at)
    return render(request, "testing/_queue.html", _queue_context(turn, standing_lately))


@require_POST
def skip_view(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """Leave this one for the end of the queue and bring the next."""
    turn = queries.turn_of(request.workshop, *at)
    if turn.state in ("waiting", "running"):
        change_test.skip(turn)
    return onward(request, next_for(request, turn) or turn, campaign_bench(turn))


@require_POST
def bench_undo_view(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """Undo the last test of this procedure."""
    turn = queries.turn_of(request.workshop, *at)
    try:
        taken = change_test.undo_last(turn.campaign, turn.procedure, request.user, timezone.now())
        back = taken.turn
        queries.let_go(back)
        request.session[_TAKEN_BACK] = {"turn": back.pk, "typed": taken.typed}
        messages.success(
            request, f"{back.code} is waiting again; its history keeps what was undone."
        )
    except InputError as error:
        messages.error(request, error.sentence)
        back = turn
    return redirect(back.address)


@require_POST
def daily(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """What was read of the rig today, before the series."""
    turn = queries.turn_of(request.workshop, *at)
    try:
        note_daily(turn, request.user, timezone.now(), request.POST.dict())
        messages.success(request, "Saved for today; used for every swing from now on.")
    except InputError as error:
        messages.error(request, error.sentence)
    queries.let_go(turn)
    return redirect(turn.address)


@require_POST
def dismiss_cautions(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """Put the cautions of this method away for this person, until they change."""
    turn = queries.turn_of(request.workshop, *at)
    dismiss(request.user, turn.procedure.method)
    return redirect(turn.address)
