"""Start page, new campaign, the rack, Ask."""

from collections import defaultdict
from secrets import randbelow

from django.contrib import messages
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from brunt_core.errors import InputError
from brunt_core.planning.shapes import SHAPES
from brunt_web.campaigns import queries
from brunt_web.campaigns.actions import change_plan
from brunt_web.campaigns.actions.start_campaign import start_campaign
from brunt_web.campaigns.forms import AskForm, typed_from_campaign, typed_from_shape
from brunt_web.campaigns.guard import campaign_confounders
from brunt_web.campaigns.planning import evaluate
from brunt_web.interface.context import campaign_surroundings
from brunt_web.interface.scale import power_curve
from brunt_web.library.actions.standard_procedures import ensure_standard_procedures
from brunt_web.library.models import Lot, Material, Recipe


@require_GET
def start(request):
    """All campaigns as small racks."""
    campaigns = list(queries.campaigns_of(request.workshop)[:60])
    by_campaign = defaultdict(list)
    for specimen in queries.rack_specimens([c.pk for c in campaigns]):
        by_campaign[specimen.campaign_id].append(specimen)
    cards = [
        {
            "campaign": c,
            "mini": _mini(by_campaign[c.pk]),
            "count": len(by_campaign[c.pk]),
            "waiting": sum(s.state in queries.UNTESTED and not s.spare for s in by_campaign[c.pk]),
        }
        for c in campaigns
    ]
    return render(request, "campaigns/start.html", {"cards": cards})


def _mini(specimens) -> dict:
    """A rack too small for outlines: one stroke a specimen, a row a condition."""
    rows = list(dict.fromkeys(s.condition_id for s in specimens))
    columns = sorted({s.procedure_id for s in specimens})
    most = max((s.replicate for s in specimens), default=1)
    step, gap = 7, 12
    return {
        "marks": [
            (
                columns.index(s.procedure_id) * (most * step + gap) + s.replicate * step,
                rows.index(s.condition_id) * 20 + 2,
                s.state,
            )
            for s in specimens
        ],
        "width": max(len(columns) * (most * step + gap), 200),
        "height": max(len(rows), 1) * 20,
    }


@require_GET
def shapes(request):
    """The kinds of question there are."""
    return render(request, "campaigns/shapes.html", {"shapes": SHAPES.values()})


def new(request):
    """The Ask form for a new campaign, filled by the question's shape."""
    procedures = ensure_standard_procedures(request.workshop)
    shape = SHAPES.get(request.GET.get("shape", ""))
    if request.method != "POST" and shape is None:
        return redirect("shapes")
    form = AskForm(
        request.workshop,
        request.POST
        if request.method == "POST"
        else typed_from_shape(shape, procedures, randbelow(2**31 - 1)),
    )
    return _plan(request, form, None)


def edit(request, pk: int):
    """The Ask form for a plan of which nothing is printed or tested yet."""
    campaign = queries.campaign_of(request.workshop, pk)
    return _plan(
        request,
        AskForm(
            request.workshop,
            request.POST if request.method == "POST" else typed_from_campaign(campaign),
            campaign,
        ),
        campaign,
    )


def _plan(request, form: AskForm, campaign):
    if request.method == "POST" and form.is_valid():
        try:
            made = start_campaign(
                request.workshop, request.user, form.new_materials, form.draft, campaign
            )
            messages.success(
                request, f"{made.specimens.count()} specimens have their IDs and their order."
            )
            return redirect("rack", made.pk)
        except InputError as error:
            form.errors[error.field or "question"] = error.sentence
    return render(
        request,
        "campaigns/ask_form.html",
        {"form": form, "shape": form.shape, "editing": campaign, **_panel(form)},
        status=422 if request.method == "POST" else 200,
    )


@require_POST
def preview(request):
    """What the plan comes to, as it is typed."""
    return render(request, "campaigns/_panel.html", _panel(AskForm(request.workshop, request.POST)))


def _panel(form: AskForm) -> dict:
    try:
        new = [Material(name=n, family=f or "other") for n, f in form.new_materials]
        draft = form.draft(new)
        view = evaluate(draft, form.workshop)
        return {
            "view": view,
            "draft": draft,
            "n": draft.replicates,
            "curve": power_curve(view.prospect, draft.replicates, draft.wanted),
            "problem": "",
        }
    except InputError as error:
        return {"view": None, "problem": error.sentence}


