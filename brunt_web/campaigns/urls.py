from django.urls import path

from brunt_web.campaigns import views

urlpatterns = [
    path("", views.start, name="start"),
    path("campaigns/shapes/", views.shapes, name="shapes"),
    path("campaigns/new/", views.new, name="new-campaign"),
    path("campaigns/new/preview/", views.preview, name="preview"),
    path("campaigns/<int:pk>/", views.rack, name="rack"),
    path("campaigns/<int:pk>/ask/", views.ask, name="ask"),
    path("campaigns/<int:pk>/ask/edit/", views.edit, name="edit-campaign"),
    path("campaigns/<int:pk>/ask/change/", views.change, name="change-campaign"),
]
