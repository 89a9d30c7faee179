"""Addresses of data packages."""

from django.urls import path

from brunt_web.packages import views

urlpatterns = [
    path("campaigns/<int:pk>/package.zip", views.download, name="package"),
    path("read/<str:token>/package.zip", views.read, name="read-package"),
]
