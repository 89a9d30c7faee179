"""A job while it is worked on, its answer, and all of the last days."""

from datetime import timedelta
from uuid import UUID

from django.contrib import messages
from django.db import connection
from django.http import Http404, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from brunt_web.interface.tokens import with_own_token
from brunt_web.jobs.actions import cancel_job, told_once
from brunt_web.jobs.models import DONE, MOST_ATTEMPTS, RUNNING, STATES, WAITING, Job
from brunt_web.people.requests import SeatedRequest

_HEARD = timedelta(seconds=40)


def _job(request: SeatedRequest, pk: UUID) -> Job:
    found = Job.objects.filter(pk=pk, workshop=request.workshop).select_related("by").first()
    if found is None or found.by_id != request.user.pk:
        raise Http404("There is no such job of yours.")
    return found


@require_GET
def every(request: SeatedRequest) -> HttpResponse:
    """The workshop's jobs of the last days, newest first."""
    rows = Job.objects.filter(workshop=request.workshop).defer("answer", "post").select_related("by")  # fmt: skip
    return render(
        request, "jobs/every.html", {"jobs": rows[:200], "states": STATES, "worker": worker_heard()}
    )


@require_GET
def one(request: SeatedRequest, pk: UUID) -> HttpResponse:
    """How far it is; once it is done, its answer."""
    job = _job(request, pk)
    if job.state == DONE and (job.answer or "Location" in job.answer_headers):
        return _answer(request, job)
    context = {
        "job": job,
        "state": STATES[job.state],
        "worker": worker_heard(),
        "silent": job.silent(timezone.now()),
        "most": MOST_ATTEMPTS,
    }
    return render(request, "jobs/one.html", context, status=200 if not job.over else 422)


def _answer(request: SeatedRequest, job: Job) -> HttpResponse:
    """What the form's own view said, with this session's token in its forms; its messages once."""
    for level, message in told_once(job):
        messages.add_message(request, level, message)
    if where := job.answer_headers.get("Location"):
        return redirect(where)
    kind = job.answer_headers.get("Content-Type", "text/html")
    body = with_own_token(request, bytes(job.answer))
    return HttpResponse(body, status=job.status, content_type=kind)


@require_GET
def state_view(request: SeatedRequest, pk: UUID) -> JsonResponse:
    """How far it is, for a script."""
    job = _job(request, pk)
    told = {
        "state": job.state,
        "over": job.over,
        "done": job.done,
        "total": job.total,
        "unit": job.unit,
        "words": job.words,
        "worker": job.state == RUNNING or worker_heard(),
        "silent": job.silent(timezone.now()),
        "attempt": job.attempts,
        "ahead": Job.objects.filter(state=WAITING, created_at__lt=job.created_at).count(),
    }
    return JsonResponse(told)


@require_GET
def job_answer_view(request: SeatedRequest, pk: UUID) -> HttpResponse:
    """The answer itself, for a script that sent the form."""
    job = _job(request, pk)
    if job.state != DONE:
        return JsonResponse({"error": job.words or STATES[job.state]}, status=422)
    return _answer(request, job)


@require_POST
def cancel(request: SeatedRequest, pk: UUID) -> HttpResponse:
    """Stop it; what it had not finished is not stored."""
    job = _job(request, pk)
    cancel_job(job)
    return redirect("job", job.pk)


def worker_heard() -> bool:
    """Whether a worker has been heard of within the last 40 s."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT max(last_heartbeat) FROM procrastinate_workers")
        last = cursor.fetchone()[0]
    return last is not None and timezone.now() - last < _HEARD
