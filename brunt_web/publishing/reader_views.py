"""The report as a reader without an account sees it: by a link, until it ends or is revoked."""

import json
from collections.abc import Callable
from functools import wraps
from typing import Any

from django.contrib.auth.decorators import login_not_required
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_GET

from brunt_web.exchange.export import export_csv
from brunt_web.exchange.records import campaign_record
from brunt_web.exchange.spreadsheet import export_xlsx
from brunt_web.interface.pictures import shown_file
from brunt_web.people.nameless import Nameless
from brunt_web.publishing.actions.reports import count_reading, photos_of, report_of
from brunt_web.publishing.models import ReportLink
from brunt_web.publishing.report import told_of
from brunt_web.publishing.shown import report_context
from brunt_web.testing.actions.photos import FOLDER

_XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
View = Callable[..., HttpResponseBase]


def by_link(view: View) -> View:
    """Opens a view by a link's token: unknown is not found, ended or revoked is gone, with a sentence."""

    @wraps(view)
    def inner(request: HttpRequest, token: str, **rest: Any) -> HttpResponseBase:
        link = ReportLink.objects.filter(token=token).select_related("campaign__workshop").first()
        if link is None:
            raise Http404("There is no report at this address.")
        closed = link.closed_on(timezone.localdate())
        if closed:
            answer: HttpResponseBase = render(request, "publishing/gone.html", {"closed": closed, "signed_in": False}, status=410)  # fmt: skip
        else:
            answer = view(request, link, **rest)
        answer["Cache-Control"] = "private, no-store"
        answer["Referrer-Policy"] = "no-referrer"
        answer["X-Robots-Tag"] = "noindex"
        return answer

    return login_not_required(require_GET(inner))


@by_link
def shared_read_view(request: HttpRequest, link: ReportLink) -> HttpResponse:
    """The report."""
    told = told_of(link.campaign, report_of(link.campaign), money=not link.no_money, named=False)
    count_reading(link, timezone.now())
    files = [
        ("CSV", reverse("read-results", args=[link.token, "csv"])),
        ("Spreadsheet", reverse("read-results", args=[link.token, "xlsx"])),
        ("JSON", reverse("read-results", args=[link.token, "json"])),
        ("Data package", reverse("read-package", args=[link.token])),
    ]
    context = report_context(told, request.GET, files, lambda p: reverse("read-photo", args=[link.token, p.pk]))  # fmt: skip
    page = render(request, "publishing/report.html", {**context, "own": False, "signed_in": False, "until": link.until})  # fmt: skip
    page.content = told.hidden.page(page.content.decode(), stays=told.words.authors)
    return page


@by_link
def results_view(request: HttpRequest, link: ReportLink, kind: str) -> HttpResponse:
    """The results as a file; nobody is named in it."""
    one, hidden = link.campaign, Nameless.of_all()
    if kind == "csv":
        return as_file(export_csv(one, hidden), "text/csv; charset=utf-8", "results.csv")
    if kind == "xlsx":
        return as_file(export_xlsx(one, hidden), _XLSX, "results.xlsx")
    if kind == "json":
        record = campaign_record(one, not link.no_money, hidden)
        text = json.dumps(record, ensure_ascii=False, indent=1, allow_nan=False)
        return as_file(text, "application/json", "results.json")
    raise Http404("There is no such file of this report.")


@by_link
def shared_photo_view(request: HttpRequest, link: ReportLink, pk: int) -> FileResponse:
    """A photo, if it was chosen for the report."""
    row = next((p for p in photos_of(report_of(link.campaign)) if p.pk == pk), None)
    return shown_file(FOLDER, row.file if row else "", "There is no such photo in this report.")


def as_file(content: str | bytes, kind: str, name: str) -> HttpResponse:
    answer = HttpResponse(content, content_type=kind)
    answer["Content-Disposition"] = f'attachment; filename="brunt-{name}"'
    return answer
