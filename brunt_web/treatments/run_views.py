"""Runs: one more, one as it stands, and what is pressed at it."""

from collections.abc import Callable
from typing import Any

from django.contrib import messages
from django.db.models import Q
from django.http import Http404, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from brunt_core.errors import InputError
from brunt_core.quantities.rendering import count_of
from brunt_core.quantities.rendering import render as spoken
from brunt_core.treatments.kinds import KINDS, kind_for
from brunt_core.treatments.suits import objections
from brunt_web.campaigns.models import Campaign, Condition
from brunt_web.campaigns.queries import campaign_of, progress
from brunt_web.interface.context import campaign_surroundings
from brunt_web.interface.typed import checked, kept
from brunt_web.people.requests import SeatedRequest
from brunt_web.treatments import queries, thermometer
from brunt_web.treatments.actions import logs, runs, taking_out
from brunt_web.treatments.facts import parts_of
from brunt_web.treatments.forms import (
    KindForm,
    LogForm,
    MomentForm,
    OutForm,
    ReadingForm,
    RunForm,
    RunNoteForm,
)
from brunt_web.treatments.models import FATES, RUNNING, Inside, Run
from brunt_web.treatments.run_view import view_of


@require_http_methods(["GET", "POST"])
def run_new_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """A run of a campaign: the kind and the step it carries out stand in the address."""
    campaign = campaign_of(request.workshop, pk)
    asked = request.POST if request.method == "POST" else request.GET
    what, event = asked.get("step", "")[:120], asked.get("event", "")
    event = event if event in ("treated", "conditioned") else ""
    guess = kind_for(what, event or "treated") if what else None
    chooser = KindForm(
        asked if "kind" in asked else None, request.workshop, guess.key if guess else ""
    )
    kind, own = chooser.chosen(request.workshop)
    initial = {"what": what, **queries.typed_in(what, kind)}
    if request.method == "POST":
        form = RunForm(request.POST, request.workshop, campaign, kind, own=own)
        made = kept(
            form,
            lambda **_: runs.plan_run(request.workshop, campaign, request.user, form.draft(event)),
        )
        if made:
            return redirect("run", made.number)
    else:
        form = RunForm(None, request.workshop, campaign, kind, initial, own)
    able = queries.able_to_go_in(campaign, what, event or kind.event)
    ticked = set(asked.getlist("specimens")) if request.method == "POST" else None
    specimens = [s for s in able if ticked is None or s.code in ticked]
    return render(
        request,
        "treatments/new_run.html",
        {
            "form": form,
            "chooser": chooser,
            "kind": kind,
            "step": what,
            "event": event,
            "able": [(s, ticked is None or s.code in ticked) for s in able],
            "sprites": able,
            "objections": _objections(kind, form, specimens),
            **campaign_surroundings(campaign, "treat", progress(campaign)),
        },
        status=422 if form.errors else 200,
    )


def _objections(kind: Any, form: RunForm, specimens: list) -> list:
    """What speaks against it, as far as the parameters can be read."""
    texts = {p.key: str(form[f"p-{p.key}"].value() or "") for p in kind.parameters}
    try:
        return objections(kind, kind.read(texts), parts_of(specimens))
    except InputError:
        return []


@require_POST
def dry(request: SeatedRequest) -> HttpResponse:
    """A lot is put in to dry."""
    form = RunForm(request.POST, request.workshop, None, KINDS["dry-stock"])
    made = kept(
        form, lambda **_: runs.plan_run(request.workshop, None, request.user, form.draft(""))
    )
    if made is None:
        found = next(iter(form.errors.values()))
        messages.error(request, str(found[0]))
        return redirect("treatments")
    return redirect("run", made.number)


def run_of(request: SeatedRequest, number: int) -> Run:
    """A run of the workshop by its number, or 404."""
    found = (
        Run.objects.filter(workshop=request.workshop, number=number)
        .select_related("campaign", "vessel", "own", "lot__material")
        .first()
    )
    if found is None:
        raise Http404("There is no such run in this workshop.")
    return found


@require_GET
def run_view(request: SeatedRequest, number: int) -> HttpResponse:
    """A run as it stands."""
    return _page(request, run_of(request, number))


def _page(
    request: SeatedRequest, found: Run, error: InputError | None = None, where: str = ""
) -> HttpResponse:
    now = timezone.now()
    view = view_of(found, now)
    others = Run.objects.filter(workshop=request.workshop, state=RUNNING).exclude(pk=found.pk)
    context: dict[str, Any] = {
        "view": view,
        "run": found,
        "error": error,
        "where": where,
        "typed": request.POST if error else {},
        "fates": FATES.items(),
        "controls": _controls(found.campaign),
        "others": others.order_by("started_at")[:8],
        "parameters": [
            (p.label, found.texts.get(p.key) or p.default)
            for p in found.kind.parameters
            if found.texts.get(p.key) or p.default
        ],
        "price": spoken(view.energy / 3.6e6, "number", "") if view.energy else "",
        "now": now,
        "sprites": [],
    }
    if found.campaign:
        context |= campaign_surroundings(found.campaign, "treat", progress(found.campaign))
    return render(request, "treatments/run.html", context, status=422 if error else 200)


