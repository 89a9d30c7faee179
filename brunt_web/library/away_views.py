"""Putting things of the library away, and what is archived."""

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from brunt_core.errors import InputError
from brunt_web.library.actions import archive
from brunt_web.people.requests import SeatedRequest


@require_GET
def away_view(request: SeatedRequest) -> HttpResponse:
    """What is archived, each with the way back."""
    return render(request, "library/away.html", {"rows": list(archive.away(request.workshop))})


@require_POST
def put_away_view(request: SeatedRequest, kind: str, pk: int) -> HttpResponse:
    """Put something away, or bring it back."""
    try:
        found = archive.archive_entry(request.workshop, kind, pk, timezone.now())
    except InputError as problem:
        raise Http404(problem.sentence) from None
    if found.archived_at:
        messages.success(request, f"{found} is archived; find it under Library, Archived.")
        return redirect("library")
    messages.success(request, f"{found} is restored.")
    return redirect("away")
