"""The bench: one specimen at a time, read, computed, stored, and on to the next."""

import json
from collections.abc import Mapping
from datetime import timedelta
from uuid import UUID, uuid4

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from brunt_core.errors import InputError
from brunt_web.campaigns.queries import UNTESTED, campaign_of, next_up, progress
from brunt_web.interface.context import campaign_surroundings
from brunt_web.testing import queries, timed_queries
from brunt_web.testing.actions import change_test, timed
from brunt_web.testing.actions.cautions import dismiss
from brunt_web.testing.actions.in_hand import in_another_hand, take_next, take_up
from brunt_web.testing.actions.record_test import Entry, record_test
from brunt_web.testing.attempt import Attempt, attempt

_LONGEST_AGE = 30 * 86400.0


@require_GET
def bench(request, pk: int):
    """To the next specimen that waits, or to the page that says none does."""
    campaign = campaign_of(request.workshop, pk)
    following = next_up(campaign, in_another_hand(request.user, timezone.now()))
    if following:
        return redirect("bench-specimen", following.code)
    return render(
        request,
        "testing/done.html",
        {
            "clocks": timed_queries.running(campaign, timezone.now()),
            **campaign_surroundings(campaign, "test", progress(campaign)),
        },
    )


@require_http_methods(["GET", "POST"])
def bench_specimen(request, code: str):
    """One specimen at the bench: read on GET, store on POST."""
    if request.method == "POST":
        return _store(request, queries.specimen_in_hand(request.workshop, code))
    specimen = queries.specimen_of(request.workshop, code)
    if specimen.state not in UNTESTED and not request.GET.get("correct"):
        return redirect("specimen", code)
    take_up(specimen, request.user, timezone.now())
    return page(request, specimen, queries.known_texts(specimen))


def page(request, specimen, texts, error: InputError | None = None, post: Mapping | None = None):
    """The whole bench, or its inside alone when the script asks; ``post`` is what was typed."""
    status = 422 if error else 200
    context = _context(request, specimen, texts, error, post or {}) | _queue_context(specimen)
    if request.headers.get("X-Part") == "bench":
        response = render(request, "testing/_bench.html", context, status=status)
        response["X-Address"] = f"/specimens/{specimen.code}/bench/"
        return response
    counts = progress(specimen.campaign)
    return render(
        request,
        "testing/bench.html",
        {
            **context,
            "sprites": [specimen.procedure],
            **campaign_surroundings(specimen.campaign, "test", counts),
        },
        status=status,
    )


def _context(request, specimen, texts, error, post: Mapping) -> dict:
    procedure, now = specimen.procedure, timezone.now()
    method, test = procedure.method, getattr(specimen, "test", None)
    outcome = post.get("outcome") or (test.outcome if test else method.outcomes[0].key)
    place = post.get("place", test.place if test else "")
    running = timed_queries.timed_of(specimen, now) if test is None else None
    if running:
        texts = {**texts, **timed.series_of(specimen)}
    tried = attempt(specimen, texts, outcome, place)
    clock = getattr(specimen, "clock", None)
    further = queries.further_inputs(specimen)
    return {
        "specimen": specimen,
        "procedure": procedure,
        "method": method,
        "campaign": specimen.campaign,
        "timed": running,
        "one_clock": bool(procedure.reading_times) and not method.timed and not test,
        "elapsed": (now - clock.started_at).total_seconds() if clock else None,
        "reading": procedure.reading,
        "sections": [(i, texts.get(i.key, "")) for i in queries.section_inputs(specimen)],
        "needed": [(i, texts.get(i.key, "")) for i in further if i.required],
        "further": [(i, texts.get(i.key, "")) for i in further if not i.required],
        "further_open": any(texts.get(i.key) or i.timed for i in further if not i.required),
        "reading_text": texts.get(procedure.reading.key, ""),
        "error": error,
        "place": place,
        "mode": post.get("mode", test.mode if test else ""),
        "reason": post.get("reason", test.reason if test else ""),
        "note": post.get("note", test.note if test else ""),
        "take_text": post.get("text", ""),
        "entry_key": post.get("key") or uuid4(),
        "correcting": bool(test),
        "curve": getattr(specimen, "curve", None),
        "cautions_open": queries.cautions_open(request.user, method),
        **answer_context(tried, specimen),
    }


