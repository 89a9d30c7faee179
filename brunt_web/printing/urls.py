"""Addresses of the Print print stage."""

from django.urls import path, re_path

from brunt_web.printing import file_views, views

_CODE = r"^specimens/(?P<code>[A-Z0-9]{2}-[A-Z0-9]{3,4})/"


urlpatterns = [
    path("campaigns/<int:pk>/print/", views.print_stage, name="print"),
    path("campaigns/<int:pk>/print/ahead/", views.print_ahead_view, name="print-ahead"),
    path("campaigns/<int:pk>/made/", views.otherwise, name="mark-as-made"),
    path("campaigns/<int:pk>/measure/", views.measuring_all, name="measure-all"),
    path("campaigns/<int:pk>/labels/", file_views.labels, name="labels"),
    path("batches/<int:pk>/", views.batch, name="batch"),
    path("batches/<int:pk>/plate-sheet/", views.plate_sheet, name="plate-sheet"),
    path("batches/<int:pk>/outcome/", views.outcome, name="outcome"),
    path("batches/<int:pk>/reprint/", views.reprint_view, name="reprint"),
    path("batches/<int:pk>/grade/", views.grade_view, name="grade"),
    path("batches/<int:pk>/plates/<int:number>/against/", views.against, name="plate-against"),
    path("batches/<int:pk>/plates/<int:number>/printed/", views.printed, name="plate-printed"),
    path("batches/<int:pk>/plates/<int:number>/failed/", views.failed, name="plate-failed"),
    path(
        "batches/<int:pk>/plates/<int:number>/failed/<int:attempt>/back/",
        views.attempt_back,
        name="attempt-back",
    ),
    path("batches/<int:pk>/plates/<int:number>/empty/", views.empty, name="plate-empty"),
    path("batches/<int:pk>/plate-<int:plate>.3mf", file_views.plate_file, name="plate-file"),
    path("batches/<int:pk>/measure/", views.print_measuring_view, name="measuring"),
    path("grades/<int:pk>/photo/", file_views.print_photo_view, name="grade-photo"),
    re_path(_CODE + r"print\.(?P<kind>stl|3mf)$", file_views.specimen_file, name="specimen-file"),
    re_path(_CODE + r"measure/$", views.print_measure_one_view, name="measure-one"),
]
