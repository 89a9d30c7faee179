"""All addresses; each app brings its own."""

from django.urls import include, path

urlpatterns = [
    # The bench first: it asks most.
    path("", include("brunt_web.testing.urls")),
    path("", include("brunt_web.interface.urls")),
    path("", include("brunt_web.people.urls")),
    path("", include("brunt_web.changes.urls")),
    path("", include("brunt_web.jobs.urls")),
    path("", include("brunt_web.rack.urls")),
    path("", include("brunt_web.asking.urls")),
    path("", include("brunt_web.printing.urls")),
    path("", include("brunt_web.treatments.urls")),
    path("", include("brunt_web.days.urls")),
    path("", include("brunt_web.feedstock.urls")),
    path("", include("brunt_web.checks.urls")),
    path("", include("brunt_web.decisions.urls")),
    path("", include("brunt_web.packages.urls")),
    path("", include("brunt_web.publishing.urls")),
    path("", include("brunt_web.notebooks.urls")),
    path("", include("brunt_web.help.urls")),
    path("", include("brunt_web.comparison.urls")),
    path("", include("brunt_web.exchange.urls")),
    path("library/", include("brunt_web.library.urls")),
]

handler400 = "brunt_web.interface.views.bad_request"
handler403 = "brunt_web.interface.views.forbidden"
handler404 = "brunt_web.not_found.not_found"
handler500 = "brunt_web.interface.views.server_error"
