"""A page made for another moment, with the token of who is shown it."""

import re

from django.http import HttpRequest
from django.middleware.csrf import get_token

_TOKEN = re.compile(rb'(name="csrfmiddlewaretoken" value=")[^"]*(")')


def with_own_token(request: HttpRequest, body: bytes) -> bytes:
    """The page with this session's token in its forms; as it is where it has none."""
    if not _TOKEN.search(body):
        return body
    token = get_token(request).encode()
    return _TOKEN.sub(lambda m: m[1] + token + m[2], body)
