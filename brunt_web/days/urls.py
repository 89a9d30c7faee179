"""Addresses of the schedule."""

from django.urls import path

from brunt_web.days import views, workshop_views

urlpatterns = [
    path("workshop/", workshop_views.workshop, name="workshop"),
    path("day/", views.day, name="day"),
    path("day/plan/", views.make, name="day-plan"),
    path("day/move/", views.schedule_move_view, name="day-move"),
    path("day/undo/", views.schedule_undo_view, name="day-undo"),
    path("day/unpin/", views.unpin_view, name="day-unpin"),
    path("day/savings/", views.saving, name="day-savings"),
    path("day/hours/", views.hours_view, name="day-hours"),
    path("day/own/", views.own, name="day-own"),
    path("day/own/<int:pk>/done/", views.own_done_view, name="day-own-done"),
    path("day/feed/", views.feed_new, name="day-feed"),
    path("day/feed/off/", views.feed_off, name="day-feed-off"),
    path("day/brunt.ics", views.calendar, name="day-calendar"),
    path("calendar/<slug:token>.ics", views.feed, name="feed"),
    path("due/", views.due_view, name="due"),
]
