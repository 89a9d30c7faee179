"""Addresses of changes."""

from django.urls import path

from brunt_web.changes import views

urlpatterns = [
    path("changes/", views.changes_view, name="changes"),
    path("changes/<int:pk>/back/", views.change_back_view, name="put-back"),
    path("changes.csv", views.changes_csv, name="changes-csv"),
    path("changes.json", views.changes_json, name="changes-json"),
]
