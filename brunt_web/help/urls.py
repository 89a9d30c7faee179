"""Addresses of help."""

from django.urls import path

from brunt_web.help import views

urlpatterns = [
    path("help/", views.contents, name="help"),
    path("help/pictures/<str:name>", views.picture, name="help-picture"),
    path("help/<path:key>/", views.page, name="help-page"),
]
