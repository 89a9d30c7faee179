"""Decide: the load cases of a campaign, one being drawn, its card, the choice."""

from typing import Any
from urllib.parse import urlencode

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from brunt_core.decisions.factors import CHOICES
from brunt_core.errors import InputError
from brunt_web.campaigns.models import Campaign
from brunt_web.campaigns.queries import campaign_of, conditions_made, procedures_of, progress
from brunt_web.decisions.actions import load_cases as acts
from brunt_web.decisions.card import WORDS, Candidate, Card, card_of
from brunt_web.decisions.drawing import bars_of, depths_of, load_case_part
from brunt_web.decisions.evidence import treatments_known
from brunt_web.decisions.forms import ChooseForm, LoadCaseForm
from brunt_web.decisions.models import DIRECTIONS, MODES, LoadCase
from brunt_web.decisions.wanted import AROUND, FIELDS, LOADS, NEEDS, wanted_of
from brunt_web.interface.context import campaign_surroundings
from brunt_web.interface.typed import checked
from brunt_web.people.requests import SeatedRequest

_SHAPES = {
    "heat": "state",
    "treated": "treatment",
    "damp": "state",
    "stiffness": "state",
    "age": "ageing",
    "creep": "long",
}
_ON_A_THREAD = {"width": ("Thread or insert", "d"), "thickness": ("Engaged length", "l")}
_HOLDERS = {"temperature": "55 °C", "held": "6 months", "aged": "a year"}


def _load_case(request: SeatedRequest, pk: int) -> LoadCase:
    found = (
        LoadCase.objects.filter(campaign__workshop=request.workshop, pk=pk)
        .select_related("campaign", "chosen", "changed_by")
        .first()
    )
    if found is None:
        raise Http404("There is no such load case in this workshop.")
    return found


@require_GET
def load_cases(request: SeatedRequest, pk: int) -> HttpResponse:
    """The load cases of a campaign with what each comes to; straight to a first one where there is none."""
    campaign = campaign_of(request.workshop, pk)
    every = list(campaign.load_cases.select_related("chosen"))
    if not every:
        return redirect("new-load-case", pk)
    put_away = [d for d in every if d.archived_at]
    rows = [(d, _card(d.campaign, d)) for d in every if not d.archived_at]
    return render(
        request,
        "decisions/load_cases.html",
        {"rows": rows, "put_away": put_away, **_stage_bar(campaign)},
    )


def _stage_bar(campaign: Campaign) -> dict[str, Any]:
    return campaign_surroundings(campaign, "decide", progress(campaign))


def _card(campaign: Campaign, load_case: LoadCase) -> Card:
    wanted = wanted_of(load_case.mode, load_case.direction, load_case.typed, load_case.sure)
    return card_of(
        campaign, procedures_of(campaign), conditions_made(campaign), wanted, load_case.chosen_id
    )


def load_case_new_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """A load case being drawn for the first time."""
    campaign = campaign_of(request.workshop, pk)
    if request.method != "POST":
        start = {"mode": "cantilever", "direction": "along"}
        return _page(request, campaign, LoadCaseForm(start, named=False), None)
    form = LoadCaseForm(request.POST)
    if not form.is_valid():
        return _page(request, campaign, form, None, 422)
    made = acts.add_load_case(campaign, request.user, timezone.now(), **_of(form))
    messages.success(request, f"“{made}” is kept.")
    return redirect("load-case", made.pk)


def _of(form: LoadCaseForm) -> dict[str, Any]:
    data = form.cleaned_data
    return {
        "name": data["name"], "mode": data["mode"], "direction": data["direction"],
        "typed": form.typed, "sure": form.sure,
    }  # fmt: skip


def load_case(request: SeatedRequest, pk: int) -> HttpResponse:
    """One load case: its drawing, its card; changed when it is kept again."""
    found = _load_case(request, pk)
    if request.method != "POST":
        typed = {"name": found.name, "mode": found.mode, "direction": found.direction, "version": found.version}  # fmt: skip
        return _page(request, found.campaign, LoadCaseForm({**found.typed, **found.sure, **typed}), found)  # fmt: skip
    form = LoadCaseForm(request.POST)
    if not form.is_valid():
        return _page(request, found.campaign, form, found, 422)
    try:
        version = form.cleaned_data["version"] or 0
        acts.change(found, request.user, timezone.now(), **_of(form), version=version)
    except acts.LoadCaseOvertaken as error:
        form.data = {**request.POST.dict(), "version": str(_load_case(request, pk).version)}
        messages.error(request, error.sentence)
        return _page(request, found.campaign, form, _load_case(request, pk), 409)
    messages.success(request, f"“{form.cleaned_data['name']}” is kept.")
    return redirect("load-case", pk)


def _page(
    request: SeatedRequest,
    campaign: Campaign,
    form: LoadCaseForm,
    found: LoadCase | None,
    status: int = 200,
) -> HttpResponse:
    form.is_valid()
    context = {**_context(campaign, form, found), "refused": status == 422}
    return render(
        request, "decisions/load_case.html", {**context, **_stage_bar(campaign)}, status=status
    )


