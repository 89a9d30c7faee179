"""Addresses of jobs."""

from django.urls import path

from brunt_web.jobs import views

urlpatterns = [
    path("jobs/", views.every, name="jobs"),
    path("jobs/<uuid:pk>/", views.one, name="job"),
    path("jobs/<uuid:pk>/state/", views.state_view, name="job-state"),
    path("jobs/<uuid:pk>/answer/", views.job_answer_view, name="job-answer"),
    path("jobs/<uuid:pk>/cancel/", views.cancel, name="job-cancel"),
]
