"""The WSGI application. Heavy imports happen here, before the first request."""

from django.core.wsgi import get_wsgi_application

application = get_wsgi_application()


def _warm() -> None:
    from brunt_core.computation import compute
    from brunt_core.methods.registry import method
    from brunt_core.statistics.studentized_range import survival

    compute(method("tension"), {"force": "1 kgf", "width": "5", "thickness": "2"})
    survival([3.0], 3, [8.0])


_warm()
