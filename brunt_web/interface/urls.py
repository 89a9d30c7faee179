"""Whether Brunt is well."""

from django.urls import path

from brunt_web.interface import views

urlpatterns = [
    path("health/", views.health, name="health"),
    path("offline/", views.offline, name="offline"),
    path("offline-worker.js", views.offline_worker, name="offline-worker"),
]
