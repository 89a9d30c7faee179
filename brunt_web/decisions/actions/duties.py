"""Duties: kept, changed, decided, put away."""

from collections.abc import Mapping
from datetime import datetime

from django.contrib.auth.models import User
from django.db import transaction

from brunt_core.errors import InputError
from brunt_web.campaigns.models import Campaign, Condition
from brunt_web.decisions.models import Duty


class Overtaken(InputError):
    """Somebody else changed it in the meantime."""


def keep(
    campaign: Campaign, by: User, at: datetime, name: str, mode: str, direction: str,
    typed: Mapping[str, str], sure: Mapping[str, str],
) -> Duty:  # fmt: skip
    """A new duty."""
    return Duty.objects.create(
        campaign=campaign, name=name, mode=mode, direction=direction, typed=dict(typed),
        sure=dict(sure), created_by=by, changed_by=by, changed_at=at,
    )  # fmt: skip


@transaction.atomic
def change(
    duty: Duty, by: User, at: datetime, name: str, mode: str, direction: str,
    typed: Mapping[str, str], sure: Mapping[str, str], version: int,
) -> Duty:  # fmt: skip
    """The duty as it is typed now; what was chosen stands. Raises :class:`Overtaken` for an older version."""
    found = _own(duty, version)
    found.name, found.mode, found.direction = name, mode, direction
    found.typed, found.sure = dict(typed), dict(sure)
    return _store(found, by, at)


@transaction.atomic
def choose(
    duty: Duty, by: User, at: datetime, condition: Condition | None, because: str, version: int
) -> Duty:
    """Decide for a candidate, or take the decision back with ``None``."""
    found = _own(duty, version)
    if condition is not None and condition.campaign_id != found.campaign_id:
        raise InputError("That is no candidate of this campaign.", "condition")
    found.chosen, found.chosen_because = condition, because[:300] if condition else ""
    return _store(found, by, at)


@transaction.atomic
def archive(duty: Duty, by: User, at: datetime, back: bool = False) -> Duty:
    """Put a duty away, or bring it back."""
    found = Duty.objects.select_for_update().get(pk=duty.pk)
    found.archived_at = None if back else at
    return _store(found, by, at)


def _own(duty: Duty, version: int) -> Duty:
    found = Duty.objects.select_for_update().select_related("changed_by").get(pk=duty.pk)
    if version != found.version:
        raise Overtaken(
            f"{found.changed_by} changed this duty in the meantime. What you typed stands below; look at "
            "what is kept, then keep yours or leave it."
        )
    return found


def _store(duty: Duty, by: User, at: datetime) -> Duty:
    duty.version += 1
    duty.changed_by, duty.changed_at = by, at
    duty.save()
    return duty
