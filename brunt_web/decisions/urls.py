"""Addresses of Decide."""

from django.urls import path

from brunt_web.decisions import views

urlpatterns = [
    path("campaigns/<int:pk>/decide/", views.duties, name="duties"),
    path("campaigns/<int:pk>/decide/new/", views.new, name="new-duty"),
    path("campaigns/<int:pk>/decide/draw/", views.draw, name="draw-duty"),
    path("duties/<int:pk>/", views.duty, name="duty"),
    path("duties/<int:pk>/choose/", views.choose, name="choose-duty"),
    path("duties/<int:pk>/archive/", views.archive, name="archive-duty"),
]
