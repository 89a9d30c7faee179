"""Addresses of the read API and of tokens."""

from django.urls import include, path

from brunt_web.notebooks import reading, views

# What is below is the API's own affair; it is imported when somebody reads.
_API = [
    path("", reading.read, {"rest": ""}, name="api-root"),
    path("openapi.json", reading.read, {"rest": "openapi.json"}, name="openapi-json"),
    path("<path:rest>", reading.read, name="read-api"),
]

urlpatterns = [
    path("tokens/", views.tokens, name="tokens"),
    path("tokens/<int:pk>/revoke/", views.revoke, name="revoke-token"),
    path("api/v1/", include((_API, "ninja"), namespace="api")),
]
