from django.urls import path

from brunt_web.library import views

urlpatterns = [path("", views.library, name="library")]
