"""Addresses of feedstock."""

from django.urls import path

from brunt_web.feedstock import views

urlpatterns = [
    path("feedstock/", views.feedstock, name="feedstock"),
    path("feedstock/new/", views.feedstock_new_view, name="new-qualification"),
    path("feedstock/<int:pk>/", views.qualification, name="qualification"),
    path("feedstock/<int:pk>/recipe/", views.feedstock_recipe_view, name="qualification-recipe"),
    path("feedstock/<int:pk>/picture/", views.picture_new, name="new-picture"),
    path("feedstock/<int:pk>/try/<slug:gate>/", views.attempt_view, name="qualification-try"),
    path(
        "feedstock/<int:pk>/attempts/<int:number>/back/",
        views.feedstock_back_view,
        name="attempt-back",
    ),
    path("particles/<int:pk>/", views.particles, name="particles"),
    path("particles/<int:pk>/scale/", views.scale, name="particles-scale"),
    path("particles/<int:pk>/stray/", views.stray, name="particles-stray"),
    path("particles/<int:pk>.png", views.picture_file, name="particles-file"),
]
