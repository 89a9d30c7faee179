"""Imports everything a request may need before the server forks, so that its copies share it in memory."""

from importlib import import_module

from django.conf import settings

# SciPy loads its parts when they are first used.
_SCIPY = ("special", "linalg", "optimize", "ndimage", "stats")


def import_everything() -> None:
    """Import every view and template tag, and the libraries that compute, and run each once.

    No query is made here: a connection opened before the fork would be shared by the copies.
    """
    import_module(settings.ROOT_URLCONF)
    for part in _SCIPY:
        import_module(f"scipy.{part}")
    from brunt_core.computation import compute
    from brunt_core.methods.registry import method
    from brunt_core.observations import Observation
    from brunt_core.statistics.ranking import rank

    compute(method("tension"), {"force": "1 kgf", "width": "5", "thickness": "2"})
    rank({name: [Observation.exact(v) for v in (1.0, 2.0)] for name in "ab"})
