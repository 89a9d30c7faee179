"""Processes that do not outlive the one that began them."""

import ctypes
import os
import pwd
import signal

_SET_PARENT_DEATH_SIGNAL = 1


def become(name: str) -> None:
    """This process goes on as a user, with that user's groups and no way back. Before :func:`die_with_parent`.

    Raises ``KeyError`` where there is no such user, ``OSError`` where it may not.
    """
    user = pwd.getpwnam(name)
    os.initgroups(name, user.pw_gid)
    os.setgid(user.pw_gid)
    os.setuid(user.pw_uid)
    os.environ["HOME"] = user.pw_dir


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
