"""Addresses of Ask."""

from django.urls import path

from brunt_web.asking import views

urlpatterns = [
    path("campaigns/shapes/", views.shapes, name="shapes"),
    path("campaigns/new/", views.plan_new_view, name="new-campaign"),
    path("campaigns/new/preview/", views.preview_view, name="preview"),
    path("campaigns/<int:pk>/ask/", views.ask, name="ask"),
    path("campaigns/<int:pk>/ask/edit/", views.edit, name="edit-campaign"),
    path("campaigns/<int:pk>/ask/more/", views.more, name="more"),
    path(
        "campaigns/<int:pk>/ask/added/<slug:act>/off/",
        views.plan_take_off_view,
        name="take-off-plan",
    ),
    path("campaigns/<int:pk>/ask/accept/", views.accept, name="accept"),
    path("campaigns/<int:pk>/ask/withdraw/", views.plan_withdraw_view, name="withdraw"),
    path("campaigns/<int:pk>/conditions/<int:condition>/more/", views.more_of, name="more-of"),
    path("campaigns/<int:pk>/conditions/<int:condition>/making/", views.making, name="making"),
]
