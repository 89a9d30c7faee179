"""Foreign files are read in a process of their own, bounded in memory and time: a hostile one ends in a sentence."""

import logging
import os
import pickle
import resource
import subprocess
import sys
from collections.abc import Callable
from importlib import import_module
from pathlib import Path
from typing import Any, ParamSpec, TypeVar

from brunt_core.errors import InputError
from brunt_web.mortal import die_with_parent

Given = ParamSpec("Given")
Answer = TypeVar("Answer")

MEMORY_MB, SECONDS = 1200, 20
_ROOT = Path(__file__).resolve().parents[2]


_bounded: list[bool] = []


def in_a_job() -> bool:
    """Whether this process is a job's, which has its own bound of memory, a way to cancel, and time."""
    return bool(_bounded)


def is_a_job() -> None:
    """Said once by the process of a job."""
    _bounded.append(True)


def read_bounded(
    function: Callable[Given, Answer], *given: Given.args, **more: Given.kwargs
) -> Answer:
    """What a function of a module makes of a foreign file, worked out in a bounded process.

    Raises :class:`InputError` as the function does, and for a file that takes more memory or time than it may.
    """
    if in_a_job():
        return function(*given, **more)
    asked = (function.__module__, function.__qualname__, given, more)
    try:
        done = subprocess.run(
            [sys.executable, "-m", "brunt_web.interface.bounded"],
            input=pickle.dumps(asked),
            capture_output=True,
            timeout=SECONDS,
            cwd=_ROOT,
            env={**os.environ, "OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"},
        )
    except subprocess.TimeoutExpired:
        raise InputError(
            f"The file takes longer than {SECONDS} s to read; nothing was saved. Save it smaller or simpler.",
            "file",
        ) from None
    if done.returncode:
        raise InputError(
            f"Reading the file needs more than {MEMORY_MB} MB of memory, or it is damaged; nothing was saved. Save it smaller or simpler.",
            "file",
        )
    kind, answer = pickle.loads(done.stdout)
    if kind == "refused":
        raise InputError(*answer)
    if kind == "fault":
        logging.getLogger("django.request").error("%s failed on a file: %s", asked[1], answer)
        raise InputError(
            "The file could not be read; nothing was saved. Save it again, or in another format.",
            "file",
        )
    found: Answer = answer
    return found


def _work() -> None:
    """In the child: read what is asked, answer on the standard output, whatever the reader prints."""
    die_with_parent()
    bound = MEMORY_MB * 1_000_000
    resource.setrlimit(resource.RLIMIT_DATA, (bound, bound))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    out, sys.stdout = sys.stdout.buffer, sys.stderr
    module, name, given, more = pickle.load(sys.stdin.buffer)
    answer: tuple[str, Any]
    try:
        answer = ("read", getattr(import_module(module), name)(*given, **more))
    except InputError as error:
        answer = ("refused", (error.sentence, error.field))
    except MemoryError:
        sys.exit(1)
    except Exception as error:
        answer = ("fault", repr(error))
    out.write(pickle.dumps(answer))
    out.flush()


if __name__ == "__main__":
    _work()
