"""Start page, the rack, the bench line."""

from django.conf import settings
from django.contrib import messages
from django.core.paginator import Paginator
from django.http import HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from brunt_web.campaigns.actions.archive import archive_campaign, restore_campaign
from brunt_web.campaigns.queries import (
    campaign_of,
    columns_of,
    conditions_made,
    progress,
)
from brunt_web.interface.context import campaign_surroundings
from brunt_web.interface.typed import whole
from brunt_web.people.backups import last_backup
from brunt_web.people.requests import SeatedRequest
from brunt_web.people.roles import OWNER, may
from brunt_web.rack import queries
from brunt_web.rack.due import due_of, touched
from brunt_web.rack.finding import PER_PAGE, FindForm, found
from brunt_web.rack.line import read_line
from brunt_web.rack.small import small_racks


@require_GET
def campaign_start_view(request: SeatedRequest) -> HttpResponse:
    """Campaigns as small racks, a page at a time; those that are looked for, or all."""
    form = FindForm(request.GET)
    asked = form.cleaned_data if form.is_valid() else {}
    page = Paginator(found(request.workshop, asked), PER_PAGE).get_page(request.GET.get("page"))
    campaigns = list(page.object_list)
    small = small_racks(c.pk for c in campaigns)
    last = touched(small)
    due = due_of(small, timezone.now())
    cards = [
        {"campaign": c, "touched": last.get(c.pk), "due": due.get(c.pk), "rack": small[c.pk]}
        for c in campaigns
    ]
    kept = request.GET.copy()
    kept.pop("page", None)
    backup, now = last_backup(), timezone.now()
    context = {
        "cards": cards,
        "form": form,
        "page": page,
        "kept": kept.urlencode(),
        "backup": backup,
        "backup_late": backup.late(now),
        "tells_backup": may(request.seat.rights, OWNER) and not settings.DEMO,
    }
    return render(request, "rack/start.html", context)


@require_POST
def campaign_archive_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """Put a campaign away, or bring it back."""
    campaign = campaign_of(request.workshop, pk)
    if campaign.archived_at:
        restore_campaign(campaign)
        messages.success(request, f"“{campaign}” is restored.")
        return redirect("rack", pk)
    archive_campaign(campaign, timezone.now())
    messages.success(request, f"“{campaign}” is archived. Find it under “archived”.")
    return redirect("start")


@require_GET
def rack_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """The campaign's home."""
    campaign = campaign_of(request.workshop, pk)
    columns = columns_of(campaign)
    procedures = [c.procedure for c in columns]
    opened = whole(request.GET.get("open"))
    rows = queries.rack(campaign, procedures, conditions_made(campaign), opened)
    counts = progress(campaign)
    shown = {t.geometry.key: t for row in rows for cell in row.cells for t in cell.turns}
    return render(
        request,
        "rack/rack.html",
        {
            "rows": rows,
            "heads": queries.column_heads(columns),
            "procedures": procedures,
            "sprites": [*procedures, *shown.values()],
            "size": _size(len(rows), campaign.replicates),
            "opened": opened,
            "next": queries.what_next(campaign, counts),
            **campaign_surroundings(campaign, "rack", counts),
        },
    )


def _size(rows: int, replicates: int) -> str:
    """How large the rack is drawn: large for a handful, folded for a crowd."""
    if rows > 12 or replicates > 8:
        return "folded"
    return "roomy" if rows <= 5 else ""


@require_GET
def line(request: SeatedRequest) -> JsonResponse:
    """The bench line: what was typed, understood."""
    return JsonResponse(
        read_line(request.workshop, request.GET.get("q", "")[:200], list(request.seat.also.all()))
    )
