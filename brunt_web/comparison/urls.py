from django.urls import path

from brunt_web.comparison import views

urlpatterns = [path("campaigns/<int:pk>/compare/", views.compare, name="compare")]
