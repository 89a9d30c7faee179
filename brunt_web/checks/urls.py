"""Addresses of check standards."""

from django.urls import path

from brunt_web.checks import views

urlpatterns = [
    path("checks/", views.checks, name="checks"),
    path("checks/<int:pk>/", views.check_view, name="check"),
    path("checks/<int:pk>/archive/", views.check_archive_view, name="archive-check"),
    path("checks/<int:pk>/phases/", views.new_phase, name="new-phase"),
    path("checks/<int:pk>/phases/<int:phase>/off/", views.end_phase_view, name="end-phase"),
]
