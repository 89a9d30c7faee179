"""Addresses of the start page, the rack and the bench line."""

from django.urls import path

from brunt_web.rack import views

urlpatterns = [
    path("", views.start, name="start"),
    path("line/", views.line, name="line"),
    path("campaigns/<int:pk>/", views.rack, name="rack"),
    path("campaigns/<int:pk>/archive/", views.archive, name="archive-campaign"),
]
