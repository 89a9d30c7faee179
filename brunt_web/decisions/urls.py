"""Addresses of Decide."""

from django.urls import path
from django.views.generic import RedirectView

from brunt_web.decisions import views

urlpatterns = [
    path("campaigns/<int:pk>/decide/", views.load_cases, name="load-cases"),
    path("campaigns/<int:pk>/decide/new/", views.load_case_new_view, name="new-load-case"),
    path("campaigns/<int:pk>/decide/draw/", views.draw_view, name="draw-load-case"),
    path("load-cases/<int:pk>/", views.load_case, name="load-case"),
    path(
        "duties/<int:pk>/",
        RedirectView.as_view(pattern_name="load-case", permanent=True),
        name="renamed-load-case",
    ),
    path("load-cases/<int:pk>/choose/", views.choose_view, name="choose-load-case"),
    path("load-cases/<int:pk>/archive/", views.load_case_archive_view, name="archive-load-case"),
]
