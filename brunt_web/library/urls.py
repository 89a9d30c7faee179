from django.urls import path, re_path

from brunt_web.library import part_views, procedure_views, recipe_views, type_views, views

urlpatterns = [
    path("", views.library, name="library"),
    path("materials/new/", views.new_material, name="new-material"),
    path("lots/new/", views.new_lot, name="new-lot"),
    path("lots/<int:pk>/", views.lot, name="lot"),
    path("lots/<int:pk>/weighed/", views.lot_weighed, name="lot-weighed"),
    path("lots/<int:pk>/dried/", views.lot_dried, name="lot-dried"),
    path("printers/new/", views.new_printer, name="new-printer"),
    path("procedures/", procedure_views.procedures, name="procedures"),
    path("procedures/new/", procedure_views.new_procedure, name="new-procedure"),
    path("procedures/ready/", procedure_views.new_starter, name="new-starter"),
    path("rigs/new/", procedure_views.new_rig, name="new-rig"),
    path("recipes/new/", recipe_views.new_recipe, name="new-recipe"),
    path("recipes/gcode/", recipe_views.gcode, name="gcode"),
    path("recipes/<int:pk>/", recipe_views.recipe, name="recipe"),
    path("recipes/<int:pk>/against/<int:other>/", recipe_views.difference, name="difference"),
    path("parts/new/", part_views.new_part, name="new-part"),
    path("parts/<int:pk>/", part_views.part, name="part"),
    path("parts/<int:pk>/lay/", part_views.lay, name="lay-part"),
    path("parts/<int:pk>/mark/", part_views.mark, name="mark-part"),
    path("parts/<int:pk>/copy/", part_views.copy, name="copy-part"),
    path("parts/<int:pk>/procedure/", part_views.procedure, name="part-procedure"),
    path("parts/<int:pk>/source/", part_views.source, name="part-source"),
    path("types/", type_views.types, name="types"),
    path("types/<slug:key>/", type_views.type_page, name="type"),
    path("types/<slug:key>/drawn/", type_views.draw_variant, name="draw-variant"),
    path("types/<slug:key>/own/", type_views.new_type, name="new-type"),
    path("types/<slug:key>/procedure/", type_views.type_procedure, name="type-procedure"),
    re_path(r"^types/(?P<key>[-\w]+)\.(?P<kind>stl|3mf)$", type_views.type_file, name="type-file"),
]
