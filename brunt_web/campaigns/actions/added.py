"""Replicates that were added to a plan later, taken off it again while nothing was done with them."""

from dataclasses import dataclass, field
from datetime import datetime

from django.db import transaction
from django.db.models import Max, Q, QuerySet

from brunt_core.errors import InputError
from brunt_web.campaigns.models import Campaign, HistoryEvent, Specimen, Turn


@dataclass
class Added:
    """What one press added: when, by whom, how many, and those that nothing was done with."""

    act: str
    at: datetime
    by: str
    count: int = 0
    untouched: list[str] = field(default_factory=list)

    @property
    def shown(self) -> str:
        """Their IDs, the first few of many."""
        return ", ".join(self.untouched[:6]) + (" …" if len(self.untouched) > 6 else "")


def untouched(campaign: Campaign) -> QuerySet[Specimen]:
    """Specimens that are only planned: on no plate, without a note, a name, a photo, a test or a successor."""
    begun = Turn.objects.filter(campaign=campaign).exclude(state="waiting").values("specimen")
    followed = Specimen.objects.filter(campaign=campaign, replaces__isnull=False).values("replaces")
    done = HistoryEvent.objects.filter(specimen__campaign=campaign, undone_at=None).exclude(
        kind__in=("planned", "off_plate")
    )
    return Specimen.objects.filter(
        campaign=campaign,
        made="planned",
        print=None,
        note="",
        own_id="",
        replaces=None,
        photos=None,
    ).exclude(Q(pk__in=begun) | Q(pk__in=followed) | Q(pk__in=done.values("specimen")))


def added_later(campaign: Campaign) -> list[Added]:
    """Every addition of which something can still be taken off, the last first. Two queries."""
    free = set(untouched(campaign).values_list("pk", flat=True))
    found: dict[str, Added] = {}
    for event in _events(campaign):
        act = event.detail["added"]
        by = event.by.get_username() if event.by else ""
        one = found.setdefault(act, Added(act, event.at, by))
        one.count += 1
        if event.specimen_id in free:
            one.untouched.append(event.specimen.code)
    return sorted((a for a in found.values() if a.untouched), key=lambda a: a.at, reverse=True)


def _events(campaign: Campaign) -> QuerySet[HistoryEvent]:
    rows = HistoryEvent.objects.filter(
        specimen__campaign=campaign, kind="planned", detail__has_key="added"
    )
    return rows.select_related("specimen", "by").order_by("at", "specimen__code")


@transaction.atomic
def remove_added(campaign: Campaign, act: str) -> list[str]:
    """Take off the plan what one press added and nothing was done with; returns the IDs.

    Specimens that were printed, put on a plate or otherwise worked on stay. Raises :class:`InputError` where
    nothing is left to take off. IDs are never given to others.
    """
    campaign = Campaign.objects.select_for_update(no_key=True).get(pk=campaign.pk)
    mine = _events(campaign).filter(detail__added=act).values_list("specimen_id", flat=True)
    # Held first: who puts one on a plate or tests it at this moment is waited for, or finds it gone.
    list(Specimen.objects.select_for_update().filter(pk__in=list(mine)).order_by("pk"))
    gone = list(untouched(campaign).filter(pk__in=mine).order_by("code"))
    if not gone:
        raise InputError("Nothing can be removed: all of them have been worked on, or were removed already.", "added")  # fmt: skip
    codes = [s.code for s in gone]
    Specimen.objects.filter(pk__in=[s.pk for s in gone]).delete()
    kept = campaign.specimens.filter(spare=False).order_by().values("condition", "procedure")
    each = min(kept.annotate(most=Max("replicate")).values_list("most", flat=True), default=0)
    if 0 < each < campaign.replicates:
        campaign.replicates = each
        campaign.save(update_fields=["replicates"])
    return codes
