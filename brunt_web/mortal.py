"""Processes that do not outlive the one that began them."""

import ctypes
import os
import signal

_SET_PARENT_DEATH_SIGNAL = 1


def die_with_parent(number: int = signal.SIGTERM) -> None:
    """This process gets the signal when the one that began it ends, however it ends.

    Only Linux knows this; elsewhere nothing is done. Source: prctl(2), PR_SET_PDEATHSIG.
    """
    before = os.getppid()
    try:
        ctypes.CDLL(None).prctl(_SET_PARENT_DEATH_SIGNAL, number)
    except (OSError, AttributeError):
        return
    if os.getppid() != before:
        os.kill(os.getpid(), number)
