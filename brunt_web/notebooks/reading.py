"""The read API behind one address."""

from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest
from django.http.response import HttpResponseBase
from django.urls import URLResolver
from django.urls.resolvers import RegexPattern
from django.views.decorators.csrf import csrf_exempt

from brunt_web.notebooks.api import api

RESOLVER = URLResolver(RegexPattern(r"^"), api.urls[0])


@csrf_exempt
@login_not_required
def read_api(request: HttpRequest, rest: str) -> HttpResponseBase:
    """What the API answers under this address, or 404. A token opens it, not a session."""
    found = RESOLVER.resolve(rest)
    answer: HttpResponseBase = found.func(request, *found.args, **found.kwargs)
    return answer
