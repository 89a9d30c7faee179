"""The schedule: drawn, planned, moved; what is due; the calendar."""

from datetime import datetime, timedelta
from typing import Any

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from brunt_core.errors import InputError
from brunt_core.quantities.rendering import count_of, time_words
from brunt_core.scheduling.savings import savings
from brunt_core.scheduling.solve import plan
from brunt_web.days.actions import plans
from brunt_web.days.calendar import calendar_of
from brunt_web.days.forms import HoursForm, KeyForm, MoveForm, OwnForm
from brunt_web.days.hours import hours_of, zone_of
from brunt_web.days.models import Feed, OwnJob
from brunt_web.days.planning import DayTable, placed_starts, scheduling_problem, what_breaks
from brunt_web.days.sheet import due_list, sheet_of
from brunt_web.interface.typed import checked
from brunt_web.people.models import Workshop
from brunt_web.people.queries import belongs
from brunt_web.people.requests import SeatedRequest


@require_GET
def day(request: SeatedRequest) -> HttpResponse:
    """One day, today unless the address says otherwise."""
    return _page(request)


def _page(request: SeatedRequest, status: int = 200, **forms: Any) -> HttpResponse:
    now = timezone.now()
    shop = request.workshop
    hours = hours_of(shop)
    zone = zone_of(hours)
    with timezone.override(zone):
        table = scheduling_problem(shop, now)
        date = _date(request.GET.get("date", ""), now.astimezone(zone))
        sheet = sheet_of(shop, table, date, now)
        sheet.broken = [said for _, said in what_breaks(table, placed_starts(table))]
        lanes = [(x.key, x.name) for x in table.lanes if x.kind != "clock"]
        context = {
            "sheet": sheet,
            "now": now,
            "before": (date - timedelta(days=1)).date(),
            "after": (date + timedelta(days=1)).date(),
            "hours_form": HoursForm(initial=_told(hours), auto_id="hours-%s"),
            "own_form": OwnForm(None, lanes),
            "own": OwnJob.objects.filter(workshop=shop, done_at__isnull=True),
            "feed": Feed.objects.filter(
                workshop=shop, user=request.user, revoked_at__isnull=True
            ).first(),
            "moved": plans.last_move(shop),
            "host": request.build_absolute_uri("/").rstrip("/"),
            **forms,
        }
        return render(request, "days/day.html", context, status=status)


def _date(text: str, today: datetime) -> datetime:
    """The day the address names, else today."""
    try:
        found = datetime.strptime(text, "%Y-%m-%d")
    except ValueError:
        return today
    if not 1970 <= found.year <= 2100:
        return today
    return today.replace(year=found.year, month=found.month, day=found.day)


def _told(hours: Any) -> dict[str, Any]:
    """The hours as they are typed."""
    week = {
        f"day-{i}": ", ".join(f"{a}-{b}" for a, b in hours.week.get(str(i), [])) for i in range(7)
    }
    return {"zone": hours.zone, "people": hours.people, **week}


@require_POST
def make(request: SeatedRequest) -> HttpResponse:
    """Place everything again."""
    try:
        found = plans.make_plan(request.workshop, timezone.now())
    except InputError as error:
        messages.error(request, error.sentence)
    else:
        late = f" {len(found.late)} late." if found.late else " Nothing is late."
        best = (
            ""
            if found.proven
            else " Best schedule found in the time limit; a better one may exist."
        )
        messages.success(request, f"{count_of(len(found.starts), 'job')} placed.{late}{best}")
    return redirect("day")


@require_POST
def schedule_move_view(request: SeatedRequest) -> JsonResponse:
    """A job is nailed to a start; answers with what that breaks."""
    try:
        told = checked(MoveForm(request.POST))
        said = plans.move(request.workshop, told["key"], told["start"], timezone.now())
    except InputError as error:
        return JsonResponse({"error": error.sentence}, status=422)
    return JsonResponse({"broken": said})


@require_POST
def schedule_undo_view(request: SeatedRequest) -> HttpResponse:
    """The last move was undone."""
    try:
        plans.take_back_move(request.workshop)
    except InputError as error:
        messages.error(request, error.sentence)
    return redirect("day")


@require_POST
def unpin_view(request: SeatedRequest) -> HttpResponse:
    """The nail is drawn."""
    try:
        plans.unpin(request.workshop, checked(KeyForm(request.POST))["key"])
    except InputError as error:
        messages.error(request, error.sentence)
    return redirect("day")


