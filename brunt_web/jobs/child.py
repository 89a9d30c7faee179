"""The process that does one job: bounded in memory, ended when its worker ends or somebody cancels."""

import logging
import multiprocessing
import os
import resource
import sys
from threading import Thread
from time import sleep

import django
from django.apps import apps

from brunt_web.interface.bounded import is_a_job
from brunt_web.interface.preload import import_everything

FAULTY, NO_DATABASE, UNBOUND = 3, 4, 0

if not apps.ready:
    django.setup()
# Each job's process is forked from this one: what its view needs is there already.
import_everything()


def main(pk: str, memory_mb: int) -> None:
    """Do the job. Memory beyond the bound ends in one sentence, not in a machine that swaps."""
    Thread(target=_die_with_parent, daemon=True).start()
    is_a_job()
    if memory_mb != UNBOUND:
        bound = memory_mb * 1_000_000
        resource.setrlimit(resource.RLIMIT_DATA, (bound, bound))
    from django.db import OperationalError, connection

    from brunt_web.jobs.answering import answer_job
    from brunt_web.jobs.models import Job

    try:
        job = Job.objects.select_related("by", "workshop").get(pk=pk)
        answer_job(job)
        peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1000
        Job.objects.filter(pk=pk).update(peak_mb=peak)
    except OperationalError:
        sys.exit(NO_DATABASE)
    except Exception:
        logging.getLogger("django.request").exception("job %s", pk)
        sys.exit(FAULTY)
    finally:
        connection.close()


def _die_with_parent() -> None:
    parent = multiprocessing.parent_process()
    while parent is not None and parent.is_alive():
        sleep(0.5)
    os._exit(1)
