"""Load cases: kept, changed, decided, archived."""

from collections.abc import Mapping
from datetime import datetime

from django.contrib.auth.models import User
from django.db import transaction

from brunt_core.errors import InputError
from brunt_web.campaigns.models import Campaign, Condition
from brunt_web.decisions.models import LoadCase


class LoadCaseOvertaken(InputError):
    """Somebody else changed it in the meantime."""


def add_load_case(
    campaign: Campaign, by: User, at: datetime, name: str, mode: str, direction: str,
    typed: Mapping[str, str], sure: Mapping[str, str],
) -> LoadCase:  # fmt: skip
    """A new load case."""
    return LoadCase.objects.create(
        campaign=campaign, name=name, mode=mode, direction=direction, typed=dict(typed),
        sure=dict(sure), created_by=by, changed_by=by, changed_at=at,
    )  # fmt: skip


@transaction.atomic
def change(
    load_case: LoadCase, by: User, at: datetime, name: str, mode: str, direction: str,
    typed: Mapping[str, str], sure: Mapping[str, str], version: int,
) -> LoadCase:  # fmt: skip
    """The load case as it is typed now; what was chosen stands. Raises :class:`LoadCaseOvertaken` for an older version."""
    found = _own(load_case, version)
    found.name, found.mode, found.direction = name, mode, direction
    found.typed, found.sure = dict(typed), dict(sure)
    return _store(found, by, at)


@transaction.atomic
def choose(
    load_case: LoadCase,
    by: User,
    at: datetime,
    condition: Condition | None,
    because: str,
    version: int,
) -> LoadCase:
    """Decide for a candidate, or take the decision back with ``None``."""
    found = _own(load_case, version)
    if condition is not None and condition.campaign_id != found.campaign_id:
        raise InputError("That is not a candidate of this campaign.", "condition")
    found.chosen, found.chosen_because = condition, because[:300] if condition else ""
    return _store(found, by, at)


@transaction.atomic
def archive(load_case: LoadCase, by: User, at: datetime, back: bool = False) -> LoadCase:
    """Put a load case away, or bring it back."""
    found = LoadCase.objects.select_for_update().get(pk=load_case.pk)
    found.archived_at = None if back else at
    return _store(found, by, at)


def _own(load_case: LoadCase, version: int) -> LoadCase:
    found = LoadCase.objects.select_for_update().select_related("changed_by").get(pk=load_case.pk)
    if version != found.version:
        raise LoadCaseOvertaken(
            f"{found.changed_by} changed this load case in the meantime. Your values are below; compare them with the saved ones, then save or discard yours."
        )
    return found


def _store(load_case: LoadCase, by: User, at: datetime) -> LoadCase:
    load_case.version += 1
    load_case.changed_by, load_case.changed_at = by, at
    load_case.save()
    return load_case
