"""Addresses of the read API and of tokens."""

from django.contrib.auth.decorators import login_not_required
from django.urls import path

from brunt_web.notebooks import views
from brunt_web.notebooks.api import api

_PATTERNS, _APP, _SPACE = api.urls
for _pattern in _PATTERNS:
    # The token opens these, not a session.
    if _pattern.callback is not None:
        login_not_required(_pattern.callback)

urlpatterns = [
    path("tokens/", views.tokens, name="tokens"),
    path("tokens/<int:pk>/revoke/", views.revoke, name="revoke-token"),
    path("api/v1/", (_PATTERNS, _APP, _SPACE)),
]
