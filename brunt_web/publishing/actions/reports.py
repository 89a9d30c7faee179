"""A report's words, and its links: kept, made, revoked, opened."""

from collections.abc import Iterable
from datetime import date, datetime

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import F
from django.utils.crypto import get_random_string

from brunt_core.errors import InputError
from brunt_web.campaigns.models import Campaign
from brunt_web.publishing.models import Report, ReportLink, ReportPhoto
from brunt_web.testing.models import Photo


class ReportOvertaken(InputError):
    """Somebody else changed it in the meantime."""


def report_of(campaign: Campaign) -> Report:
    """The words of a campaign's report; empty ones, not stored, where nobody wrote any."""
    return Report.objects.filter(campaign=campaign).first() or Report(campaign=campaign)


@transaction.atomic
def keep_words(
    campaign: Campaign, by: User, at: datetime, summary: str, authors: str,
    photos: Iterable[int], version: int,
) -> Report:  # fmt: skip
    """What the authors say, and which photos stand in it. Raises :class:`ReportOvertaken` for an older version."""
    found, _ = Report.objects.get_or_create(campaign=campaign)
    found = Report.objects.select_for_update().get(pk=found.pk)
    if found.version != version:
        who = found.changed_by.get_username() if found.changed_by else "Somebody"
        raise ReportOvertaken(f"{who} changed the report's text in the meantime. Yours is below, not saved yet; theirs is in the report.")  # fmt: skip
    found.summary, found.authors = summary.strip(), " ".join(authors.split())
    found.version += 1
    found.changed_by, found.changed_at = by, at
    found.save()
    wanted = set(Photo.objects.filter(specimen__campaign=campaign, pk__in=list(photos)).values_list("pk", flat=True))  # fmt: skip
    found.chosen.exclude(photo__in=wanted).delete()
    have = set(found.chosen.values_list("photo_id", flat=True))
    ReportPhoto.objects.bulk_create(ReportPhoto(report=found, photo_id=pk) for pk in sorted(wanted - have))  # fmt: skip
    return found


def photos_of(report: Report) -> list[Photo]:
    """The photos chosen for a report, in the order they were taken."""
    if report.pk is None:
        return []
    rows = report.chosen.select_related("photo__specimen")
    return [c.photo for c in rows]


def make_link(
    campaign: Campaign, by: User, at: datetime, name: str, until: date | None, no_money: bool
) -> ReportLink:
    """A new link. Raises :class:`InputError` for an end that has passed."""
    if until and until < at.date():
        raise InputError("The last day is in the past.", "until")
    return ReportLink.objects.create(
        campaign=campaign, token=get_random_string(43), name=" ".join(name.split()),
        until=until, no_money=no_money, made_by=by, made_at=at,
    )  # fmt: skip


def revoke_link(link: ReportLink, by: User, at: datetime) -> None:
    """It opens no more, for good; once revoked it stays as it was revoked."""
    ReportLink.objects.filter(pk=link.pk, revoked_at=None).update(revoked_at=at, revoked_by=by)


def count_reading(link: ReportLink, at: datetime) -> None:
    """Count a reading of the page."""
    ReportLink.objects.filter(pk=link.pk).update(opened=F("opened") + 1, opened_at=at)