@require_GET
def rack(request, pk: int):
    """The campaign's home."""
    campaign = queries.campaign_of(request.workshop, pk)
    procedures = queries.procedures_of(campaign)
    rows = queries.rack(campaign, procedures)
    counts = queries.progress(campaign)
    return render(
        request,
        "campaigns/rack.html",
        {
            "rows": rows,
            "procedures": procedures,
            "size": _size(len(rows), campaign.replicates),
            "next": queries.what_next(campaign, counts),
            **campaign_surroundings(campaign, "rack", counts),
        },
    )


def _size(rows: int, replicates: int) -> str:
    """How large the rack is drawn: large for a handful, folded for a crowd."""
    if rows > 12 or replicates > 8:
        return "folded"
    return "roomy" if rows <= 5 else ""


def _ask_page(request, campaign, error: InputError | None = None, status: int = 200):
    procedures = queries.procedures_of(campaign)
    orders = [
        (p, campaign.specimens.filter(procedure=p).select_related("condition")) for p in procedures
    ]
    draft = AskForm(request.workshop, typed_from_campaign(campaign), campaign).draft()
    view = evaluate(draft, request.workshop)
    accepted = {a.key: a for a in campaign.accepted.select_related("by")}
    return render(
        request,
        "campaigns/ask.html",
        {
            "procedures": procedures,
            "orders": orders,
            "conditions": campaign.conditions.select_related("material", "recipe", "lot"),
            "factors": campaign.factors.prefetch_related("levels"),
            "view": view,
            "n": campaign.replicates,
            "shape": SHAPES.get(campaign.shape),
            "curve": power_curve(view.prospect, campaign.replicates, campaign.wanted),
            "error": error,
            "confounders": [(c, accepted.get(c.key)) for c in campaign_confounders(campaign)],
            "recipes": Recipe.objects.filter(workshop=request.workshop, archived_at__isnull=True),
            "lots": Lot.objects.filter(
                workshop=request.workshop, archived_at__isnull=True
            ).select_related("material"),
            **campaign_surroundings(campaign, "ask", queries.progress(campaign)),
        },
        status=status,
    )


@require_GET
def ask(request, pk: int):
    """The plan: what n can tell, what it costs, what else differs, and the test order."""
    return _ask_page(request, queries.campaign_of(request.workshop, pk))


@require_POST
def change(request, pk: int):
    """A change to a plan that is made: replicates, a condition's recipe and lot, a confounder."""
    campaign = queries.campaign_of(request.workshop, pk)
    try:
        _change(request, campaign)
    except InputError as error:
        return _ask_page(request, campaign, error, 422)
    return redirect("ask", pk)


def _change(request, campaign) -> None:
    post = request.POST
    if post.get("more"):
        if not post["more"].strip().isdigit():
            raise InputError("Add between 1 and 50 replicates.", "more")
        made = change_plan.add_replicates(campaign, int(post["more"]))
        messages.success(request, f"{made} specimens are added to the end of the test order.")
    elif post.get("accept"):
        confounder = next(
            (c for c in campaign_confounders(campaign) if c.key == post["accept"]), None
        )
        if confounder:
            change_plan.accept_confounder(
                campaign, request.user, confounder.key, confounder.sentence, post.get("reason", "")
            )
    elif post.get("withdraw"):
        change_plan.withdraw_confounder(campaign, post["withdraw"])
    elif post.get("condition", "").isdigit():
        _set_making(request, campaign)


def _set_making(request, campaign) -> None:
    condition = campaign.conditions.filter(pk=request.POST["condition"]).first()
    if condition is None:
        raise InputError("That condition is not in this campaign.", "condition")
    recipe = Recipe.objects.filter(
        workshop=request.workshop, pk=request.POST.get("recipe") or 0
    ).first()
    lot = Lot.objects.filter(workshop=request.workshop, pk=request.POST.get("lot") or 0).first()
    change_plan.set_making(condition, recipe, lot)
    messages.success(request, f"{condition}: recipe and lot are noted.")
