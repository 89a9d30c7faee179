"""Start page, new campaign, the rack, Ask."""

from collections import defaultdict
from secrets import randbelow

from django.contrib import messages
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from brunt_web.campaigns import queries
from brunt_web.campaigns.actions.start_campaign import start_campaign
from brunt_web.campaigns.forms import CampaignForm
from brunt_web.interface.context import campaign_surroundings
from brunt_web.library.actions.standard_procedures import ensure_standard_procedures


@require_GET
def start(request):
    """All campaigns as small racks."""
    campaigns = list(queries.campaigns_of(request.workshop)[:60])
    by_campaign = defaultdict(list)
    for specimen in queries.rack_specimens([c.pk for c in campaigns]):
        by_campaign[specimen.campaign_id].append(specimen)
    cards = [{"campaign": c, "mini": _mini(by_campaign[c.pk]), "count": len(by_campaign[c.pk]),
              "waiting": sum(s.state == "planned" for s in by_campaign[c.pk])} for c in campaigns]
    return render(request, "campaigns/start.html", {"cards": cards})


def _mini(specimens) -> dict:
    """A rack too small for outlines: one stroke a specimen, a row a condition."""
    rows = list(dict.fromkeys(s.condition_id for s in specimens))
    columns = sorted({s.procedure_id for s in specimens})
    most = max((s.replicate for s in specimens), default=1)
    step, gap = 7, 12
    return {"marks": [(columns.index(s.procedure_id) * (most * step + gap) + s.replicate * step, rows.index(s.condition_id) * 20 + 2, s.state)
                      for s in specimens],
            "width": max(len(columns) * (most * step + gap), 200), "height": max(len(rows), 1) * 20}


def new(request):
    """The form for a new campaign."""
    ensure_standard_procedures(request.workshop)
    form = CampaignForm(request.workshop, request.POST or None)
    if request.method == "POST" and form.is_valid():
        campaign = start_campaign(request.workshop, request.user, form.cleaned_data["question"],
                                  list(form.cleaned_data["materials"]), form.new_rows, form.chosen_procedures,
                                  form.cleaned_data["replicates"], seed=randbelow(2**31 - 1))
        messages.success(request, f"{campaign.specimens.count()} specimens have their IDs and their order.")
        return redirect("rack", campaign.pk)
    return render(request, "campaigns/new.html", {"form": form}, status=422 if request.method == "POST" else 200)


@require_POST
def tally(request):
    """What the plan comes to, as it is typed."""
    chosen = len(request.POST.getlist("materials")) + sum(
        1 for k, v in request.POST.items() if k.startswith("new-") and k.endswith("-name") and v.strip())
    replicates = request.POST.get("replicates", "")
    count = int(replicates) if replicates.isdigit() and len(replicates) < 4 else 0
    procedures = len(request.POST.getlist("procedures"))
    return render(request, "campaigns/_tally.html", {"conditions": chosen, "procedures": procedures, "replicates": count,
                                                     "specimens": chosen * procedures * count})


@require_GET
def rack(request, pk: int):
    """The campaign's home."""
    campaign = queries.campaign_of(request.workshop, pk)
    procedures = queries.procedures_of(campaign)
    rows = queries.rack(campaign, procedures)
    counts = queries.progress(campaign)
    return render(request, "campaigns/rack.html", {
        "rows": rows, "procedures": procedures, "size": _size(len(rows), campaign.replicates),
        "next": queries.next_up(campaign), **campaign_surroundings(campaign, "rack", counts)})


def _size(rows: int, replicates: int) -> str:
    """How large the rack is drawn: large for a handful, folded for a crowd."""
    if rows > 12 or replicates > 8:
        return "folded"
    return "roomy" if rows <= 5 else ""


@require_GET
def ask(request, pk: int):
    """The plan: question, factors, procedures, and the test order."""
    campaign = queries.campaign_of(request.workshop, pk)
    procedures = queries.procedures_of(campaign)
    orders = [(p, campaign.specimens.filter(procedure=p).select_related("condition", "test")) for p in procedures]
    return render(request, "campaigns/ask.html", {
        "procedures": procedures, "orders": orders, "conditions": campaign.conditions.select_related("material"),
        **campaign_surroundings(campaign, "ask", queries.progress(campaign))})
