"""What people do with a job: cancel it, and hear once what it left to say."""

from django.db.models.functions import Now

from brunt_web.jobs.models import CANCELLED, RUNNING, WAITING, Job


def cancel_job(job: Job) -> None:
    """Cancel it: at once where it waits; where it is running, its worker ends it."""
    Job.objects.filter(pk=job.pk, state=WAITING).update(
        state=CANCELLED, words="Nothing was saved.", ended_at=Now()
    )
    Job.objects.filter(pk=job.pk, state=RUNNING).update(cancel=True)


def told_once(job: Job) -> list[tuple[int, str]]:
    """The messages that its view left for the next page; the second who asks gets none."""
    mine = Job.objects.filter(pk=job.pk, told=job.told).exclude(told=[])
    return [(level, said) for level, said in job.told] if mine.update(told=[]) else []
