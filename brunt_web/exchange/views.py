"""Bringing results in, with a preview, and taking everything out."""

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_http_methods

from brunt_core.errors import InputError
from brunt_web.campaigns.queries import campaign_of, procedures_of, progress
from brunt_web.exchange.actions.bring_in import bring_in as store
from brunt_web.exchange.export import export_csv
from brunt_web.exchange.preview import preview
from brunt_web.interface.context import campaign_surroundings
from brunt_web.people.requests import SeatedRequest

MOST_BYTES = 1_000_000


@require_http_methods(["GET", "POST"])
def bring_in(request: SeatedRequest, pk: int) -> HttpResponse:
    """Choose a file, see what each row becomes, confirm."""
    campaign = campaign_of(request.workshop, pk)
    text, error, seen = "", None, None
    create = bool(request.POST.get("create_missing"))
    if request.method == "POST":
        try:
            text = _text(request)
            if request.POST.get("confirm"):
                count = store(campaign, request.user, text, create, timezone.now())
                messages.success(request, f"{count} rows are stored.")
                return redirect("compare", campaign.pk)
            seen = preview(campaign, text, create)
        except InputError as problem:
            error = problem
    return render(
        request,
        "exchange/bring_in.html",
        {
            "text": text,
            "error": error,
            "seen": seen,
            "create_missing": create,
            "procedures": procedures_of(campaign),
            **campaign_surroundings(campaign, "test", progress(campaign)),
        },
        status=422 if error else 200,
    )


def _text(request: SeatedRequest) -> str:
    """The file's text, or what was pasted. Raises :class:`InputError` for anything else."""
    file = request.FILES.get("file")
    if file is None:
        text = request.POST.get("text", "")
        if not text.strip():
            raise InputError("Choose a CSV file, or paste its lines.", "file")
        return text
    size = file.size or 0
    if size > MOST_BYTES:
        raise InputError(
            f"The file has {size / 1e6:.1f} MB; a results file stays under 1 MB.", "file"
        )
    raw = file.read()
    if b"\0" in raw:
        raise InputError(f"{file.name} is not a text file. Save the table as CSV first.", "file")
    try:
        return raw.decode("utf-8-sig")
    except UnicodeDecodeError:
        return raw.decode("cp1252", errors="replace")


@require_GET
def export(request: SeatedRequest, pk: int) -> HttpResponse:
    """The campaign as CSV."""
    campaign = campaign_of(request.workshop, pk)
    answer = HttpResponse(export_csv(campaign), content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = (
        f'attachment; filename="brunt-{slugify(campaign.question)[:60] or campaign.pk}.csv"'
    )
    return answer
