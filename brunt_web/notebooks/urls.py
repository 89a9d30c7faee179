"""Addresses of the read API and of tokens."""

from django.urls import include, path

from brunt_web.notebooks import reading, views

# What is below is the API's own affair; it is imported when somebody reads.
_API = [
    path("", reading.read_api, {"rest": ""}, name="api-root"),
    path("openapi.json", reading.read_api, {"rest": "openapi.json"}, name="openapi-json"),
    path("<path:rest>", reading.read_api, name="read-api"),
]

urlpatterns = [
    path("tokens/", views.tokens, name="tokens"),
    path("tokens/<int:pk>/revoke/", views.token_revoke_view, name="revoke-token"),
    path("api/v1/", include((_API, "ninja"), namespace="api")),
]
