"""A campaign as one file to take away."""

import re
from tempfile import TemporaryFile
from typing import IO, Any

from django.contrib import messages
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from brunt_web.campaigns.models import Campaign
from brunt_web.campaigns.queries import campaign_of
from brunt_web.interface.typed import first_problem, kept
from brunt_web.jobs.handing import heavy
from brunt_web.packages.forms import PackageForm
from brunt_web.packages.gathering import Scope
from brunt_web.packages.incoming import read_package
from brunt_web.packages.made import keep_made, made_file
from brunt_web.packages.outgoing import weight, write_package
from brunt_web.packages.store import store
from brunt_web.people.actions.seats import open_to
from brunt_web.people.models import Workshop
from brunt_web.people.requests import SeatedRequest
from brunt_web.publishing.models import ReportLink
from brunt_web.publishing.reader_views import by_link

# Bytes of photos and curves up to which a package is made while one waits.
_OUT_AT_ONCE = 25_000_000


@require_http_methods(["GET", "POST"])
@heavy("Data package", when=lambda request, pk: True)
def download(request: SeatedRequest, pk: int) -> HttpResponseBase:
    """The data package of a campaign: at once where it is small, else made behind when it is asked for."""
    campaign = campaign_of(request.workshop, pk)
    if request.method == "GET":
        size = weight(campaign)
        if size > _OUT_AT_ONCE:
            context = {"campaign": campaign, "megabytes": max(round(size / 1e6), 1)}
            return render(request, "packages/large.html", context)
        return _attached(_written(campaign, Scope()), campaign)
    with _written(campaign, Scope()) as file:
        name = keep_made(request.workshop, file)
    return redirect("made-package", pk, name)


@require_GET
def made_view(request: SeatedRequest, pk: int, name: str) -> HttpResponseBase:
    """A package that was made behind, for a day."""
    campaign = campaign_of(request.workshop, pk)
    file = made_file(request.workshop, name)
    if file is None:
        raise Http404("This package was made more than a day ago and is gone; make it again.")
    return _attached(file, campaign)


def _written(campaign: Campaign, scope: Scope) -> IO[bytes]:
    """The package in a file of its own that vanishes when it is closed."""
    file = TemporaryFile()
    write_package(file, campaign.workshop, [campaign], campaign.question, scope)
    file.seek(0)
    return file


def _attached(file: IO[bytes], campaign: Campaign) -> FileResponse:
    name = re.sub(r"[^\w-]+", "-", campaign.question.lower()).strip("-")[:60] or "campaign"
    return FileResponse(
        file, as_attachment=True, filename=f"{name}.zip", content_type="application/zip"
    )


@require_http_methods(["GET", "POST"])
@heavy("Package imported", when=lambda request: bool(request.FILES))
def packages(request: SeatedRequest) -> HttpResponse:
    """Bring a package in: it becomes a workshop of its own, open to who brought it."""
    posted = request.method == "POST"
    form = PackageForm(request.POST, request.FILES) if posted else PackageForm()
    shop = kept(form, _import_data) if posted else None
    if shop is None:
        context = {"form": form, "others": request.seat.also.order_by("name")}
        return render(request, "packages/packages.html", context, status=422 if form.errors else 200)  # fmt: skip
    open_to(request.user, shop)
    messages.success(request, f"“{shop}” is imported. Switch to that workshop to see it.")
    return redirect("packages")


def _import_data(file: Any, name: str) -> Workshop:
    return store(read_package(file), name)


@require_POST
@heavy("Package checked", when=lambda request: bool(request.FILES))
def package_look_view(request: SeatedRequest) -> HttpResponse:
    """What is in a package; nothing is stored."""
    form = PackageForm(request.POST, request.FILES)
    found = kept(form, lambda file, name: read_package(file))
    problem = first_problem(form)
    context = {"package": found, "problem": problem.sentence if problem else ""}
    return render(request, "packages/_found.html", context, status=200 if found else 422)


@by_link
def package_read_view(request: HttpRequest, link: ReportLink) -> HttpResponseBase:
    """The data package behind a report's link: what may be told, people by number, photos that were chosen."""
    file = _written(link.campaign, Scope(money=not link.no_money, by_link=True))
    return FileResponse(
        file, as_attachment=True, filename="brunt-package.zip", content_type="application/zip"
    )
