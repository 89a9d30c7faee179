"""Addresses of what comes in and goes out."""

from django.urls import path

from brunt_web.exchange import views

urlpatterns = [
    path("campaigns/<int:pk>/bring-in/", views.bring_in, name="bring-in"),
    path("campaigns/<int:pk>/bring-in/preview/", views.bring_in_preview, name="bring-in-preview"),
    path("campaigns/<int:pk>/bring-in/store/", views.bring_in_store, name="bring-in-store"),
    path("campaigns/<int:pk>/bring-in/<int:brought>/undo/", views.undo, name="bring-in-undo"),
    path("campaigns/<int:pk>/paste/<int:procedure>/", views.paste, name="paste"),
    path("campaigns/<int:pk>/results.csv", views.export, name="export"),
    path("campaigns/<int:pk>/results.xlsx", views.export_sheet, name="export-xlsx"),
    path("campaigns/<int:pk>/results.json", views.export_json, name="export-json"),
]
