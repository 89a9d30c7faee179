"""Addresses of the Treat stage."""

from django.urls import path

from brunt_web.testing import names  # noqa: F401  (registers the converter of IDs)
from brunt_web.treatments import change_views, run_views, views

urlpatterns = [
    path("campaigns/<int:pk>/treat/", views.treat, name="treat"),
    path("campaigns/<int:pk>/treat/done/", views.done, name="step-done"),
    path("campaigns/<int:pk>/treat/out/", views.treatment_out_view, name="taken-out"),
    path("campaigns/<int:pk>/treat/<int:event>/back/", views.treatment_back_view, name="step-back"),
    path("campaigns/<int:pk>/treat/new/", run_views.run_new_view, name="new-run"),
    path("campaigns/<int:pk>/treat/change/", change_views.change_view, name="change"),
    path("runs/<int:number>/", run_views.run_view, name="run"),
    path("runs/<int:number>/measure/", change_views.change_measuring_view, name="run-measure"),
    path(
        "runs/<int:number>/measure/<code:code>/",
        change_views.change_measure_one_view,
        name="run-measure-one",
    ),
    path("runs/<int:number>/weigh/", change_views.weighing, name="run-weigh"),
    path("runs/<int:number>/weigh/<code:code>/", change_views.weigh_one, name="run-weigh-one"),
    path("runs/<int:number>/look/", change_views.looking, name="run-look"),
    path("runs/<int:number>/look/<code:code>/", change_views.look_one, name="run-look-one"),
    path("runs/<int:number>/on/", run_views.on, name="run-on"),
    path("runs/<int:number>/back/", run_views.run_back_view, name="run-back"),
    path("runs/<int:number>/read/", run_views.run_read_view, name="run-read"),
    path("runs/<int:number>/log/", run_views.log, name="run-log"),
    path("runs/<int:number>/log/<int:pk>/off/", run_views.log_off, name="run-log-off"),
    path("runs/<int:number>/live/", run_views.live, name="run-live"),
    path("runs/<int:number>/out/", run_views.run_out_view, name="run-out"),
    path("runs/<int:number>/in/", run_views.back_in, name="run-in"),
    path("runs/<int:number>/stop/", run_views.stop_view, name="run-stop"),
    path("treatments/", views.treatment_kinds_view, name="treatments"),
    path("treatments/vessels/new/", views.new_vessel, name="new-vessel"),
    path("treatments/kinds/new/", views.new_kind, name="new-kind"),
    path("treatments/dry/", run_views.dry, name="dry-lot"),
]
