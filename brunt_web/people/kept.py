"""What a form sent when its sign-in had run out, kept on the page until it can be sent again."""

from django.core import signing
from django.http import HttpRequest

_SALT = "brunt.kept-form"
_MOST = 200_000
# The token is made again; whatever may hold a password is not put into a page.
_QUIET = ("csrfmiddlewaretoken", "password", "old", "new", "again")
_AGE = 12 * 3600


def sealed_form(request: HttpRequest) -> str:
    """A form's address and fields, signed so that nobody else can put one there; empty where none fits.

    Files and passwords are excluded; a form with files, or of more than 200 kB, is not kept.
    """
    if request.method != "POST" or request.FILES:
        return ""
    fields = [[k, v] for k, values in request.POST.lists() for v in values if k not in _QUIET]
    if not fields or sum(len(k) + len(v) for k, v in fields) > _MOST:
        return ""
    return signing.dumps({"to": request.path, "fields": fields}, salt=_SALT, compress=True)


def opened_form(sealed: str) -> tuple[str, list[tuple[str, str]]] | None:
    """The address and fields again; nothing for what was not sealed here today."""
    try:
        held = signing.loads(sealed, salt=_SALT, max_age=_AGE)
        return str(held["to"]), [(str(k), str(v)) for k, v in held["fields"]]
    except (signing.BadSignature, KeyError, TypeError, ValueError):
        return None
