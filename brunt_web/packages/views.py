"""A campaign as one file to take away."""

import re
from urllib.parse import quote

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from brunt_web.campaigns.queries import campaign_of
from brunt_web.interface.typed import first_problem, kept
from brunt_web.jobs.handing import heavy
from brunt_web.packages.forms import PackageForm
from brunt_web.packages.incoming import read_package
from brunt_web.packages.outgoing import package_of
from brunt_web.packages.store import store
from brunt_web.people.actions.seats import open_to
from brunt_web.people.models import Workshop
from brunt_web.people.requests import SeatedRequest
from brunt_web.publishing.models import ReportLink
from brunt_web.publishing.reader_views import as_file, by_link

_AT_ONCE = 1_000_000


@require_GET
def download(request: SeatedRequest, pk: int) -> HttpResponse:
    """The data package of a campaign."""
    campaign = campaign_of(request.workshop, pk)
    content = package_of(request.workshop, [campaign], campaign.question)
    name = re.sub(r"[^\w-]+", "-", campaign.question.lower()).strip("-")[:60] or "campaign"
    answer = HttpResponse(content, content_type="application/zip")
    answer["Content-Disposition"] = f"attachment; filename*=UTF-8''{quote(name)}.zip"
    return answer


@require_http_methods(["GET", "POST"])
@heavy("Package brought in", file_bytes=_AT_ONCE)
def packages(request: SeatedRequest) -> HttpResponse:
    """Bring a package in: it becomes a workshop of its own, open to who brought it."""
    posted = request.method == "POST"
    form = PackageForm(request.POST, request.FILES) if posted else PackageForm()
    made = kept(form, _bring_in) if posted else None
    if made is None:
        context = {"form": form, "others": request.seat.also.order_by("name")}
        return render(request, "packages/packages.html", context, status=422 if form.errors else 200)  # fmt: skip
    open_to(request.user, made)
    messages.success(request, f"“{made}” is brought in. Sit down there to see it.")
    return redirect("packages")


def _bring_in(file: bytes, name: str) -> Workshop:
    return store(read_package(file), name)


@require_POST
@heavy("Package looked into", file_bytes=_AT_ONCE)
def look(request: SeatedRequest) -> HttpResponse:
    """What is in a package; nothing is stored."""
    form = PackageForm(request.POST, request.FILES)
    found = kept(form, lambda file, name: read_package(file))
    problem = first_problem(form)
    context = {"package": found, "problem": problem.sentence if problem else ""}
    return render(request, "packages/_found.html", context, status=200 if found else 422)


@by_link
def read(request: HttpRequest, link: ReportLink) -> HttpResponse:
    """The data package behind a report's link; people are numbered in it."""
    one = link.campaign
    content = package_of(one.workshop, [one], one.question, money=not link.no_money)
    return as_file(content, "application/zip", "package.zip")