def _queue_context(specimen) -> dict:
    """What the queue shows, with the clocks that run where the method reads at set times."""
    procedure, now = specimen.procedure, timezone.now()
    timed = procedure.reading_times
    return {
        "specimen": specimen,
        "procedure": procedure,
        "method": procedure.method,
        "queue": queries.queue_for(specimen),
        "clocks": timed_queries.running(specimen.campaign, now) if timed else [],
    }


def answer_context(tried: Attempt, specimen) -> dict:
    """What the answer and the drawing show."""
    field = tried.error.field if tried.misread and tried.error else ""
    slip = tried.slip.field if tried.slip else ""
    asked = tried.computation.readings[slip].typed.text if slip and tried.computation else ""
    return {
        "tried": tried,
        "drawing": f"testing/drawings/{tried.method.drawing}.svg",
        "asked_text": asked,
        "said": [
            (i.key, tried.became.get(i.key, ""), tried.error.sentence if i.key == field else "")
            for i in tried.method.inputs
            if i.role != "fixed" or i.required
        ],
    }


def texts_of(request, specimen) -> dict[str, str]:
    """The method's inputs that were posted."""
    keys = {i.key for i in specimen.procedure.method.inputs}
    return {key: value for key, value in request.POST.items() if key in keys}


def entered_at(request):
    """When the entry was made: now, less the age that a delayed entry says it has."""
    return timezone.now() - timedelta(seconds=_seconds(request, "age"))


def read_at(request):
    """When a timed reading was taken: when its first character was typed."""
    return entered_at(request) - timedelta(seconds=_seconds(request, "typed_for"))


def _seconds(request, name: str) -> float:
    try:
        seconds = float(request.POST.get(name) or 0)
    except ValueError:
        return 0.0
    return min(max(seconds, 0.0), _LONGEST_AGE) if seconds == seconds else 0.0


def entry_of(request, specimen, texts: Mapping[str, str]) -> Entry:
    """The entry as posted. Raises :class:`InputError` when it has lost its key."""
    try:
        key = UUID(request.POST.get("key", ""))
    except ValueError:
        raise InputError("This form has lost its entry key; reload the page.", "key") from None
    post = request.POST
    return Entry(
        key,
        entered_at(request),
        texts,
        post.get("outcome", ""),
        post.get("place", ""),
        post.get("mode", ""),
        post.get("reason", ""),
        post.get("note", ""),
        _answers(request, specimen, texts),
        read_at(request),
    )


def _answers(request, specimen, texts) -> tuple[dict[str, str], ...]:
    """What was asked about the readings and answered; asks when a slip has no answer yet."""
    said = []
    try:
        changed = json.loads(request.POST.get("changed") or "[]")
        said = [{k: str(c[k])[:300] for k in ("asked", "was", "now")} for c in changed[:5]]
    except (ValueError, KeyError, TypeError, AttributeError):
        said = []
    answers = [{**c, "answer": "changed"} for c in said]
    if request.POST.get("outcome") == "void":
        return tuple(answers)
    slip = attempt(specimen, texts, request.POST.get("outcome", "")).slip
    if slip is None:
        return tuple(answers)
    if slip.instead and request.POST.get("kept") != slip.sentence:
        raise InputError("Keep the reading as typed, or change its unit?", "kept")
    return (*answers, {"asked": slip.sentence, "answer": "kept"})


