"""A kept form answered by its own view, as the person who sent it; the answer stored with what it did."""

import io
import logging
import sys
from collections.abc import Callable
from functools import reduce
from typing import Any

from django.conf import settings
from django.contrib.messages import get_messages
from django.contrib.messages.storage.base import BaseStorage
from django.contrib.sessions.backends.signed_cookies import SessionStore
from django.core.files.storage import default_storage
from django.core.files.uploadedfile import UploadedFile
from django.core.handlers.wsgi import WSGIRequest
from django.db import connection, transaction
from django.db.models import QuerySet
from django.http import Http404, HttpResponse, QueryDict
from django.http.response import HttpResponseBase
from django.urls import resolve
from django.utils import timezone
from django.utils.datastructures import MultiValueDict
from django.utils.module_loading import import_string

from brunt_web.jobs.models import CANCELLED, DONE, OPEN, REFUSED, SENT_HEADERS, Job
from brunt_web.jobs.progress import current, now_and_then
from brunt_web.people.queries import seat_of
from brunt_web.people.roles import may, needed

_KEPT_HEADERS = ("Content-Type", "Location", "X-Address")
_GONE = "What it belonged to was deleted. Nothing was saved."
_TOO_MUCH = (
    "This takes more memory than the {} MB a job may have. Nothing was saved. Split the file."
)


class Cancelled(Exception):
    """Somebody stopped the job."""


class JobOvertaken(Exception):
    """Another worker has taken the job up meanwhile, or it is over."""


class _Told(BaseStorage):
    """Messages that wait for the page on which the answer is shown."""

    def _get(self, *args: Any, **kwargs: Any) -> tuple[list[Any], bool]:
        return [], True

    def _store(self, messages: list[Any], response: HttpResponse, *args: Any, **kwargs: Any) -> list[Any]:  # fmt: skip
        return []


def answer_job(job: Job) -> None:
    """Do it: what the view changes and the answer are stored together, or neither is.

    A worker that was thought lost and goes on all the same stores nothing where another has taken the
    job up: it is answered by the last that claimed it, once.
    """
    if said := _no_more(job):
        close_job(job, REFUSED, said)
        return
    beside = connection.copy()
    beside.set_autocommit(True)
    token = current.set(now_and_then(lambda *said: _say(beside, job, *said)))
    try:
        with transaction.atomic():
            response, told = _answered(job)
            if not isinstance(response, HttpResponse):
                raise TypeError("a job's answer is kept, so it cannot be a stream")
            stored = _still_ours(job).update(
                state=DONE,
                status=response.status_code,
                answer_headers={h: response[h] for h in _KEPT_HEADERS if h in response},
                answer=response.content,
                told=told,
                ended_at=timezone.now(),
                words="",
            )
            if not stored:
                raise JobOvertaken
    except JobOvertaken:
        logging.getLogger(__name__).warning("job %s was taken up by another worker", job.pk)
    except Cancelled:
        close_job(job, CANCELLED, "Nothing was saved.")
    except Http404:
        close_job(job, REFUSED, _GONE)
    except MemoryError:
        close_job(job, REFUSED, _TOO_MUCH.format(settings.JOB_MEMORY_MB))
    else:
        drop_files(job)
    finally:
        current.reset(token)
        beside.close()


def _no_more(job: Job) -> str:
    """Why who sent it may not do it any more; empty where they may."""
    name = resolve(job.path).url_name or ""
    seat = seat_of(job.by) if job.by.is_active else None
    if seat is None:
        return "The sender is no longer in the workshop. Nothing was saved."
    if seat.workshop_id != job.workshop_id:
        return "You have switched to another workshop; switch back and send it again. Nothing was saved."
    least = needed(name, "POST")
    return "" if may(seat.rights, least) else f"This needs the role {least}. Nothing was saved."


def close_job(job: Job, state: str, words: str) -> None:
    """Close a job that has no answer, once, unless another worker has it by now."""
    if _still_ours(job).update(state=state, words=words, ended_at=timezone.now()):
        drop_files(job)


def _still_ours(job: Job) -> QuerySet[Job]:
    return Job.objects.filter(pk=job.pk, attempts=job.attempts, state__in=OPEN)


def drop_files(job: Job) -> None:
    """The files are not needed any more."""
    for file in job.files.all():
        default_storage.delete(file.stored)
    job.files.all().delete()


def _say(beside: Any, job: Job, done: int, total: int, unit: str) -> None:
    """Progress is written on a link of its own, so that others see it while the work is not yet stored."""
    with beside.cursor() as cursor:
        cursor.execute(
            "UPDATE jobs_job SET done = %s, total = %s, unit = %s WHERE id = %s RETURNING cancel",
            [done, total, unit, job.pk],
        )
        row = cursor.fetchone()
    if row and row[0]:
        raise Cancelled


def _answered(job: Job) -> tuple[HttpResponseBase, list[list[Any]]]:
    request = _request(job)
    try:
        view, args, kwargs = request.resolver_match  # type: ignore[misc]
        made: list[Any] = []

        def innermost(asked: Any) -> HttpResponseBase:
            for middleware in made:
                if hasattr(middleware, "process_view"):
                    middleware.process_view(asked, view, args, kwargs)
            return view(asked, *args, **kwargs)

        def around(inner: Callable, name: str) -> Callable:
            made.insert(0, import_string(name)(inner))
            return made[0]

        response = reduce(around, reversed(settings.AROUND_JOBS), innermost)(request)
        told = [[m.level, str(m.message)] for m in get_messages(request)]
        # A page has its messages in it already; where it leads on, they are for the next one.
        return response, told if "Location" in response else []
    finally:
        for files in request.FILES.lists():
            for file in files[1]:
                file.close()


def _request(job: Job) -> WSGIRequest:
    """The request as it was sent, without its cookies: who sent it is known."""
    told = job.headers
    host, _, port = told.get("Host", "localhost").partition(":")
    environ = {
        "REQUEST_METHOD": "POST",
        "PATH_INFO": job.path,
        "QUERY_STRING": job.query,
        "SERVER_NAME": host,
        "SERVER_PORT": port or ("443" if told.get("Scheme") == "https" else "80"),
        "HTTP_HOST": told.get("Host", "localhost"),
        "CONTENT_TYPE": "multipart/form-data",
        "wsgi.input": io.BytesIO(),
        "wsgi.url_scheme": told.get("Scheme", "http"),
        "wsgi.errors": sys.stderr,
    }
    for name in SENT_HEADERS:
        if name in told:
            environ[f"HTTP_{name.upper().replace('-', '_')}"] = told[name]
    request: Any = WSGIRequest(environ)
    request.as_job = True
    request.user = job.by
    request.session = SessionStore()
    request._messages = _Told(request)
    request._post = QueryDict(mutable=True)
    for key, values in job.post:
        request._post.setlist(key, values)
    request._files = MultiValueDict()
    for row in job.files.all():
        held = default_storage.open(row.stored)
        sent = UploadedFile(held.file, row.name, row.kind, row.size)
        request._files.appendlist(row.field, sent)
    request.resolver_match = resolve(job.path)
    return request
