from django.urls import path, re_path

from brunt_web.printing import file_views, views

urlpatterns = [
    path("campaigns/<int:pk>/print/", views.station, name="print"),
    path("campaigns/<int:pk>/labels/", file_views.labels, name="labels"),
    path("batches/<int:pk>/", views.batch, name="batch"),
    path("batches/<int:pk>/plate-<int:plate>.3mf", file_views.plate_file, name="plate-file"),
    path("batches/<int:pk>/measure/", views.measuring, name="measuring"),
    path("grades/<int:pk>/photo/", file_views.photo, name="photo"),
    re_path(
        r"^specimens/(?P<code>[A-Z0-9]{2}-[A-Z0-9]{3})/print\.(?P<kind>stl|3mf)$",
        file_views.specimen_file,
        name="specimen-file",
    ),
    re_path(
        r"^specimens/(?P<code>[A-Z0-9]{2}-[A-Z0-9]{3})/measure/$",
        views.measure_one,
        name="measure-one",
    ),
]
