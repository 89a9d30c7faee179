"""The specimen's own page: readings, working, photos, what counts, history."""

from pathlib import Path

from django.conf import settings
from django.contrib import messages
from django.http import FileResponse, Http404, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from brunt_core.errors import InputError
from brunt_web.campaigns.queries import progress
from brunt_web.interface.context import campaign_surroundings
from brunt_web.testing import queries
from brunt_web.testing.actions import change_test
from brunt_web.testing.actions.photos import add_photo, remove_photo
from brunt_web.testing.flags import flag_of
from brunt_web.testing.models import Photo, Test


@require_GET
def specimen(request, code: str):
    """A specimen's readings, working and history."""
    return _page(request, queries.specimen_of(request.workshop, code))


def _page(request, found, error: InputError | None = None):
    test = getattr(found, "test", None)
    history = (
        Test.history.filter(specimen_id=found.pk)
        .select_related("history_user", "by")
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
            "photos": found.photos.all(),
            "flag": flag_of(found) if test else None,
            "curve": getattr(found, "curve", None),
            "history": history,
            "error": error,
            "typed_reason": request.POST.get("reason", ""),
            **campaign_surroundings(found.campaign, "test", progress(found.campaign)),
        },
        status=422 if error else 200,
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
        return _page(request, found, error)
    return redirect("specimen", code)


@require_POST
def another(request, code: str):
    """One more replicate of this specimen's condition, to test beside it."""
    found = queries.specimen_of(request.workshop, code)
    more = change_test.another_replicate(found)
    sentence = f"{more.code} is added to {found.condition}: print it and test it."
    if request.headers.get("X-Part") == "bench":
        return HttpResponse(sentence, content_type="text/plain; charset=utf-8")
    messages.success(request, sentence)
    return redirect("specimen", code)


@require_POST
def photo(request, code: str):
    """Attach a photo, or take one off."""
    found = queries.specimen_of(request.workshop, code)
    if request.POST.get("remove", "").isdigit():
        remove_photo(found, int(request.POST["remove"]))
        return redirect("specimen", code)
    try:
        caption = request.POST.get("caption", "")
        add_photo(found, request.user, timezone.now(), request.FILES.get("photo"), caption)
    except InputError as error:
        return _page(request, found, error)
    return redirect("specimen", code)


@require_GET
def photo_file(request, pk: int):
    """The picture itself, to its workshop only."""
    row = Photo.objects.filter(pk=pk, specimen__workshop=request.workshop).first()
    path = Path(settings.MEDIA_ROOT) / "photos" / row.file if row else None
    if path is None or not path.exists():
        raise Http404("There is no such photo in this workshop.")
    return FileResponse(path.open("rb"), content_type="image/jpeg")
