"""The clock of a timed test: start, take a reading, take it back, finish."""

from uuid import UUID

from django.shortcuts import redirect
from django.views.decorators.http import require_POST

from brunt_core.errors import InputError
from brunt_web.testing import queries
from brunt_web.testing.actions import timed
from brunt_web.testing.views import (
    _bench_address,
    entered_at,
    entry_of,
    next_for,
    onward,
    page,
    read_at,
    refused,
    texts_of,
)


@require_POST
def start(request, code: str):
    """The load is on: start the clock, or start it again for the next load."""
    specimen = queries.specimen_of(request.workshop, code)
    rung = request.POST.get("rung", "")[:30]
    try:
        timed.start(specimen, request.user, entered_at(request), rung)
    except InputError as error:
        return refused(request, specimen, queries.known_texts(specimen), error)
    return _again(request, code)


@require_POST
def take(request, code: str):
    """Store one reading with the time it was really taken."""
    specimen = queries.specimen_of(request.workshop, code)
    post = request.POST
    try:
        taken = timed.Taken(
            UUID(post.get("key", "")),
            read_at(request),
            post.get("input", ""),
            float(post.get("due", "")),
            post.get("text", "")[:100],
            post.get("rung", "")[:30],
            post.get("kept", "")[:100],
        )
        timed.take(specimen, request.user, taken)
    except InputError as error:
        return refused(request, specimen, queries.known_texts(specimen), error)
    except ValueError:
        lost = InputError("This reading has lost its key; reload the page.", "key")
        return refused(request, specimen, queries.known_texts(specimen), lost)
    return _again(request, code)


@require_POST
def undo(request, code: str):
    """Take back the last timed reading, or the clock."""
    timed.undo_take(queries.specimen_of(request.workshop, code))
    return _again(request, code)


@require_POST
def finish(request, code: str):
    """Record the test from its timed readings."""
    specimen = queries.specimen_of(request.workshop, code)
    texts = texts_of(request, specimen)
    try:
        series = timed.series_of(specimen)
        entry = entry_of(request, specimen, {**texts, **series})
        timed.finish(specimen, request.user, entry)
    except InputError as error:
        return refused(request, specimen, texts, error)
    return onward(request, next_for(request, specimen), _bench_address(specimen))


def _again(request, code: str):
    """The same bench as it stands now."""
    if request.headers.get("X-Part") == "outbox":
        return onward(request, None, f"/specimens/{code}/bench/")
    if request.headers.get("X-Part") != "bench":
        return redirect("bench-specimen", code)
    fresh = queries.specimen_of(request.workshop, code)
    return page(request, fresh, queries.known_texts(fresh))
