"""What the queue carries: the number of a job. The queue is in PostgreSQL."""

from django.db import transaction
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

QUEUE = "heavy"


@app.task(name="do", queue=QUEUE, pass_context=True)
def do(context: object, job: str) -> None:
    """Do one job; see :mod:`brunt_web.jobs.supervising`."""
    from brunt_web.jobs.supervising import supervise

    supervise(job, getattr(context, "should_abort", lambda: False))


@app.periodic(cron="* * * * *")
@app.task(name="look_after", queue=QUEUE, queueing_lock="look_after")
def look_after(timestamp: int) -> None:
    """Take up again what a killed worker left, and throw away what is old."""
    from brunt_web.jobs.supervising import look_after_all

    look_after_all()


def defer(job: str) -> None:
    """Put a job into the queue; within the transaction that stores it, so that neither is there alone."""
    try:
        with transaction.atomic():
            app.configure_task("do", queue=QUEUE, queueing_lock=job).defer(job=job)
    except AlreadyEnqueued:
        return
