"""Addresses of check standards."""

from django.urls import path

from brunt_web.checks import views

urlpatterns = [
    path("checks/", views.checks, name="checks"),
    path("checks/<int:pk>/", views.check, name="check"),
    path("checks/<int:pk>/archive/", views.archive, name="archive-check"),
    path("checks/<int:pk>/phases/", views.new_phase, name="new-phase"),
    path("checks/<int:pk>/phases/<int:phase>/off/", views.end_phase, name="end-phase"),
]
