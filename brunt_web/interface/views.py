"""Health, and the pages for what went wrong."""

import errno
import shutil
import sys
from pathlib import Path

from django.conf import settings
from django.contrib.auth.decorators import login_not_required
from django.contrib.staticfiles import finders
from django.db import DatabaseError, InterfaceError, OperationalError, connection
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.views.decorators.http import require_GET

from brunt_web.interface.house import stranger

# Below the first a write fails soon; below the second somebody should make room.
FULL, NEARLY_FULL = 20_000_000, 500_000_000


@login_not_required
@require_GET
def health(request: HttpRequest) -> JsonResponse:
    """Whether the server and its database answer and there is room to write; 503 where not."""
    try:
        with connection.cursor() as cursor:
            cursor.execute("select 1")
    except (OperationalError, InterfaceError):
        return JsonResponse({"status": "the database does not answer"}, status=503)
    free = _free()
    if free is not None and free < FULL:
        return JsonResponse({"status": "the disk is full: nothing more can be saved"}, status=503)
    if settings.SHARED and (said := stranger()):
        return JsonResponse({"status": said}, status=503)
    told = {"status": "ok"}
    if free is not None and free < NEARLY_FULL:
        told["warning"] = f"only {free // 10**6} MB are left on the disk"
    if _jobs_wait():
        told["jobs"] = "large files are waiting, and no worker is running: restart Brunt"
    return JsonResponse(told)


@login_not_required
@require_GET
def offline(request: HttpRequest) -> HttpResponse:
    """The page a browser keeps for when the server is away; nothing in it is anybody's."""
    return HttpResponse(render_to_string("interface/offline.html"))


@login_not_required
@require_GET
def offline_worker(request: HttpRequest) -> HttpResponse:
    """The script by which a browser keeps it; at the root, so that it may answer for every page."""
    script = finders.find("interface/js/offline-worker.js")
    answer = HttpResponse(Path(str(script)).read_bytes(), content_type="text/javascript")
    answer["Cache-Control"] = "no-cache"
    return answer


def _jobs_wait() -> bool:
    """Whether a job has waited for a minute while none was worked on."""
    try:
        with connection.cursor() as cursor:
            cursor.execute(
                "SELECT min(created_at) < now() - interval '1 minute' AND NOT EXISTS "
                "(SELECT 1 FROM jobs_job WHERE state = 'running') FROM jobs_job WHERE state = 'waiting'"
            )
            return bool(cursor.fetchone()[0])
    except DatabaseError:
        return False  # before its tables are made


def _free() -> int | None:
    """Bytes left where files are kept; nothing where that is unknown."""
    place = Path(settings.MEDIA_ROOT)
    try:
        return shutil.disk_usage(next(p for p in (place, *place.parents) if p.exists())).free
    except OSError:
        return None


def _sorry(request: HttpRequest, status: int, title: str, happened: str, todo: str) -> HttpResponse:
    return render(
        request,
        "interface/sorry.html",
        {"title": title, "happened": happened, "todo": todo},
        status=status,
    )


@login_not_required
def bad_request(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """400."""
    return _sorry(
        request,
        400,
        "Request not readable",
        "The browser sent something this page cannot read. Nothing was saved.",
        "Go back, check what you typed and send it again.",
    )


@login_not_required
def forbidden(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """403."""
    return _sorry(
        request,
        403,
        "No access",
        "This belongs to another workshop or role. Nothing was changed.",
        "Go to your own campaigns.",
    )


@login_not_required
def not_found_view(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """404."""
    said = (
        str(exception)
        if exception and not isinstance(exception.args[0] if exception.args else "", dict)
        else ""
    )
    return _sorry(
        request,
        404,
        "Page not found",
        said or "The address may be mistyped, or the item was deleted.",
        "Go to your campaigns, or type a specimen's ID into the line below.",
    )


@login_not_required
def server_error(request: HttpRequest) -> HttpResponse:
    """500; 503 when the database is gone, 507 when the disk is full. Needs neither session nor database."""
    problem = sys.exc_info()[1]
    status, title, happened, todo = _what_broke(problem)
    words = {
        "title": title,
        "happened": happened,
        "todo": todo,
        "again": request.path if request.method == "GET" else "/",
    }
    return HttpResponse(render_to_string("interface/broken.html", words), status=status)


def _what_broke(problem: BaseException | None) -> tuple[int, str, str, str]:
    if is_full(problem):
        return (
            507,
            "The disk is full",
            "The machine that runs Brunt, or its database, is full. Everything confirmed before is saved;"
            " the last thing you sent is not; entries made at the bench wait in your browser.",
            "Ask the administrator to free space (old backups, other files), then send it again.",
        )
    if isinstance(problem, OperationalError | InterfaceError):
        return (
            503,
            "The database does not answer",
            "Brunt is running, but PostgreSQL is not. Everything confirmed before is saved; entries made at the bench "
            "wait in your browser.",
            "On the machine that runs Brunt: ./brunt demo starts the database again.",
        )
    return (
        500,
        "Unexpected error",
        "This is a fault in Brunt. Everything confirmed before is saved; the last thing you sent is not.",
        "Go back and send it again.",
    )


def is_full(problem: BaseException | None) -> bool:
    """Whether something failed because a disk is full, here or of the database (SQLSTATE 53100)."""
    while problem is not None:
        if isinstance(problem, OSError) and problem.errno in (errno.ENOSPC, errno.EDQUOT):
            return True
        if getattr(problem, "sqlstate", None) == "53100":
            return True
        problem = problem.__cause__ or problem.__context__
    return False


@login_not_required
def stale_form(request: HttpRequest, reason: str = "") -> HttpResponse:
    """A form whose sign-in has run out."""
    return _sorry(
        request,
        403,
        "Form out of date",
        "You signed in again, or out, since it was opened. Nothing was saved.",
        "Go back, reload the page and send it again; your browser keeps what you typed.",
    )
