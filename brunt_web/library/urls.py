from django.urls import path, re_path

from brunt_web.library import procedure_views, recipe_views, type_views, views

urlpatterns = [
    path("", views.library, name="library"),
    path("procedures/", procedure_views.procedures, name="procedures"),
    path("lots/<int:pk>/", views.lot, name="lot"),
    path("recipes/new/", recipe_views.recipe, name="new-recipe"),
    path("recipes/gcode/", recipe_views.gcode, name="gcode"),
    path("recipes/<int:pk>/", recipe_views.recipe, name="recipe"),
    path("recipes/<int:pk>/against/<int:other>/", recipe_views.difference, name="difference"),
    path("types/", type_views.types, name="types"),
    path("types/<slug:key>/", type_views.type_page, name="type"),
    re_path(r"^types/(?P<key>[-\w]+)\.(?P<kind>stl|3mf)$", type_views.type_file, name="type-file"),
]
