"""Measuring on a photo."""

import json
from typing import Any

from django.http import Http404, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from brunt_core.errors import InputError
from brunt_core.mechanics.picture import Measured
from brunt_web.campaigns.queries import progress
from brunt_web.interface.context import campaign_surroundings
from brunt_web.people.requests import SeatedRequest
from brunt_web.testing import queries
from brunt_web.testing.actions import pictures
from brunt_web.testing.models import Photo, PictureReading
from brunt_web.testing.pictured import UNITS, said

_MOST = 200_000


def photo_of(request: SeatedRequest, pk: int) -> Photo:
    """One of the workshop's photos, else 404."""
    found = (
        Photo.objects.filter(pk=pk, specimen__workshop=request.workshop)
        .select_related("specimen__campaign", "specimen__condition", "specimen__procedure")
        .first()
    )
    if found is None:
        raise Http404("There is no such photo in this workshop.")
    return found


@require_GET
def measure_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """The photo, large, with what was picked on it."""
    photo = photo_of(request, pk)
    rows = [
        {"key": r.pk, "kind": r.kind, "name": r.name, "text": r.text, "picks": r.picks}
        for r in photo.readings.all()
    ]
    turns = queries.turns_of(photo.specimen)
    fields = [
        {
            "at": t.at,
            "key": i.key,
            "dimension": i.dimension,
            "label": f"{i.label}, {t.procedure.name}",
        }
        for t in turns
        for i in t.procedure.method.inputs
        if i.dimension in ("angle", "length", "area") and i.plain and not i.daily
    ]
    context = {
        "photo": photo,
        "specimen": photo.specimen,
        "rows": rows,
        "fields": fields,
        "seen": pictures.readings_fingerprint(photo),
        "pick": pictures.PICK,
        **campaign_surroundings(photo.specimen.campaign, "test", progress(photo.specimen.campaign)),
    }
    return render(request, "testing/picture.html", context)


def _sent(request: SeatedRequest) -> list[dict[str, Any]]:
    text = request.POST.get("rows", "")
    if len(text) > _MOST:
        raise InputError("That is more than one picture can hold.", "picks")
    try:
        rows = json.loads(text)
    except (ValueError, RecursionError):
        raise InputError("The picks cannot be read; reload the page.", "picks") from None
    if not isinstance(rows, list) or not all(isinstance(r, dict) for r in rows):
        raise InputError("The picks cannot be read; reload the page.", "picks")
    if len(rows) > pictures.MOST_READINGS:
        raise InputError(f"{pictures.MOST_READINGS} readings are the most of one picture.", "picks")
    return rows


@require_POST
def picture_look_view(request: SeatedRequest, pk: int) -> JsonResponse:
    """What the picks come to; nothing is stored."""
    photo_of(request, pk)
    try:
        worked = pictures.work(_sent(request))
    except InputError as problem:
        return JsonResponse({"error": problem.sentence}, status=422)
    return JsonResponse(
        {
            "said": [said(r["kind"], v) for r, v in zip(worked.rows, worked.values, strict=True)],
            "problems": worked.problems,
            "doubts": worked.doubts,
        }
    )


@require_POST
def picture_keep_view(request: SeatedRequest, pk: int) -> JsonResponse:
    """Keep the picks with the photo."""
    photo = photo_of(request, pk)
    try:
        kept = pictures.store_picture_readings(
            photo, request.user, timezone.now(), _sent(request), request.POST.get("seen", "")
        )
    except InputError as problem:
        told = {"error": problem.sentence, "seen": pictures.readings_fingerprint(photo)}
        return JsonResponse(told, status=422)
    return JsonResponse(
        {"keys": [r.pk for r in kept], "seen": pictures.readings_fingerprint(photo)}
    )


@require_POST
def into_field(request: SeatedRequest, pk: int, reading: int) -> HttpResponse:
    """Take a value to the bench, into a field of one of the specimen's tests."""
    photo = photo_of(request, pk)
    row = PictureReading.objects.filter(photo=photo, pk=reading, value__isnull=False).first()
    at, _, key = request.POST.get("field", "").rpartition("|")
    turn = next((t for t in queries.turns_of(photo.specimen) if t.at == at), None)
    spec = next((i for i in turn.procedure.method.inputs if i.key == key), None) if turn else None
    if row is None or turn is None or spec is None or spec.dimension != UNITS[row.kind][0]:
        raise Http404("There is no such field to put it into.")
    text = said(row.kind, Measured(row.value or 0.0, row.uncertainty or 0.0))
    request.session["taken_back"] = {"turn": turn.pk, "typed": {key: text}}
    done = turn.state not in ("waiting", "running")
    return redirect(f"{turn.address}?correct=1" if done else turn.address)
