"""A campaign as one file to take away."""

import re
from urllib.parse import quote

from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_GET

from brunt_web.campaigns.queries import campaign_of
from brunt_web.packages.outgoing import package_of
from brunt_web.people.requests import SeatedRequest
from brunt_web.publishing.models import ReportLink
from brunt_web.publishing.reader_views import as_file, by_link


@require_GET
def download(request: SeatedRequest, pk: int) -> HttpResponse:
    """The data package of a campaign."""
    campaign = campaign_of(request.workshop, pk)
    content = package_of(request.workshop, [campaign], campaign.question)
    name = re.sub(r"[^\w-]+", "-", campaign.question.lower()).strip("-")[:60] or "campaign"
    answer = HttpResponse(content, content_type="application/zip")
    answer["Content-Disposition"] = f"attachment; filename*=UTF-8''{quote(name)}.zip"
    return answer


@by_link
def read(request: HttpRequest, link: ReportLink) -> HttpResponse:
    """The data package behind a report's link; people are numbered in it."""
    one = link.campaign
    content = package_of(one.workshop, [one], one.question, money=not link.no_money)
    return as_file(content, "application/zip", "package.zip")
