"""Hands a form that is too much for a web worker to the jobs' worker; the same view answers it there."""

from collections.abc import Callable
from functools import wraps
from typing import Any
from urllib.parse import urlsplit

from django.core.files.storage import default_storage
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.http import HttpRequest, JsonResponse
from django.http.response import HttpResponseBase
from django.shortcuts import redirect
from django.urls import reverse
from django.utils import timezone
from django.utils.http import url_has_allowed_host_and_scheme
from PIL import Image

from brunt_web.jobs.models import SENT_HEADERS, Job, JobFile
from brunt_web.jobs.tasks import defer
from brunt_web.people.middleware import is_part
from brunt_web.people.requests import SeatedRequest

View = Callable[..., HttpResponseBase]


def heavy(
    title: str,
    *,
    file_bytes: int = 0,
    text: int = 0,
    pixels: int = 0,
    when: Callable[..., bool] | None = None,
) -> Callable[[View], View]:
    """A view whose large forms are worked on by the worker, with progress and a way to cancel.

    Large is a file of more than ``file_bytes``, a field of more than ``text`` characters, a picture of more
    than ``pixels``, or what ``when`` says of the request; what is 0 is not looked at. The view itself stays
    as it is: the worker calls it with the same form, and the browser gets its answer when it is there.
    """

    def around(view: View) -> View:
        @wraps(view)
        def handed(request: SeatedRequest, *args: Any, **kwargs: Any) -> HttpResponseBase:
            if getattr(request, "as_job", False) or request.method != "POST":
                return view(request, *args, **kwargs)
            if not (
                any(_large(f, file_bytes, pixels) for f in request.FILES.values())
                or (when and when(request, *args, **kwargs))
                or (text and any(len(str(v)) > text for v in request.POST.values()))
            ):
                return view(request, *args, **kwargs)
            job = put(request, title)
            if is_part(request):
                return JsonResponse({"job": reverse("job", args=[job.pk])}, status=202)
            return redirect("job", job.pk)

        return handed

    return around


def _large(file: Any, file_bytes: int, pixels: int) -> bool:
    if file_bytes and (file.size or 0) > file_bytes:
        return True
    return bool(pixels) and _pixels(file) > pixels


def _pixels(file: UploadedFile) -> int:
    """How many pixels a picture says that it has; nothing of it is decoded."""
    try:
        with Image.open(file) as held:
            return held.width * held.height
    except Exception:  # whatever is wrong with it, the view says so
        return 0
    finally:
        file.seek(0)


@transaction.atomic
def put(request: SeatedRequest, title: str) -> Job:
    """Keep the form, its files in the storage, and wake the worker when all of it is stored."""
    names = ", ".join(
        _short(str(f.name)) for f in request.FILES.values() if isinstance(f, UploadedFile)
    )
    job = Job.objects.create(
        workshop_id=request.workshop.pk,
        by_id=request.user.pk,
        title=f"{title}: {names}"[:200] if names else title,
        path=request.path_info,
        query=request.META.get("QUERY_STRING", ""),
        post=[[key, values] for key, values in request.POST.lists()],
        headers={k: request.headers[k] for k in SENT_HEADERS if k in request.headers}
        | {"Host": request.get_host(), "Scheme": request.scheme},
        back=_came_from(request),
        created_at=timezone.now(),
    )
    for field, files in request.FILES.lists():
        for file in files:
            stored = default_storage.save(f"jobs/{job.pk}/file", file)
            JobFile.objects.create(
                job=job,
                field=field,
                name=str(file.name)[:255],
                kind=str(file.content_type or "")[:120],
                size=file.size or 0,
                stored=stored,
            )
    defer(str(job.pk))
    return job


def _short(name: str) -> str:
    return name if len(name) <= 60 else f"{name[:40]}…{name[-18:]}"


def _came_from(request: HttpRequest) -> str:
    """The page the form stood on; the start page where that is not known."""
    came = request.headers.get("Referer", "")
    here = url_has_allowed_host_and_scheme(came, {request.get_host()})
    return urlsplit(came).path[:500] if came and here else "/"
