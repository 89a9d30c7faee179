"""Bringing results in, with a preview, and taking everything out."""

import hashlib
import json
from collections.abc import Mapping

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.utils.http import urlencode
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from brunt_core.errors import InputError
from brunt_web.campaigns.models import Campaign
from brunt_web.campaigns.queries import campaign_of, procedures_of, progress
from brunt_web.exchange.actions.import_data import import_data as store_rows
from brunt_web.exchange.actions.take_back import undo_import
from brunt_web.exchange.export import export_csv
from brunt_web.exchange.forms import ImportDataForm
from brunt_web.exchange.models import DataImport
from brunt_web.exchange.paste import as_table, waiting_specimens
from brunt_web.exchange.preview import preview
from brunt_web.exchange.records import campaign_record
from brunt_web.exchange.rows import Asked, Preview
from brunt_web.exchange.spreadsheet import export_xlsx
from brunt_web.interface.context import campaign_surroundings
from brunt_web.jobs.handing import heavy
from brunt_web.people.requests import SeatedRequest

_EXAMPLE = """condition;procedure;load [kgf];width [mm];thickness [mm]
Fernhall PLA;flat;58,4;5,02;2,01"""
# Some 500 rows.
_FILE_AT_ONCE, _TEXT_AT_ONCE, _ROWS_AT_ONCE = 40_000, 40_000, 500
_XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


@require_GET
def import_data_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """Choose a file or paste its lines."""
    campaign = campaign_of(request.workshop, pk)
    return _page(request, campaign, ImportDataForm(campaign))


@require_POST
@heavy("What rows become", file_bytes=_FILE_AT_ONCE, text=_TEXT_AT_ONCE)
def import_data_preview(request: SeatedRequest, pk: int) -> HttpResponse:
    """What each row becomes; nothing is stored."""
    campaign = campaign_of(request.workshop, pk)
    form = ImportDataForm(campaign, request.POST, request.FILES)
    return _page(request, campaign, form, _looked(form, campaign))


@require_POST
@heavy("Rows imported", file_bytes=_FILE_AT_ONCE, text=_TEXT_AT_ONCE)
def import_data_store(request: SeatedRequest, pk: int) -> HttpResponse:
    """The rows imported as previewed; looked at again first where something changed since."""
    campaign = campaign_of(request.workshop, pk)
    form = ImportDataForm(campaign, request.POST, request.FILES)
    if not form.is_valid():
        return _page(request, campaign, form)
    asked, told = form.asked(), form.cleaned_data
    other = asked.mapping and told["mapped"] != _mapped(asked.mapping)
    if told["seen"] and (other or told["seen"] != _digest(asked)):
        messages.info(request, "Something was changed: check the preview again.")
        return _page(request, campaign, form, _looked(form, campaign))
    try:
        brought = store_rows(
            campaign, request.user, asked, timezone.now(), form.cleaned_data["name"]
        )
    except InputError as error:
        form.add_error("file", error.sentence)
        return _page(request, campaign, form, _looked(form, campaign))
    rows = "1 row is" if brought.count == 1 else f"{brought.count} rows are"
    messages.success(request, f"{rows} imported. The import page can undo them together.")
    return redirect("compare", campaign.pk)


def _many(request: HttpRequest, pk: int, brought: int) -> bool:
    return DataImport.objects.filter(pk=brought, campaign=pk, count__gt=_ROWS_AT_ONCE).exists()


@require_POST
@heavy("Import undone", when=_many)
def import_undo_view(request: SeatedRequest, pk: int, brought: int) -> HttpResponse:
    """An import undone as a whole."""
    campaign = campaign_of(request.workshop, pk)
    row = get_object_or_404(DataImport, pk=brought, campaign=campaign)
    try:
        done = undo_import(row, request.user, timezone.now())
    except InputError as error:
        messages.error(request, error.sentence)
        return redirect("import-data", pk)
    count = "1 test is" if done.tests == 1 else f"{done.tests} tests are"
    messages.success(request, f"The import is undone: {count} undone.")
    if done.kept:
        codes = ", ".join(done.kept[:8])
        messages.info(request, f"Corrected or tested again since, and unchanged: {codes}.")
    return redirect("import-data", pk)


