"""Bringing results in, with a preview, and taking everything out."""

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from brunt_web.campaigns.models import Campaign
from brunt_web.campaigns.queries import campaign_of, procedures_of, progress
from brunt_web.exchange.actions.bring_in import bring_in as store_rows
from brunt_web.exchange.export import export_csv
from brunt_web.exchange.forms import BringInForm
from brunt_web.exchange.preview import Preview, preview
from brunt_web.interface.context import campaign_surroundings
from brunt_web.interface.typed import kept
from brunt_web.people.requests import SeatedRequest

_EXAMPLE = """condition;procedure;load [kgf];width [mm];thickness [mm]
Fernhall PLA;flat;58,4;5,02;2,01"""


@require_GET
def bring_in(request: SeatedRequest, pk: int) -> HttpResponse:
    """Choose a file or paste its lines."""
    return _page(request, campaign_of(request.workshop, pk), BringInForm())


@require_POST
def bring_in_preview(request: SeatedRequest, pk: int) -> HttpResponse:
    """What each row becomes; nothing is stored."""
    campaign = campaign_of(request.workshop, pk)
    form = BringInForm(request.POST, request.FILES)

    def look(text: str, create_missing: bool, **_: object) -> Preview:
        return preview(campaign, text, create_missing)

    return _page(request, campaign, form, kept(form, look))


@require_POST
def bring_in_store(request: SeatedRequest, pk: int) -> HttpResponse:
    """All rows stored as previewed, or none."""
    campaign = campaign_of(request.workshop, pk)
    form = BringInForm(request.POST, request.FILES)

    def store(text: str, create_missing: bool, **_: object) -> int:
        return store_rows(campaign, request.user, text, create_missing, timezone.now())

    count = kept(form, store)
    if count is None:
        return _page(request, campaign, form)
    messages.success(request, f"{count} rows are stored.")
    return redirect("compare", campaign.pk)


def _page(
    request: SeatedRequest, campaign: Campaign, form: BringInForm, seen: Preview | None = None
) -> HttpResponse:
    told = form.cleaned_data if form.is_bound and form.is_valid() else {}
    return render(
        request,
        "exchange/bring_in.html",
        {
            "form": form,
            "text": told.get("text") or form["text"].value() or "",
            "seen": seen,
            "example": _EXAMPLE,
            "procedures": procedures_of(campaign),
            **campaign_surroundings(campaign, "test", progress(campaign)),
        },
        status=422 if form.errors else 200,
    )


@require_GET
def export(request: SeatedRequest, pk: int) -> HttpResponse:
    """The campaign as CSV."""
    campaign = campaign_of(request.workshop, pk)
    answer = HttpResponse(export_csv(campaign), content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = (
        f'attachment; filename="brunt-{slugify(campaign.question)[:60] or campaign.pk}.csv"'
    )
    return answer
