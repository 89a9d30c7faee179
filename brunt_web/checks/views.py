"""Check standards: all of them, one with its control chart, its phases."""

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from brunt_web.checks.actions import check_standards as acts
from brunt_web.checks.chart import HIGH, LEFT, LOW, WIDE, chart_of, verdict_of
from brunt_web.checks.forms import CheckForm, PhaseForm
from brunt_web.checks.models import CheckStandard, Phase
from brunt_web.checks.queries import check_of, checks_of, likely, watched
from brunt_web.checks.spark import spark_of
from brunt_web.interface.typed import kept
from brunt_web.people.requests import SeatedRequest


@require_http_methods(["GET", "POST"])
def checks(request: SeatedRequest) -> HttpResponse:
    """All check standards with how each stands; a new one is made here."""
    shop, posted = request.workshop, request.method == "POST"
    form = CheckForm(shop, request.POST) if posted else CheckForm(shop, initial=request.GET.dict())

    def make(**told: Any) -> CheckStandard:
        return acts.make_check_standard(shop, request.user, **told)

    made = kept(form, make) if posted else None
    if made:
        messages.success(request, f"“{made}” is a check standard: every test of it is a point of its chart.")  # fmt: skip
        return redirect("check", made.pk)
    every = list(checks_of(shop))
    rows = []
    for one in (c for c in every if not c.archived_at):
        found = watched(one)
        rows.append((one, verdict_of(found), spark_of(found)))
    context = {
        "rows": rows,
        "put_away": [c for c in every if c.archived_at],
        "form": form,
        "likely": likely(shop),
    }
    return render(request, "checks/checks.html", context, status=422 if form.errors else 200)


@require_GET
def check_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """One check standard: its verdict, its chart, every day."""
    return _page(request, check_of(request.workshop, pk), None)


def _page(request: SeatedRequest, one: CheckStandard, form: PhaseForm | None) -> HttpResponse:
    found = watched(one)
    chart = chart_of(found)
    today = timezone.localdate()
    last = found.stretches[-1] if found.stretches else None
    shift = last.chart.shift if last and last.chart else None
    start = last.points[shift.start].day if last and shift else today
    strong, rest, wrong = verdict_of(found)
    context = {
        "check": one,
        "found": found,
        "chart": chart,
        "size": {"wide": WIDE, "high": HIGH, "low": LOW, "left": LEFT},
        "strong": strong,
        "rest": rest,
        "wrong": wrong,
        "unit": one.procedure.ranked_property.unit or "number",
        "form": form or PhaseForm(initial={"starts_on": start}),
        "phases": one.phases.select_related("by"),
    }
    return render(request, "checks/check.html", context, status=422 if form else 200)


@require_POST
def check_archive_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """Put a check standard away, or bring it back."""
    one = check_of(request.workshop, pk)
    acts.archive_check_standard(one, None if one.archived_at else timezone.now())
    messages.success(request, f"“{one}” is {'archived' if one.archived_at else 'back'}.")
    return redirect("checks")


@require_POST
def new_phase(request: SeatedRequest, pk: int) -> HttpResponse:
    """From a day on the level is another."""
    one = check_of(request.workshop, pk)
    form = PhaseForm(request.POST)

    def begin(**told: Any) -> Phase:
        return acts.begin_phase(one, request.user, **told)

    if not kept(form, begin):
        return _page(request, one, form)
    messages.success(request, "A new phase has started; its limits are calculated separately.")
    return redirect("check", pk)


@require_POST
def end_phase_view(request: SeatedRequest, pk: int, phase: int) -> HttpResponse:
    """Take a phase back."""
    found = check_of(request.workshop, pk).phases.filter(pk=phase).first()
    if found is None:
        raise Http404("There is no such phase.")
    acts.end_phase(found)
    messages.success(request, "The phase is undone: the days before and after are one again.")
    return redirect("check", pk)