def _context(campaign: Campaign, form: LoadCaseForm, found: LoadCase | None) -> dict[str, Any]:
    data = form.cleaned_data
    mode = str(data.get("mode") or "cantilever")
    direction = str(data.get("direction") or "along")
    wanted = wanted_of(mode, direction, form.typed, form.sure)
    card = card_of(
        campaign,
        procedures_of(campaign),
        conditions_made(campaign),
        wanted,
        found.chosen_id if found else None,
    )
    return {
        "campaign": campaign,
        "load_case": found,
        "form": form,
        "card": card,
        "part": load_case_part(wanted),
        "bars": bars_of(card),
        "depths": depths_of(card),
        "modes": MODES.items(),
        "directions": DIRECTIONS.items(),
        "mode": mode,
        "direction": direction,
        "fields": _fields(form, NEEDS[mode], mode, wanted.problems),
        "around": _fields(form, AROUND, mode, wanted.problems),
        "sure": [
            (k, q, options, form.sure.get(k, options[0][0])) for k, (q, options) in CHOICES.items()
        ],
        "wetness": (("", "dry, as in a room"), ("damp", "in damp air"), ("wet", "wet, soaked")),
        "treatments": list(
            dict.fromkeys([*treatments_known(campaign), *filter(None, [wanted.treated])])
        ),
        "grades": (
            ("", "any"),
            ("3", "3, fair, or better"),
            ("4", "4, good, or better"),
            ("4.5", "4.5 or better"),
        ),
        "problems": wanted.problems,
        "typed": form.typed,
        "plans": [
            (words, _plan(campaign, card, name, whose)) for name, words, whose in card.missing
        ],
    }


def _fields(
    form: LoadCaseForm, keys: tuple[str, ...], mode: str, problems: dict[str, str]
) -> list[dict[str, str]]:
    """The fields of a mode: key, label, symbol, unit, what is typed, what is wrong with it."""
    rows = []
    for key in keys:
        label, symbol, _, unit = FIELDS[key]
        if key == "load" and mode in LOADS:
            label, symbol, unit = ("Torque", "T", "N·m") if mode == "torsion" else ("Energy", "W", "J")  # fmt: skip
        if key == "span" and mode in ("tension", "torsion"):
            label = "Length"
        if key == "thickness":
            label, symbol = ("Diameter", "d") if mode == "shear" else ("Depth, or Ø", "h")
        if mode == "thread":
            label, symbol = _ON_A_THREAD.get(key, (label, symbol))
        rows.append({"key": key, "label": label, "symbol": symbol, "unit": unit,
                     "value": form.typed.get(key, ""), "problem": problems.get(key, ""),
                     "holder": _HOLDERS.get(key, "")})  # fmt: skip
    return rows


@require_POST
def draw_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """The drawing and the card for what stands in the form now; nothing is kept."""
    campaign = campaign_of(request.workshop, pk)
    form = LoadCaseForm(request.POST, named=False)
    form.is_valid()
    number = form.cleaned_data.get("load_case")
    found = _load_case(request, number) if number else None
    context = _context(campaign, form, found)
    other = form.cleaned_data.get("shown") != context["mode"]
    shown = {**context, "live": True, "other_mode": other}
    return render(request, "decisions/_drawn.html", shown)


def _plan(campaign: Campaign, card: Card, name: str, whose: list[Candidate]) -> str:
    """The address of Ask, filled with the test that is missing."""
    v = card.wanted.values
    procedures = {c.found.procedure.pk for c in whose if c.found.procedure}
    materials = {c.found.condition.material_id for c in whose if c.found.condition.material_id}
    hot = f"{v['temperature'] - 273.15:.0f} °C" if "temperature" in v else "55 °C"
    days = f"{v['aged'] / 86400:.0f} d" if "aged" in v else "30 d"
    factor = {
        "heat": ("condition", "State at test", f"room, 23 °C; {hot}"),
        "stiffness": ("condition", "State at test", f"room, 23 °C; {hot}"),
        "damp": (
            "condition",
            "State at test",
            f"room, 23 °C; {'soaked 7 d' if card.wanted.damp > 1 else 'humid, 7 d'}",
        ),
        "treated": ("treatment", "Treatment", f"none; {card.wanted.treated}"),
        "age": ("age", "Age", f"fresh; {days}"),
    }.get(name)
    shape = _SHAPES.get(name, "orientation")
    query: list[tuple[str, str]] = [
        ("shape", shape),
        ("question", f"What does it bear {WORDS[name]}? ({campaign.question})"[:200]),
        *(("materials", str(m)) for m in sorted(materials)),
    ]
    if name not in ("layers", "creep"):
        query += [("procedures", str(p)) for p in sorted(procedures)]
    if factor:
        query += [("f-0-kind", factor[0]), ("f-0-name", factor[1]), ("f-0-levels", factor[2])]
    return f"{reverse('new-campaign')}?{urlencode(query)}"


@require_POST
def choose_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """Choose a candidate, or undo the choice."""
    found = _load_case(request, pk)
    form = ChooseForm(request.POST, conditions=found.campaign.conditions.all())
    try:
        chosen = acts.choose(found, request.user, timezone.now(), **checked(form)).chosen
        messages.success(request, f"{chosen} is chosen." if chosen else "The choice was undone.")
    except InputError as error:
        messages.error(request, error.sentence)
    return redirect("load-case", pk)


@require_POST
def load_case_archive_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """Put a load case away, or bring it back."""
    found = _load_case(request, pk)
    back = found.archived_at is not None
    acts.archive(found, request.user, timezone.now(), back)
    messages.success(request, f"“{found}” is {'back' if back else 'archived'}.")
    return redirect("load-cases", found.campaign_id)
