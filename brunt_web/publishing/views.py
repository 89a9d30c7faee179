"""The report as its workshop sees it: read, its words, its links."""

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from brunt_web.campaigns.models import Campaign
from brunt_web.campaigns.queries import campaign_of, progress
from brunt_web.interface.context import campaign_surroundings
from brunt_web.interface.typed import kept
from brunt_web.people.nameless import Nameless
from brunt_web.people.requests import SeatedRequest
from brunt_web.publishing.actions import reports as acts
from brunt_web.publishing.forms import LinkForm, WordsForm
from brunt_web.publishing.models import ReportLink
from brunt_web.publishing.prose import PublishedText, prose_fingerprint, prose_of
from brunt_web.publishing.report import told_of
from brunt_web.publishing.shown import report_context
from brunt_web.testing.models import Photo


@require_GET
def report(request: SeatedRequest, pk: int) -> HttpResponse:
    """The report, whole or short, with what its authors may add and the links it is read by."""
    return _page(request, campaign_of(request.workshop, pk))


def _page(
    request: SeatedRequest,
    campaign: Campaign,
    words: WordsForm | None = None,
    link: LinkForm | None = None,
    status: int = 200,
) -> HttpResponse:
    own = acts.report_of(campaign)
    told = told_of(campaign, own, money=True)
    typed = {"summary": own.summary, "authors": own.authors, "version": own.version, "photos": [p.pk for p in told.photos]}  # fmt: skip
    today = timezone.localdate()
    context: dict[str, Any] = {
        "words_form": words or WordsForm(campaign, initial=typed),
        "link_form": link or LinkForm(initial={"no_money": True}),
        "candidates": Photo.objects.filter(specimen__campaign=campaign).select_related("specimen"),
        "links": [
            (one, request.build_absolute_uri(reverse("read", args=[one.token])), one.closed_on(today))
            for one in campaign.report_links.select_related("made_by", "revoked_by")
        ],
        "own": True,
        **report_context(told, request.GET, _files(campaign), lambda p: reverse("photo-file", args=[p.pk])),
        **campaign_surroundings(campaign, "compare", progress(campaign)),
    }  # fmt: skip
    return render(request, "publishing/report.html", context, status=status)


def _files(campaign: Campaign) -> list[tuple[str, str]]:
    return [
        ("CSV", reverse("export", args=[campaign.pk])),
        ("Spreadsheet", reverse("export-xlsx", args=[campaign.pk])),
        ("JSON", reverse("export-json", args=[campaign.pk])),
        ("Data package", reverse("package", args=[campaign.pk])),
    ]


@require_POST
def words_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """Keep what the authors say."""
    campaign = campaign_of(request.workshop, pk)
    form = WordsForm(campaign, request.POST)
    if not form.is_valid():
        return _page(request, campaign, words=form, status=422)
    data = form.cleaned_data
    try:
        acts.keep_words(
            campaign, request.user, timezone.now(), data["summary"], data["authors"],
            [p.pk for p in data["photos"]], version=data["version"],
        )  # fmt: skip
    except acts.ReportOvertaken as error:
        messages.error(request, error.sentence)
        again = {**data, "photos": [p.pk for p in data["photos"]], "version": acts.report_of(campaign).version}  # fmt: skip
        return _page(request, campaign, words=WordsForm(campaign, initial=again), status=409)
    messages.success(request, "Saved. It is shown in the report and for every link to it.")
    return redirect("report", pk)


@require_POST
def new_link(request: SeatedRequest, pk: int) -> HttpResponse:
    """A link for readers without an account."""
    campaign = campaign_of(request.workshop, pk)
    form = LinkForm(request.POST)
    if form.is_valid():
        said = prose_of(campaign, not form.cleaned_data["no_money"], Nameless.of_all())
        mark = prose_fingerprint(said)
        if said and form.cleaned_data["seen_words"] != mark:
            return _words_first(request, campaign, form, said, mark)

    def make(seen_words: str, **data: Any) -> ReportLink:
        return acts.make_link(campaign, request.user, timezone.now(), **data)

    if not kept(form, make):
        return _page(request, campaign, link=form, status=422)
    messages.success(request, "Link created: anyone with it can read this report.")
    return redirect(reverse("report", args=[pk]) + "#links")


def _words_first(
    request: SeatedRequest, campaign: Campaign, form: LinkForm, said: list[PublishedText], mark: str
) -> HttpResponse:
    """What was written by hand, as it would go out; the link is made once it was seen."""
    context = {
        "campaign": campaign,
        "said": said,
        "mark": mark,
        "again": bool(form.cleaned_data["seen_words"]),
        "form": form,
    }
    return render(request, "publishing/before_link.html", context)


@require_POST
def report_revoke_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """End a link for good."""
    link = ReportLink.objects.filter(campaign__workshop=request.workshop, pk=pk).first()
    if link is None:
        raise Http404("There is no such link in this workshop.")
    acts.revoke_link(link, request.user, timezone.now())
    messages.success(request, "Link revoked: it no longer opens.")
    return redirect(reverse("report", args=[link.campaign_id]) + "#links")
