"""Addresses of help."""

from django.urls import path

from brunt_web.help import views

urlpatterns = [
    path("help/", views.contents, name="help"),
    path("help/pictures/<str:name>", views.picture_view, name="help-picture"),
    path("help/<path:key>/", views.help_page_view, name="help-page"),
]
