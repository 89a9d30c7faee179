"""Addresses of the Treat station."""

from django.urls import path

from brunt_web.treatments import views

urlpatterns = [
    path("campaigns/<int:pk>/treat/", views.treat, name="treat"),
    path("campaigns/<int:pk>/treat/done/", views.done, name="step-done"),
    path("campaigns/<int:pk>/treat/out/", views.out, name="taken-out"),
    path("campaigns/<int:pk>/treat/<int:event>/back/", views.back, name="step-back"),
]
