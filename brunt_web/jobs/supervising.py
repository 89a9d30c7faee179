"""The worker's side of a job: claims it, starts its process, sees to cancelling, tells outcome."""

import multiprocessing
from collections.abc import Callable
from datetime import timedelta
from time import monotonic, sleep

from django.conf import settings
from django.db import DatabaseError, close_old_connections, connection
from django.db.models import F, Q
from django.utils import timezone

from brunt_web.jobs.answering import close_job, drop_files
from brunt_web.jobs.child import FAULTY, main
from brunt_web.jobs.models import (
    CANCELLED,
    FAILED,
    LOST,
    MOST_ATTEMPTS,
    OPEN,
    RUNNING,
    WAITING,
    Job,
)
from brunt_web.jobs.tasks import defer

_SEEN, _LOOK, KEPT = 2.0, 5.0, timedelta(days=7)
_ANSWER_KEPT = timedelta(days=1)
_ENDED = "The job ended without a result; nothing was saved. Try again, and report it if it happens again."
_KILLED = "The job was stopped by the system three times; nothing was saved. It may need too much memory: split the file."
_Process = multiprocessing.process.BaseProcess
_context = multiprocessing.get_context("forkserver")
_context.set_forkserver_preload(["brunt_web.jobs.child"])


def warm_up() -> None:
    """Start the process from which those of the jobs are forked, so that the first job begins at once."""
    process = _context.Process(target=int)
    process.start()
    process.join()


def supervise(pk: str, stopping: Callable[[], bool]) -> None:
    """Do one job to its end, or leave it waiting where this worker is told to stop."""
    close_old_connections()
    try:
        if job := _claim(pk):
            _work(job, stopping)
    except Exception:
        Job.objects.filter(pk=pk, state=RUNNING).update(state=WAITING)
        raise
    finally:
        connection.close()


def _claim(pk: str) -> Job | None:
    """The job, if it waits or its worker is lost; two workers never hold the same."""
    now = timezone.now()
    free = Q(state=WAITING) | Q(state=RUNNING, seen_at__lt=now - LOST)
    mine = Job.objects.filter(free, pk=pk).update(
        state=RUNNING, begun_at=now, seen_at=now, attempts=F("attempts") + 1, done=0, total=0
    )
    job = Job.objects.filter(pk=pk).first() if mine else None
    if job and job.attempts > MOST_ATTEMPTS:
        close_job(job, FAILED, _KILLED)
        return None
    return job


def _work(job: Job, stopping: Callable[[], bool]) -> None:
    process = _context.Process(target=main, args=(str(job.pk), settings.JOB_MEMORY_MB), daemon=True)
    process.start()
    try:
        _watch(job, process, stopping)
    finally:
        if process.is_alive():
            _end(process)


def _watch(job: Job, process: _Process, stopping: Callable[[], bool]) -> None:
    seen = monotonic()
    while process.is_alive():
        process.join(0.2)
        if stopping():
            _end(process)
            Job.objects.filter(pk=job.pk, state=RUNNING).update(
                state=WAITING, attempts=F("attempts") - 1
            )
            return
        if monotonic() - seen > _SEEN or not process.is_alive():
            seen = monotonic()
            Job.objects.filter(pk=job.pk, state=RUNNING).update(seen_at=timezone.now())
        if Job.objects.filter(pk=job.pk, cancel=True, state=RUNNING).exists():
            _end(process)
            close_job(job, CANCELLED, "Nothing was saved.")
            return
    if not Job.objects.filter(pk=job.pk, state=RUNNING).exists():
        return
    if process.exitcode == FAULTY:
        close_job(job, FAILED, _ENDED)
    else:
        # Killed from outside: once more, as often as is sensible.
        Job.objects.filter(pk=job.pk, state=RUNNING).update(state=WAITING)
        defer(str(job.pk))


def _end(process: _Process) -> None:
    process.terminate()
    process.join(2)
    if process.is_alive():
        process.kill()
        process.join(2)


def look_after_all(waited: timedelta = LOST) -> None:
    """Jobs that nobody works on are put into the queue again; old ones and their answers are thrown away."""
    now = timezone.now()
    lost = Q(state=WAITING, created_at__lte=now - waited) | Q(state=RUNNING, seen_at__lt=now - LOST)
    for pk in Job.objects.filter(lost).values_list("pk", flat=True):
        defer(str(pk))
    Job.objects.filter(created_at__lt=now - _ANSWER_KEPT).exclude(answer=b"").update(answer=b"")
    for job in Job.objects.filter(created_at__lt=now - KEPT).exclude(state__in=OPEN):
        drop_files(job)
        job.delete()


def keep_looking() -> None:
    """Look after jobs every few seconds, until the process ends; a database that is away is waited for."""
    while True:
        sleep(_LOOK)
        try:
            look_after_all()
        except DatabaseError:
            pass
        finally:
            connection.close()
