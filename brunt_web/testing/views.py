"""The bench and the specimen's own page."""

from uuid import UUID, uuid4

from django.contrib import messages
from django.http import HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from brunt_core.errors import InputError
from brunt_web.campaigns.queries import UNTESTED, campaign_of, next_up, progress, state_of
from brunt_web.interface.context import campaign_surroundings
from brunt_web.testing import queries
from brunt_web.testing.actions import change_test
from brunt_web.testing.actions.record_test import Entry, record_test
from brunt_web.testing.models import Test


@require_GET
def bench(request, pk: int):
    """To the next specimen that waits, or to the page that says none does."""
    campaign = campaign_of(request.workshop, pk)
    following = next_up(campaign)
    if following:
        return redirect("bench-specimen", following.code)
    return render(
        request, "testing/done.html", campaign_surroundings(campaign, "test", progress(campaign))
    )


@require_http_methods(["GET", "POST"])
def bench_specimen(request, code: str):
    """One specimen at the bench: read on GET, store on POST."""
    specimen = queries.specimen_of(request.workshop, code)
    if request.method == "POST":
        return _store(request, specimen)
    if specimen.state not in UNTESTED and not request.GET.get("correct"):
        return redirect("specimen", code)
    return _page(request, specimen, queries.known_texts(specimen))


def _page(request, specimen, texts, error: InputError | None = None, status: int = 200):
    """The whole bench, or its inside alone when the script asks."""
    context = _context(request, specimen, texts, error)
    if request.headers.get("X-Part") == "bench":
        response = render(request, "testing/_bench.html", context, status=status)
        response["X-Address"] = f"/specimens/{specimen.code}/bench/"
        return response
    counts = progress(specimen.campaign)
    return render(
        request,
        "testing/bench.html",
        {**context, **campaign_surroundings(specimen.campaign, "test", counts)},
        status=status,
    )


def _context(request, specimen, texts, error) -> dict:
    test = getattr(specimen, "test", None)
    outcome = request.POST.get("outcome") or (test.outcome if test else "broke")
    tried = queries.attempt(specimen, texts, outcome)
    method = specimen.procedure.method
    return {
        "specimen": specimen,
        "procedure": specimen.procedure,
        "method": method,
        "campaign": specimen.campaign,
        "queue": queries.queue_for(specimen),
        "reading": method.reading,
        "sections": [(i, texts.get(i.key, "")) for i in queries.section_inputs(specimen)],
        "reading_text": texts.get(method.reading.key, ""),
        "tried": tried,
        "error": error,
        "outcome": outcome,
        "place": request.POST.get("place", test.place if test else ""),
        "reason": request.POST.get("reason", ""),
        "note": request.POST.get("note", test.note if test else ""),
        "entry_key": request.POST.get("key") or uuid4(),
        "correcting": bool(test),
    }


def _texts(request, specimen) -> dict[str, str]:
    return {
        i.key: request.POST.get(i.key, "")
        for i in specimen.procedure.method.inputs
        if i.key in request.POST
    }


def _store(request, specimen):
    texts = _texts(request, specimen)
    try:
        key = UUID(request.POST.get("key", ""))
        entry = Entry(
            key,
            timezone.now(),
            texts,
            request.POST.get("outcome", "broke"),
            request.POST.get("place", ""),
            request.POST.get("reason", ""),
            request.POST.get("note", ""),
        )
        record_test(specimen, request.user, entry, replace=bool(request.POST.get("correct")))
    except InputError as error:
        return _page(request, specimen, texts, error, status=422)
    except ValueError:
        return _page(
            request,
            specimen,
            texts,
            InputError("This form has lost its entry key; reload the page.", "key"),
            422,
        )
    if request.POST.get("correct"):
        messages.success(
            request, f"{specimen.code} is corrected; its history keeps what stood before."
        )
        return _onward(request, None, f"/specimens/{specimen.code}/")
    return _onward(
        request, queries.next_after(specimen), f"/campaigns/{specimen.campaign_id}/bench/"
    )


def _onward(request, following, otherwise: str):
    """The next specimen's bench, as a part for the script or as a redirect."""
    if request.headers.get("X-Part") != "bench":
        return redirect(f"/specimens/{following.code}/bench/" if following else otherwise)
    if following is None:
        return HttpResponse(status=204, headers={"X-Address": otherwise})
    following.state = state_of(following)
    request.POST = QueryDict()
    return _page(request, following, queries.known_texts(following))


@require_POST
def attempt(request, code: str):
    """What the fields come to, while they are being typed."""
    specimen = queries.specimen_of(request.workshop, code)
    tried = queries.attempt(
        specimen, _texts(request, specimen), request.POST.get("outcome", "broke")
    )
    return render(
        request,
        "testing/_answer.html",
        {
            "tried": tried,
            "method": tried.method,
            "live": True,
            "sections": [(i, "") for i in queries.section_inputs(specimen)],
            "reading": tried.method.reading,
        },
    )


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


@require_GET
def specimen(request, code: str):
    """A specimen's readings, working and history."""
    return _specimen_page(request, queries.specimen_of(request.workshop, code))


def _specimen_page(request, found, error: InputError | None = None, status: int = 200):
    test = getattr(found, "test", None)
    history = (
        Test.history.filter(specimen_id=found.pk)
        .select_related("history_user")
        .order_by("-history_date")
    )
    return render(
        request,
        "testing/specimen.html",
        {
            "specimen": found,
            "procedure": found.procedure,
            "test": test,
            "results": found.results.all(),
            "measurements": found.measurements.all(),
            "readings": test.readings.all() if test else [],
            "history": history,
            "error": error,
            "typed_reason": request.POST.get("reason", ""),
            **campaign_surroundings(found.campaign, "test", progress(found.campaign)),
        },
        status=status,
    )


@require_POST
def count(request, code: str):
    """Leave a specimen out of the mean, or count it again."""
    found = queries.specimen_of(request.workshop, code)
    if not hasattr(found, "test"):
        return redirect("specimen", code)
    try:
        if request.POST.get("restore"):
            change_test.restore(found.test)
        else:
            change_test.exclude(found.test, request.POST.get("reason", ""))
    except InputError as error:
        return _specimen_page(request, found, error, status=422)
    return redirect("specimen", code)
