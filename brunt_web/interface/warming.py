"""What computes is imported once in each web process, by one thread, behind its first pages.

The libraries load their parts when these are first used. Two requests that do so at the same moment in two
threads can each find a part the other has only half loaded, and fail; so a page that may compute waits
for the one thread that loads them all. A process that was never told to warm up (tests, commands) has one
thread and waits for nothing.
"""

import gc
from collections.abc import Callable
from importlib import import_module
from threading import Event, Lock, Thread, Timer

from django.http import HttpRequest, HttpResponse
from django.template import engines

from brunt_web.interface.later import import_all

_PARTS = ("special", "linalg", "optimize", "ndimage", "stats")
_LONGEST = 30.0
_lock, _done = Lock(), Event()
_state = {"wanted": False, "begun": False}


def import_pages() -> None:
    """Import every view and the tags of every template."""
    import_all()
    dict(engines["django"].engine.template_libraries)  # type: ignore[attr-defined]


def _warm() -> None:
    try:
        import_pages()
        for part in _PARTS:
            import_module(f"scipy.{part}")
        from brunt_core.computation import compute
        from brunt_core.methods.registry import method
        from brunt_core.observations import Observation
        from brunt_core.statistics.ranking import rank

        compute(method("tension"), {"force": "1 kgf", "width": "5", "thickness": "2"})
        rank({name: [Observation.exact(v) for v in (1.0, 2.0)] for name in "ab"})
        # What was imported stays: it is not looked through for garbage again, which took 40 ms each time.
        gc.collect()
        gc.freeze()
    finally:
        _done.set()


def _begin() -> None:
    with _lock:
        if _state["begun"]:
            return
        _state["begun"] = True
    Thread(target=_warm, daemon=True).start()


def warm_soon(seconds: float = 1.5) -> None:
    """Begin in a moment, or when the first page needs it; called by each worker after the fork."""
    _state["wanted"] = True
    timer = Timer(seconds, _begin)
    timer.daemon = True
    timer.start()


class WarmMiddleware:
    """A page for somebody signed in waits until what computes is there."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.get_response(request)

    def process_view(
        self, request: HttpRequest, view: object, args: object, kwargs: object
    ) -> None:
        """Wait, at most half a minute, where this process was told to warm up."""
        if not _state["wanted"] or _done.is_set() or not getattr(view, "login_required", True):
            return
        _begin()
        _done.wait(_LONGEST)
