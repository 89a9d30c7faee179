"""Addresses of Compare."""

from django.urls import path
from django.views.generic import RedirectView

from brunt_web.comparison import gauge_view, view_pages, views
from brunt_web.comparison.pages import library_page, material_page

urlpatterns = [
    path("campaigns/<int:pk>/compare/", views.compare, name="compare"),
    path("library/", library_page.library, name="library"),
    path("library/materials/<int:pk>/", material_page.material, name="material"),
    path("procedures/<int:pk>/gauge/", gauge_view.gauge_page, name="gauge"),
    path("all-campaigns/", view_pages.all_campaigns, name="all-campaigns"),
    path(
        "league/",
        RedirectView.as_view(pattern_name="all-campaigns", permanent=True, query_string=True),
        name="renamed-all-campaigns",
    ),
    path("campaigns/<int:pk>/compare/<slug:name>/", view_pages.view, name="compare-view"),
]
