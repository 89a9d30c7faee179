"""The WSGI application. What every page needs is imported before the fork, the heavy rest behind the first pages."""

from importlib import import_module
from threading import Timer

from django.conf import settings
from django.core.wsgi import get_wsgi_application

application = get_wsgi_application()
import_module(settings.ROOT_URLCONF)


def _warm() -> None:
    """Import what computes, so that nobody waits for it at their first reading."""
    from brunt_core.computation import compute
    from brunt_core.methods.registry import method
    from brunt_core.observations import Observation
    from brunt_core.statistics.ranking import rank

    compute(method("tension"), {"force": "1 kgf", "width": "5", "thickness": "2"})
    rank({name: [Observation.exact(v) for v in (1.0, 2.0)] for name in "ab"})


def warm_soon(seconds: float = 1.5) -> None:
    """Warm up in the background of one worker; called by each after the fork."""
    timer = Timer(seconds, _warm)
    timer.daemon = True
    timer.start()
