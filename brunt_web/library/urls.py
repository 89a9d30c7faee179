from django.urls import path, re_path

from brunt_web.interface.later import later

away_views = later("brunt_web.library.away_views")
bring_up_views = later("brunt_web.library.bring_up_views")
lot_views = later("brunt_web.library.lot_views")
part_views = later("brunt_web.library.part_views")
procedure_views = later("brunt_web.library.procedure_views")
recipe_views = later("brunt_web.library.recipe_views")
rig_views = later("brunt_web.library.rig_views")
type_views = later("brunt_web.library.type_views")
views = later("brunt_web.library.views")

urlpatterns = [
    path("away/", away_views.away, name="away"),
    path("away/<slug:kind>/<int:pk>/", away_views.put_away, name="put-away-of"),
    path("add/", views.adding, name="add-to-library"),
    path("materials/new/", views.new_material, name="new-material"),
    path("lots/new/", views.new_lot, name="new-lot"),
    path("lots/blend/", lot_views.blend, name="blend"),
    path("lots/<int:pk>/", lot_views.lot, name="lot"),
    path("lots/<int:pk>/unmix/", lot_views.unmix, name="unmix"),
    path("lots/<int:pk>/weighed/", lot_views.weighed, name="lot-weighed"),
    path("lots/<int:pk>/dried/", lot_views.dried, name="lot-dried"),
    path("lots/<int:pk>/drying/start/", lot_views.start_drying, name="drying-start"),
    path("lots/<int:pk>/drying/end/", lot_views.end_drying, name="drying-end"),
    path("lots/<int:pk>/drying/<int:drying>/back/", lot_views.drying_back, name="drying-back"),
    path("lots/<int:pk>/seal/", lot_views.seal, name="seal"),
    path("lots/<int:pk>/unseal/", lot_views.unseal, name="unseal"),
    path("drying/", lot_views.drying, name="drying"),
    path("drying/air/", lot_views.air, name="air"),
    path("printers/new/", views.new_printer, name="new-printer"),
    path("procedures/", procedure_views.procedures, name="procedures"),
    path("procedures/<int:pk>/", procedure_views.procedure, name="procedure"),
    path("procedures/look/", procedure_views.look, name="procedure-look"),
    path("procedures/new/", procedure_views.new_procedure, name="new-procedure"),
    path("procedures/ready/", procedure_views.new_starter, name="new-starter"),
    path("rigs/new/", procedure_views.new_rig, name="new-rig"),
    path("rigs/<int:pk>/", rig_views.rig, name="rig"),
    path("rigs/<int:pk>/calibrations/", rig_views.calibrate, name="calibrate"),
    path(
        "rigs/<int:pk>/calibrations/<int:calibration>/withdraw/",
        rig_views.withdraw,
        name="withdraw-calibration",
    ),
    path("procedures/<int:pk>/rigs/", rig_views.further_rigs, name="further-rigs"),
    path("recipes/new/", recipe_views.new_recipe, name="new-recipe"),
    path("recipes/cut/", recipe_views.cut, name="recipe-cut"),
    path("recipes/gcode/", recipe_views.gcode, name="gcode"),
    path("recipes/<int:pk>/", recipe_views.recipe, name="recipe"),
    path("recipes/<int:pk>/bring-up/", bring_up_views.page, name="bring-up"),
    path("recipes/<int:pk>/bring-up/look/", bring_up_views.look, name="bring-up-look"),
    path("recipes/<int:pk>/bring-up/adopt/", bring_up_views.adopt, name="bring-up-adopt"),
    path("recipes/<int:pk>/bring-up/keep/", bring_up_views.keep, name="bring-up-keep"),
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
