"""The web server's own settings; a file that gunicorn reads."""

import gc
from typing import Any

# While everything is imported there is nothing to throw away; what was imported then stays for good, and
# the workers share it.
gc.disable()

preload_app = True
threads = 4
# Longer than a tester pauses between two readings, so that the next finds its connection open.
keepalive = 75
graceful_timeout = 3
loglevel = "warning"
accesslog = None


def pre_fork(server: Any, worker: Any) -> None:
    """What is there now is never looked through for garbage."""
    gc.freeze()


def post_fork(server: Any, worker: Any) -> None:
    """What computes is imported behind the first pages of each worker."""
    gc.enable()
    from brunt_web.interface.warming import warm_soon

    warm_soon()
