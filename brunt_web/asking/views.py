"""Ask: the kinds of question, the plan being made, the plan that is made, changes to it."""

from collections.abc import Sequence
from secrets import randbelow
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from brunt_core.errors import InputError
from brunt_core.planning.shapes import SHAPES
from brunt_core.quantities.rendering import count_of
from brunt_web.asking.actions.start_campaign import made_already, start_campaign
from brunt_web.asking.dates import when
from brunt_web.asking.drawing import power_curves
from brunt_web.asking.filled import filled_over, typed_from_campaign, typed_from_shape
from brunt_web.asking.forms import AskForm
from brunt_web.asking.grid import draft_grid, note_made
from brunt_web.asking.guard import campaign_confounders
from brunt_web.asking.planning import evaluate
from brunt_web.asking.small_forms import AcceptForm, MakingForm, MoreForm
from brunt_web.asking.standing import plan_words, standing_plan
from brunt_web.campaigns.actions import added, change_plan
from brunt_web.campaigns.models import Campaign, Condition, Turn
from brunt_web.campaigns.queries import campaign_of, columns_of, conditions_made, progress
from brunt_web.campaigns.resolved import Recipes
from brunt_web.changes.reading import last_by
from brunt_web.interface.context import campaign_surroundings
from brunt_web.interface.edit_conflicts import fingerprint, refuse_overtaken
from brunt_web.interface.typed import checked, whole
from brunt_web.library.actions.standard_procedures import standard_procedures
from brunt_web.library.models import Lot, Material, Procedure, Recipe
from brunt_web.people.requests import SeatedRequest


@require_GET
def shapes(request: SeatedRequest) -> HttpResponse:
    """The kinds of question there are."""
    return render(request, "asking/shapes.html", {"shapes": SHAPES.values()})


def plan_new_view(request: SeatedRequest) -> HttpResponse:
    """The Ask form for a new campaign, filled by the question's shape."""
    procedures = standard_procedures(request.workshop)
    shape = SHAPES.get(request.GET.get("shape", ""))
    if request.method == "POST":
        return _plan(request, AskForm(request.workshop, request.POST), None)
    if copied := whole(request.GET.get("copy")):
        typed = typed_from_campaign(campaign_of(request.workshop, copied))
        typed["seed"] = str(randbelow(2**31 - 1))
        return _plan(request, AskForm(request.workshop, typed), None)
    if shape is None:
        return redirect("shapes")
    typed = typed_from_shape(shape, procedures, randbelow(2**31 - 1))
    filled_over(typed, request.GET)
    return _plan(request, AskForm(request.workshop, typed), None)


def edit(request: SeatedRequest, pk: int) -> HttpResponse:
    """The Ask form for a plan to whose specimens nothing has happened yet."""
    campaign = campaign_of(request.workshop, pk)
    typed = request.POST if request.method == "POST" else typed_from_campaign(campaign)
    return _plan(request, AskForm(request.workshop, typed, campaign), campaign)


def _plan(request: SeatedRequest, form: AskForm, campaign: Campaign | None) -> HttpResponse:
    if request.method == "POST" and form.is_valid():
        before = None if campaign else made_already(request.workshop, request.user, request.POST)
        if before:
            messages.info(request, "These specimens were created already; this is their campaign.")
            return redirect("rack", before.pk)
        try:
            made = start_campaign(
                request.workshop,
                request.user,
                form.new_materials,
                form.draft,
                instead_of=campaign,
                as_seen=lambda: _as_seen(request, campaign),
            )
            messages.success(
                request, f"{made.specimens.count()} specimens have their IDs and their order."
            )
            return redirect("rack", made.pk)
        except InputError as error:
            form.errors[error.field or "question"] = error.sentence
    seen = fingerprint(standing_plan(campaign)) if campaign else ""
    return render(
        request,
        "asking/ask_form.html",
        {"form": form, "shape": form.shape, "editing": campaign, "seen": seen, **_panel(form)},
        status=422 if request.method == "POST" else 200,
    )


def _as_seen(request: SeatedRequest, campaign: Campaign | None) -> None:
    """Refuse where somebody else has changed the plan since this form was opened."""
    if campaign is None:
        return
    mine = plan_words(request.workshop, request.POST)
    refuse_overtaken(
        request.POST.get("seen", ""),
        standing_plan(campaign),
        mine,
        lambda: last_by("campaigns_campaign", [campaign.pk]),
    )


@require_POST
def preview_view(request: SeatedRequest) -> HttpResponse:
    """What the plan comes to, as it is typed."""
    form = AskForm(request.workshop, request.POST)
    return render(
        request,
        "asking/_live.html",
        {"form": form, "shape": form.shape, "live": True, **_panel(form)},
    )


ORDER_SHOWN = 240


def _panel(form: AskForm) -> dict[str, Any]:
    try:
        new = [Material(name=n, family=f or "other") for n, f in form.new_materials]
        draft = form.draft(new)
        view = evaluate(draft, form.workshop)
        return {
            "view": view,
            "draft": draft,
            "n": draft.replicates,
            "grid": draft_grid(draft, view),
            "dates": when(draft, view, timezone.now()),
            "curve": power_curves(view.answers, draft.replicates, draft.wanted),
            "problem": "",
        }
    except InputError as error:
        return {"view": None, "problem": error.sentence}