def _controls(campaign: Campaign | None) -> list[Condition]:
    """Conditions that owe no treatment: what may go back as a control."""
    if campaign is None:
        return []
    found = campaign.conditions.filter(
        Q(requirements__treatments__isnull=True) | Q(requirements__treatments=[])
    )
    plain = list(found)
    return plain or [c for c in campaign.conditions.all() if not c.requirements.to_do]


def _pressed(
    request: SeatedRequest, number: int, act: Callable[[Run], str], where: str
) -> HttpResponse:
    """Something was pressed at a run: done and said, or refused beside it."""
    found = run_of(request, number)
    try:
        said = act(found)
    except InputError as error:
        return _page(request, run_of(request, number), error, where)
    if said:
        messages.success(request, said)
    return redirect("run", number)


@require_POST
def on(request: SeatedRequest, number: int) -> HttpResponse:
    """The step in hand is over; the next begins."""

    def act(found: Run) -> str:
        told = checked(MomentForm(request.POST))
        begun = runs.go_on(found, request.user, told["at"], told["seen"])
        return "" if begun else f"Run {number} is done; it stands in the history of what was in it."

    return _pressed(request, number, act, "on")


@require_POST
def run_back_view(request: SeatedRequest, number: int) -> HttpResponse:
    """The last press was undone."""

    def act(found: Run) -> str:
        runs.step_back(found, request.user, timezone.now())
        return "Undone."

    return _pressed(request, number, act, "back")


@require_POST
def run_read_view(request: SeatedRequest, number: int) -> HttpResponse:
    """A reading for the log, or the door."""

    def act(found: Run) -> str:
        told = checked(ReadingForm(request.POST))
        logs.add_reading(found, request.user, told["at"], told["what"], told["text"])
        return ""

    return _pressed(request, number, act, "read")


@require_POST
def log(request: SeatedRequest, number: int) -> HttpResponse:
    """A whole log."""

    def act(found: Run) -> str:
        form = LogForm(request.POST, request.FILES)
        count, remarks = logs.bring_log(found, request.user, checked(form)["text"])
        return " ".join([f"{count_of(count, 'reading')} imported.", *remarks])

    return _pressed(request, number, act, "log")


@require_POST
def log_off(request: SeatedRequest, number: int, pk: int) -> HttpResponse:
    """A reading is taken off."""

    def act(found: Run) -> str:
        logs.forget_reading(found, pk)
        return "The reading is taken off."

    return _pressed(request, number, act, "log")


@require_POST
def live(request: SeatedRequest, number: int) -> JsonResponse:
    """What the thermometer reads just now, a minute after the last at the soonest."""
    found, now = run_of(request, number), timezone.now()
    heat = found.heat
    live = found.vessel is not None and found.vessel.thermometer == "simulated"
    if not live or found.state != RUNNING or heat is None or found.started_at is None:
        return JsonResponse({"fresh": False})
    last = found.log.filter(source="thermometer").order_by("-at").first()
    if last and (now - last.at).total_seconds() < 60:
        return JsonResponse({"fresh": False})
    heated = found.steps.filter(heat__isnull=False, started_at__isnull=False).first()
    begun = heated.started_at if heated and heated.started_at else now
    seconds = thermometer.seconds_between(begun, now)
    values = {"oven": thermometer.oven_at(seconds, heat)}
    if found.kind.packed:
        values["core"] = thermometer.core_at(seconds, heat)
    for what, kelvin in values.items():
        logs.add_reading(found, None, now, what, f"{kelvin - 273.15:.1f} °C", "thermometer")
    return JsonResponse({"fresh": True})


@require_POST
def run_out_view(request: SeatedRequest, number: int) -> HttpResponse:
    """One specimen is taken out, with what becomes of it."""

    def act(found: Run) -> str:
        told = checked(OutForm(request.POST, found.campaign))
        row = _inside(found, told["specimen"])
        taking_out.take_out_of_run(
            row, request.user, told["at"], told["fate"], told["reason"], told["control"]
        )
        return f"{row.specimen.code} is out: {FATES[told['fate']]}."

    return _pressed(request, number, act, "out")


@require_POST
def back_in(request: SeatedRequest, number: int) -> HttpResponse:
    """It lies in the run again."""

    def act(found: Run) -> str:
        row = _inside(found, request.POST.get("specimen", ""))
        taking_out.undo_taking_out(row, request.user, timezone.now())
        return f"{row.specimen.code} is in again."

    return _pressed(request, number, act, "out")


def _inside(found: Run, typed: str) -> Inside:
    """A row of the run by its number in the drawing, or the specimen's ID."""
    said = typed.strip().upper()
    rows = list(found.inside.select_related("specimen"))
    for row in rows:
        if said in (str(row.place), row.specimen.code):
            return row
    raise InputError(f"{typed or 'Nothing'} is neither a number nor an ID in this run.", "specimen")


@require_POST
def stop_view(request: SeatedRequest, number: int) -> HttpResponse:
    """It is broken off."""

    def act(found: Run) -> str:
        runs.abort_run(
            found, request.user, timezone.now(), checked(RunNoteForm(request.POST))["note"]
        )
        return "Broken off; what was in it is free again."

    return _pressed(request, number, act, "stop")
