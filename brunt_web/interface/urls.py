"""Whether Brunt is well."""

from django.urls import path

from brunt_web.interface import views

urlpatterns = [path("health/", views.health, name="health")]
