from django.urls import path

from brunt_web.campaigns import views

urlpatterns = [
    path("", views.start, name="start"),
    path("campaigns/new/", views.new, name="new-campaign"),
    path("campaigns/new/tally/", views.tally, name="tally"),
    path("campaigns/<int:pk>/", views.rack, name="rack"),
    path("campaigns/<int:pk>/ask/", views.ask, name="ask"),
]
