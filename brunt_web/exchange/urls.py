from django.urls import path

from brunt_web.exchange import views

urlpatterns = [
    path("campaigns/<int:pk>/bring-in/", views.bring_in, name="bring-in"),
    path("campaigns/<int:pk>/results.csv", views.export, name="export"),
]
