"""The web server's own settings; a file that gunicorn reads."""

from typing import Any

preload_app = True
threads = 4
# Longer than a tester pauses between two readings, so that the next finds its connection open.
keepalive = 75
graceful_timeout = 3
loglevel = "warning"
accesslog = None


def post_fork(server: Any, worker: Any) -> None:
    """What computes is imported behind the first pages of each worker."""
    from brunt_web.interface.warming import warm_soon

    warm_soon()
