"""A campaign as one file to take away."""

import re
from urllib.parse import quote

from django.http import HttpResponse
from django.views.decorators.http import require_GET

from brunt_web.campaigns.queries import campaign_of
from brunt_web.packages.outgoing import package_of
from brunt_web.people.requests import SeatedRequest


@require_GET
def download(request: SeatedRequest, pk: int) -> HttpResponse:
    """The data package of a campaign."""
    campaign = campaign_of(request.workshop, pk)
    content = package_of(request.workshop, [campaign], campaign.question)
    name = re.sub(r"[^\w-]+", "-", campaign.question.lower()).strip("-")[:60] or "campaign"
    answer = HttpResponse(content, content_type="application/zip")
    answer["Content-Disposition"] = f"attachment; filename*=UTF-8''{quote(name)}.zip"
    return answer
