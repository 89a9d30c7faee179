"""Addresses of reports and of the links they are read by."""

from django.urls import path

from brunt_web.publishing import reader_views, views

urlpatterns = [
    path("campaigns/<int:pk>/report/", views.report, name="report"),
    path("campaigns/<int:pk>/report/words/", views.words_view, name="report-words"),
    path("campaigns/<int:pk>/report/links/", views.new_link, name="report-link"),
    path("report-links/<int:pk>/revoke/", views.report_revoke_view, name="revoke-link"),
    path("read/<str:token>/", reader_views.shared_read_view, name="read"),
    path("read/<str:token>/results.<str:kind>", reader_views.results_view, name="read-results"),
    path("read/<str:token>/photos/<int:pk>.jpg", reader_views.shared_photo_view, name="read-photo"),
]
