"""Addresses of the start page, the rack and the bench line."""

from django.urls import path

from brunt_web.rack import views

urlpatterns = [
    path("", views.campaign_start_view, name="start"),
    path("line/", views.line, name="line"),
    path("campaigns/<int:pk>/", views.rack_view, name="rack"),
    path("campaigns/<int:pk>/archive/", views.campaign_archive_view, name="archive-campaign"),
]
