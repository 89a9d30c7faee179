"""Addresses of Compare."""

from django.urls import path

from brunt_web.comparison import view_pages, views

urlpatterns = [
    path("campaigns/<int:pk>/compare/", views.compare, name="compare"),
    path("league/", view_pages.league, name="league"),
    path("campaigns/<int:pk>/compare/<slug:name>/", view_pages.view, name="compare-view"),
]