def _ask_page(
    request: SeatedRequest, campaign: Campaign, error: InputError | None = None
) -> HttpResponse:
    columns = columns_of(campaign)
    form = AskForm(request.workshop, typed_from_campaign(campaign), campaign)
    conditions = conditions_made(campaign)
    recipes = Recipes.of(campaign)
    heads = [c.procedure for c in columns if c.after is None]
    every = request.GET.get("order") == "all"
    orders = [(c.procedure, *_order(campaign, c.procedure, every)) for c in columns]
    accepted = {a.key: a for a in campaign.accepted.select_related("by")}
    found = campaign_confounders(campaign, conditions)
    panel = _panel(form)
    if panel.get("grid"):
        note_made(panel["grid"], campaign)
    return render(
        request,
        "asking/ask.html",
        {
            "columns": columns,
            "heads": heads,
            "orders": orders,
            "conditions": [(c, _resolved_words(recipes, c, heads)) for c in conditions],
            "factors": campaign.factors.prefetch_related("levels"),
            "shape": SHAPES.get(campaign.shape),
            "error": error,
            "confounders": [(c, accepted.get(c.key)) for c in found],
            "recipes": Recipe.objects.filter(workshop=request.workshop, archived_at__isnull=True),
            "lots": Lot.objects.filter(
                workshop=request.workshop, archived_at__isnull=True
            ).select_related("material"),
            "added": added.added_later(campaign),
            **panel,
            "saved": True,
            **campaign_surroundings(campaign, "ask", progress(campaign)),
        },
        status=422 if error else 200,
    )


def _order(campaign: Campaign, procedure: Procedure, every: bool) -> tuple[list[Turn], int]:
    """The order of test, the first of many unless every one is asked for; and how many more there are."""
    turns = campaign.turns.filter(procedure=procedure)
    # Conditions by themselves: joined, the turns of every campaign there is may be gone through.
    shown = turns.select_related("specimen").prefetch_related("condition__material")
    count = turns.count()
    first = list(shown if every else shown[:ORDER_SHOWN])
    return first, count - len(first)


def _resolved_words(
    recipes: Recipes, condition: Condition, heads: Sequence[Procedure]
) -> list[str]:
    """How a condition departs from its base recipe, in words."""
    plans = [recipes.resolved(condition, p) for p in heads]
    said = [f"{label} {now}" for plan in plans for label, _, now in plan.changed]
    said += [plan.problem for plan in plans if plan.problem]
    return list(dict.fromkeys(said))


@require_GET
def ask(request: SeatedRequest, pk: int) -> HttpResponse:
    """The plan: power, what it costs, confounders, and the test order."""
    return _ask_page(request, campaign_of(request.workshop, pk))


@require_POST
def more(request: SeatedRequest, pk: int) -> HttpResponse:
    """Replicates of every condition."""
    campaign = campaign_of(request.workshop, pk)
    try:
        count = int(checked(MoreForm(request.POST))["more"])
        made = change_plan.add_replicates(campaign, count, request.user)
    except InputError as error:
        return _ask_page(request, campaign, error)
    messages.success(request, f"{count_of(made, 'specimen')} added to the end of the test order.")
    return redirect("ask", pk)


@require_POST
def more_of(request: SeatedRequest, pk: int, condition: int) -> HttpResponse:
    """Replicates of one condition only, each with a place by chance in the test order."""
    campaign = campaign_of(request.workshop, pk)
    chosen = get_object_or_404(campaign.conditions, pk=condition)
    try:
        count = int(checked(MoreForm(request.POST))["more"])
        heads = [c.procedure for c in columns_of(campaign) if c.after is None]
        made = change_plan.add_to_condition(chosen, heads, count, request.user)
    except InputError as error:
        return _ask_page(request, campaign, error)
    codes = ", ".join(s.code for s in made[:6]) + (" …" if len(made) > 6 else "")
    messages.success(request, f"{chosen} has {len(made)} more: {codes}. Print and test them.")
    return redirect("ask", pk)


@require_POST
def plan_take_off_view(request: SeatedRequest, pk: int, act: str) -> HttpResponse:
    """What one press added, taken off the plan again as far as nothing was done with it."""
    campaign = campaign_of(request.workshop, pk)
    try:
        codes = added.remove_added(campaign, act)
    except InputError as error:
        return _ask_page(request, campaign, error)
    shown = ", ".join(codes[:6]) + (" …" if len(codes) > 6 else "")
    messages.success(request, f"Removed from the plan: {shown}.")
    return redirect("ask", pk)


@require_POST
def making(request: SeatedRequest, pk: int, condition: int) -> HttpResponse:
    """With which recipe and from which lot a condition is printed."""
    campaign = campaign_of(request.workshop, pk)
    chosen = get_object_or_404(campaign.conditions, pk=condition)
    try:
        told = checked(MakingForm(request.POST, request.workshop))
        change_plan.set_making(chosen, told["recipe"], told["lot"])
    except InputError as error:
        return _ask_page(request, campaign, error)
    messages.success(request, f"{chosen}: recipe and lot saved.")
    return redirect("ask", pk)


@require_POST
def accept(request: SeatedRequest, pk: int) -> HttpResponse:
    """Accept a difference with a reason."""
    campaign = campaign_of(request.workshop, pk)
    try:
        told = checked(AcceptForm(request.POST))
        found = next((f for f in campaign_confounders(campaign) if f.key == told["key"]), None)
        if found:
            change_plan.accept_confounder(
                campaign, request.user, found.key, found.sentence, told["reason"]
            )
    except InputError as error:
        return _ask_page(request, campaign, error)
    return redirect("ask", pk)


@require_POST
def plan_withdraw_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """Take an acceptance back."""
    campaign = campaign_of(request.workshop, pk)
    try:
        change_plan.withdraw_confounder(campaign, checked(AcceptForm(request.POST))["key"])
    except InputError as error:
        return _ask_page(request, campaign, error)
    return redirect("ask", pk)
