"""Addresses of what comes in and goes out."""

from django.urls import path

from brunt_web.exchange import views

urlpatterns = [
    path("campaigns/<int:pk>/import-data/", views.import_data_view, name="import-data"),
    path(
        "campaigns/<int:pk>/import-data/preview/",
        views.import_data_preview,
        name="import-data-preview",
    ),
    path(
        "campaigns/<int:pk>/import-data/store/", views.import_data_store, name="import-data-store"
    ),
    path(
        "campaigns/<int:pk>/import-data/<int:brought>/undo/",
        views.import_undo_view,
        name="import-data-undo",
    ),
    path("campaigns/<int:pk>/paste/<int:procedure>/", views.paste, name="paste"),
    path("campaigns/<int:pk>/results.csv", views.export, name="export"),
    path("campaigns/<int:pk>/results.xlsx", views.export_sheet, name="export-xlsx"),
    path("campaigns/<int:pk>/results.json", views.export_json, name="export-json"),
]
