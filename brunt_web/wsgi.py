"""The WSGI application. Heavy imports happen here, before the first request."""

from django.core.wsgi import get_wsgi_application

application = get_wsgi_application()


def _warm() -> None:
    from brunt_core.computation import compute
    from brunt_core.methods.registry import method
    from brunt_core.observations import Observation
    from brunt_core.statistics.ranking import rank

    compute(method("tension"), {"force": "1 kgf", "width": "5", "thickness": "2"})
    rank({name: [Observation.exact(v) for v in (1.0, 2.0)] for name in "ab"})


_warm()
