"""Addresses of the bench, the specimen, its clock and its curve."""

from django.urls import path, register_converter

from brunt_core.identifiers import tidy_code
from brunt_web.testing import curve_views, specimen_views, timed_views, views


class CodeConverter:
    """A specimen's ID, however it was typed."""

    regex = r"[A-Za-z0-9 -]{5,8}"

    def to_python(self, value: str) -> str:
        """The written form; a wrong one stays as typed and is not found."""
        return tidy_code(value) or value

    def to_url(self, value: str) -> str:
        """As written."""
        return value


register_converter(CodeConverter, "code")

urlpatterns = [
    path("campaigns/<int:pk>/bench/", views.bench, name="bench"),
    path("specimens/<code:code>/", specimen_views.specimen, name="specimen"),
    path("specimens/<code:code>/count/", specimen_views.count, name="count"),
    path("specimens/<code:code>/another/", specimen_views.another, name="another"),
    path("specimens/<code:code>/photo/", specimen_views.photo, name="photo"),
    path("photos/<int:pk>.jpg", specimen_views.photo_file, name="photo-file"),
    path("specimens/<code:code>/bench/", views.bench_specimen, name="bench-specimen"),
    path("specimens/<code:code>/bench/try/", views.try_out, name="attempt"),
    path("specimens/<code:code>/bench/ahead/", views.ahead, name="ahead"),
    path("specimens/<code:code>/bench/queue/", views.queue, name="queue"),
    path("specimens/<code:code>/bench/undo/", views.undo, name="undo"),
    path("specimens/<code:code>/bench/skip/", views.skip, name="skip"),
    path("specimens/<code:code>/bench/read/", views.dismiss_cautions, name="dismiss-cautions"),
    path("specimens/<code:code>/clock/start/", timed_views.start, name="clock-start"),
    path("specimens/<code:code>/clock/take/", timed_views.take, name="clock-take"),
    path("specimens/<code:code>/clock/undo/", timed_views.undo, name="clock-undo"),
    path("specimens/<code:code>/clock/finish/", timed_views.finish, name="clock-finish"),
    path("specimens/<code:code>/curve/", curve_views.curve, name="curve"),
    path("specimens/<code:code>/curve/pick/", curve_views.pick, name="curve-pick"),
]
