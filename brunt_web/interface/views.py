"""Health, the bench line, and the pages for what went wrong."""

from django.contrib.auth.decorators import login_not_required
from django.db import connection
from django.http import JsonResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from brunt_web.interface.line import answer


@login_not_required
@require_GET
def health(request):
    """Whether the server and its database answer."""
    with connection.cursor() as cursor:
        cursor.execute("select 1")
    return JsonResponse({"status": "ok"})


@require_GET
def line(request):
    """The bench line: what was typed, understood."""
    return JsonResponse(answer(request.workshop, request.GET.get("q", "")[:200]))


def _sorry(request, status: int, title: str, happened: str, todo: str):
    return render(
        request,
        "interface/sorry.html",
        {"title": title, "happened": happened, "todo": todo},
        status=status,
    )


@login_not_required
def bad_request(request, exception=None):
    """400."""
    return _sorry(
        request,
        400,
        "That could not be read",
        "The browser sent something this page does not understand. Nothing was stored.",
        "Go back, check what you typed and send it again.",
    )


@login_not_required
def forbidden(request, exception=None):
    """403."""
    return _sorry(
        request,
        403,
        "Not yours to open",
        "This belongs to another workshop or role. Nothing was changed.",
        "Go to your own campaigns.",
    )


@login_not_required
def not_found(request, exception=None):
    """404."""
    said = (
        str(exception)
        if exception and not isinstance(exception.args[0] if exception.args else "", dict)
        else ""
    )
    return _sorry(
        request,
        404,
        "Nothing hangs at this address",
        said or "The address may be mistyped, or what it named was archived.",
        "Go to your campaigns, or type a specimen's ID into the line below.",
    )


@login_not_required
def server_error(request):
    """500."""
    return _sorry(
        request,
        500,
        "Something broke that should not have",
        "The fault is Brunt's, not yours. What was "
        "confirmed before is stored; the last thing sent is not.",
        "Go back and send it again.",
    )


@login_not_required
def stale_form(request, reason=""):
    """A form whose sign-in has run out."""
    return _sorry(
        request,
        403,
        "This form is stale",
        "You signed in again, or out, since it was opened. Nothing was stored.",
        "Go back, reload the page and send it again; your browser keeps what you typed.",
    )