def _store(request, specimen):
    texts = texts_of(request, specimen)
    try:
        entry = entry_of(request, specimen, texts)
        record_test(specimen, request.user, entry, replace=bool(request.POST.get("correct")))
    except InputError as error:
        queries.let_go(specimen)
        return refused(request, queries.specimen_of(request.workshop, specimen.code), texts, error)
    queries.let_go(specimen)
    if request.POST.get("correct"):
        messages.success(
            request, f"{specimen.code} is corrected; its history keeps what stood before."
        )
        return onward(request, None, f"/specimens/{specimen.code}/")
    return onward(request, next_for(request, specimen), _bench_address(specimen))


def refused(request, specimen, texts, error: InputError):
    """The page with the sentence beside its field, or the sentence alone for a delayed entry."""
    if request.headers.get("X-Part") == "outbox":
        return HttpResponse(error.sentence, status=422, content_type="text/plain; charset=utf-8")
    return page(request, specimen, texts, error, request.POST)


def _bench_address(specimen) -> str:
    return f"/campaigns/{specimen.campaign_id}/bench/"


def next_for(request, specimen):
    """The specimen to go on to; none is looked up for an entry that arrives late."""
    if request.headers.get("X-Part") == "outbox":
        return None
    code = take_next(specimen, request.user, timezone.now())
    return queries.specimen_of(request.workshop, code) if code else None


def onward(request, following, otherwise: str):
    """The next specimen's bench, as a part for the script or as a redirect."""
    if request.headers.get("X-Part") not in ("bench", "outbox"):
        return redirect(f"/specimens/{following.code}/bench/" if following else otherwise)
    if following is None:
        return HttpResponse(status=204, headers={"X-Address": otherwise})
    return page(request, following, queries.known_texts(following))


@require_POST
def try_out(request, code: str):
    """What the fields come to, while they are being typed."""
    specimen = queries.specimen_in_hand(request.workshop, code)
    texts = texts_of(request, specimen)
    if timed_queries.timed_of(specimen, timezone.now()):
        texts |= timed.series_of(specimen)
    outcome, place = request.POST.get("outcome", ""), request.POST.get("place", "")
    tried = attempt(specimen, texts, outcome, place)
    return render(
        request,
        "testing/_answer.html",
        {**answer_context(tried, specimen), "procedure": specimen.procedure, "live": True},
    )


@require_POST
def ahead(request, code: str):
    """The specimen after this one, taken up and made ready while this one is being tested."""
    following = next_for(request, queries.specimen_in_hand(request.workshop, code))
    if following is None:
        return HttpResponse(status=204)
    context = _context(request, following, queries.known_texts(following), None, {})
    response = render(request, "testing/_entry.html", context)
    response["X-Address"] = f"/specimens/{following.code}/bench/"
    return response


@require_GET
def queue(request, code: str):
    """The queue beside the bench, as it stands now."""
    specimen = queries.specimen_of(request.workshop, code)
    return render(request, "testing/_queue.html", _queue_context(specimen))


@require_POST
def skip(request, code: str):
    """Leave this one for the end of the queue and bring the next."""
    specimen = queries.specimen_of(request.workshop, code)
    if specimen.state in UNTESTED:
        change_test.skip(specimen)
    return onward(request, next_for(request, specimen) or specimen, _bench_address(specimen))


@require_POST
def undo(request, code: str):
    """Take back the last test of this procedure."""
    specimen = queries.specimen_of(request.workshop, code)
    try:
        back = change_test.undo_last(specimen.campaign, specimen.procedure, request.user)
        messages.success(
            request, f"{back.code} waits again; its history keeps what was taken back."
        )
    except InputError as error:
        messages.error(request, error.sentence)
        back = specimen
    return redirect("bench-specimen", back.code)


@require_POST
def dismiss_cautions(request, code: str):
    """Put the cautions of this method away for this person, until they change."""
    specimen = queries.specimen_of(request.workshop, code)
    dismiss(request.user, specimen.procedure.method)
    return redirect("bench-specimen", code)
