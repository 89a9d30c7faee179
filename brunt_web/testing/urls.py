from django.urls import path, register_converter

from brunt_core.identifiers import tidy_code
from brunt_web.testing import views


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
    path("specimens/<code:code>/", views.specimen, name="specimen"),
    path("specimens/<code:code>/bench/", views.bench_specimen, name="bench-specimen"),
    path("specimens/<code:code>/bench/try/", views.attempt, name="attempt"),
    path("specimens/<code:code>/bench/undo/", views.undo, name="undo"),
    path("specimens/<code:code>/count/", views.count, name="count"),
]
