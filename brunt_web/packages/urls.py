"""Addresses of data packages."""

from django.urls import path

from brunt_web.packages import views

urlpatterns = [
    path("packages/", views.packages, name="packages"),
    path("packages/look/", views.package_look_view, name="look-into-package"),
    path("campaigns/<int:pk>/package.zip", views.download, name="package"),
    path("campaigns/<int:pk>/package/<str:name>.zip", views.made_view, name="made-package"),
    path("read/<str:token>/package.zip", views.package_read_view, name="read-package"),
]