@require_GET
def saving(request: SeatedRequest) -> HttpResponse:
    """What would save most, tried out just now."""
    now = timezone.now()
    table = scheduling_problem(request.workshop, now)
    try:
        found = savings(table.problem, plan(table.problem, 3.0))
    except InputError as error:
        return render(request, "days/_savings.html", {"knot": error.sentence, "found": []})
    told = [
        (
            f"{'unpin “' + table.jobs[s.task].label + '”' if s.task else s.change}",
            time_words(s.late * 60.0, 2) if s.late else "",
            time_words(s.end * 60.0, 2) if s.end > 0 else "",
            s.task,
        )
        for s in found[:3]
    ]
    return render(request, "days/_savings.html", {"found": told})


@require_POST
def hours_view(request: SeatedRequest) -> HttpResponse:
    """Working hours."""
    form = HoursForm(request.POST, auto_id="hours-%s")
    if form.is_valid():
        try:
            plans.set_hours(
                request.workshop,
                form.cleaned_data["zone"],
                form.week(),
                int(form.cleaned_data["people"] or 1),
            )
        except InputError as error:
            form.add_error(error.field or None, error.sentence)
    if form.errors:
        return _page(request, 422, hours_form=form, opened="hours")
    messages.success(request, "The hours are saved; reschedule to use them.")
    return redirect("day")


@require_POST
def own(request: SeatedRequest) -> HttpResponse:
    """A job of one's own."""
    table = scheduling_problem(request.workshop, timezone.now())
    lanes = [(x.key, x.name) for x in table.lanes if x.kind != "clock"]
    form = OwnForm(request.POST, lanes)
    if form.is_valid():
        told = dict(form.cleaned_data)
        try:
            plans.add_own(request.workshop, minutes=told.pop("length") / 60, **told)
        except InputError as error:
            form.add_error(error.field or None, error.sentence)
    if form.errors:
        return _page(request, 422, own_form=form, opened="own")
    messages.success(request, "It is not scheduled yet: reschedule.")
    return redirect("day")


@require_POST
def own_done_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """It is done."""
    plans.own_done(request.workshop, pk, timezone.now())
    return redirect("day")


@require_POST
def feed_new(request: SeatedRequest) -> HttpResponse:
    """A calendar address of one's own."""
    plans.new_feed(request.workshop, request.user, timezone.now())
    messages.success(request, "The address was replaced; the earlier one no longer works.")
    return redirect("day")


@require_POST
def feed_off(request: SeatedRequest) -> HttpResponse:
    """The address is revoked."""
    plans.revoke_feeds(request.workshop, request.user, timezone.now())
    messages.success(request, "The address no longer works.")
    return redirect("day")


@require_GET
def calendar(request: SeatedRequest) -> HttpResponse:
    """The plan as a file."""
    return _ics(request.workshop, request.get_host())


@login_not_required
@require_GET
def feed(request: SeatedRequest, token: str) -> HttpResponse:
    """The plan at an address that only its owner knows."""
    found = (
        Feed.objects.filter(token=token, revoked_at__isnull=True)
        .select_related("workshop", "user")
        .first()
    )
    if found is None or not belongs(found.user, found.workshop):
        raise Http404("There is no calendar at this address.")
    return _ics(found.workshop, request.get_host())


def _ics(workshop: Workshop, host: str) -> HttpResponse:
    now = timezone.now()
    table = scheduling_problem(workshop, now)
    content = calendar_of(table, placed_starts(table), workshop.name, host, now)
    answer = HttpResponse(content, content_type="text/calendar; charset=utf-8")
    answer["Content-Disposition"] = 'inline; filename="brunt.ics"'
    return answer


@require_GET
def due_view(request: SeatedRequest) -> JsonResponse:
    """What is due, late and next within the hour, for the line on every page."""
    now = timezone.now()
    table: DayTable = scheduling_problem(request.workshop, now)
    found = [
        d
        for d in due_list(list(table.jobs.values()), placed_starts(table), table, now)
        if d.left < 3600
    ]
    return JsonResponse(
        {
            "late": sum(d.left < -60 for d in found),
            "within": len(found),
            "day": reverse("day"),
            "next": [
                {"label": d.label, "what": d.what, "words": d.words, "url": d.url}
                for d in found[:3]
            ],
        }
    )