@require_http_methods(["GET", "POST"])
@heavy("What pasted cells become", text=_TEXT_AT_ONCE)
def paste(request: SeatedRequest, pk: int, procedure: int) -> HttpResponse:
    """A block of cells for the specimens that wait; previewed as a file is."""
    campaign = campaign_of(request.workshop, pk)
    chosen = next((p for p in procedures_of(campaign) if p.pk == procedure), None)
    if chosen is None:
        raise Http404("This campaign has no such procedure.")
    turns = waiting_specimens(campaign, chosen)
    text, error = request.POST.get("text", ""), None
    if request.method == "POST":
        try:
            table = as_table(text, turns, chosen)
        except InputError as problem:
            error = problem
        else:
            form = ImportDataForm(campaign, QueryDict(urlencode({"text": table, "name": "pasted"})))
            return _page(request, campaign, form, _looked(form, campaign))
    context = {
        "procedure": chosen,
        "turns": turns,
        "text": text,
        "error": error,
        "example": "10.02\t4.01\t512 N\n10.05\t3.98\t498 N",
        **campaign_surroundings(campaign, "test", progress(campaign)),
    }
    return render(request, "exchange/paste.html", context, status=422 if error else 200)


def _looked(form: ImportDataForm, campaign: Campaign) -> Preview | None:
    """The preview; without one, the form has the sentence."""
    form.is_valid()
    if not form.cleaned_data.get("text"):
        return None
    try:
        return preview(campaign, form.asked())
    except InputError as error:
        if not form.errors:
            form.add_error("file", error.sentence)
        return None


def _digest(asked: Asked) -> str:
    """What a preview was made of, in short."""
    return _short((asked.text, asked.create_missing, sorted(asked.answers.items())))


def _mapped(parts: Mapping[int, str]) -> str:
    """What the columns were said to be, in short."""
    return _short(sorted(parts.items()))


def _short(said: object) -> str:
    return hashlib.sha256(repr(said).encode()).hexdigest()[:32]


def _page(
    request: SeatedRequest, campaign: Campaign, form: ImportDataForm, seen: Preview | None = None
) -> HttpResponse:
    told = form.cleaned_data if form.is_bound and hasattr(form, "cleaned_data") else {}
    context = {
        "form": form,
        "text": told.get("text") or form["text"].value() or "",
        "name": told.get("name", ""),
        "seen": seen,
        "digest": _digest(form.asked()) if seen else "",
        "mapped": _mapped({c.index: c.part for c in seen.columns}) if seen else "",
        "example": _EXAMPLE,
        "procedures": procedures_of(campaign),
        "before": DataImport.objects.filter(campaign=campaign).select_related("by")[:12],
        **campaign_surroundings(campaign, "test", progress(campaign)),
    }
    status = 422 if form.errors else 200
    return render(request, "exchange/import_data.html", context, status=status)


@require_GET
def export(request: SeatedRequest, pk: int) -> HttpResponse:
    """The campaign as CSV; with ``?bom=1`` marked as UTF-8 for spreadsheets that ask for it."""
    campaign = campaign_of(request.workshop, pk)
    mark = "\ufeff" if request.GET.get("bom") == "1" else ""
    return _file(campaign, mark + export_csv(campaign), "text/csv; charset=utf-8", "csv")


@require_GET
def export_sheet(request: SeatedRequest, pk: int) -> HttpResponse:
    """The campaign as a spreadsheet with typed cells."""
    campaign = campaign_of(request.workshop, pk)
    return _file(campaign, export_xlsx(campaign), _XLSX, "xlsx")


@require_GET
def export_json(request: SeatedRequest, pk: int) -> HttpResponse:
    """The campaign as one JSON document: every test with what was typed and its values in SI."""
    campaign = campaign_of(request.workshop, pk)
    text = json.dumps(campaign_record(campaign), ensure_ascii=False, indent=1, allow_nan=False)
    return _file(campaign, text, "application/json", "json")


def _file(campaign: Campaign, content: str | bytes, kind: str, ending: str) -> HttpResponse:
    answer = HttpResponse(content, content_type=kind)
    name = f"brunt-{slugify(campaign.question)[:60] or campaign.pk}.{ending}"
    answer["Content-Disposition"] = f'attachment; filename="{name}"'
    return answer
