"""Check standards: made, archived, a new phase begun or undone."""

from datetime import date, datetime

from django.contrib.auth.models import User
from django.db import transaction

from brunt_core.errors import InputError
from brunt_web.checks.models import CheckStandard, Phase
from brunt_web.library.models import Material, Procedure
from brunt_web.people.models import Workshop


@transaction.atomic
def make_check_standard(
    workshop: Workshop, by: User, material: Material, procedure: Procedure, name: str = ""
) -> CheckStandard:
    """A check standard. Raises :class:`InputError` for one that is there, or places on a scale of words."""
    if procedure.ranked_property.ordinal:
        raise InputError("Ratings in words have no control chart; choose a procedure with a numeric result.", "procedure")  # fmt: skip
    if material.workshop_id != workshop.pk or procedure.workshop_id != workshop.pk:
        raise InputError("That does not belong to this workshop.", "material")
    name = " ".join(name.split())[:80] or f"{material.name}, {procedure.name}"[:80]
    there = CheckStandard.objects.select_for_update().filter(workshop=workshop)
    old = there.filter(material=material, procedure=procedure).first()
    if old and not old.archived_at:
        raise InputError(f"That is already the check standard “{old.name}”.", "material")
    if there.filter(name=name).exclude(pk=old.pk if old else 0).exists():
        raise InputError(f"There is a check standard called “{name}” already.", "name")
    if old:
        old.name, old.archived_at = name, None
        old.save()
        return old
    return CheckStandard.objects.create(workshop=workshop, name=name, material=material, procedure=procedure, by=by)  # fmt: skip


def archive_check_standard(check_standard: CheckStandard, at: datetime | None) -> None:
    """Archive, or bring it back with ``None``; its points stay where they are."""
    check_standard.archived_at = at
    check_standard.save()


def begin_phase(check_standard: CheckStandard, by: User, starts_on: date, because: str) -> Phase:
    """The level is another from that day on. Raises :class:`InputError` without a reason."""
    because = " ".join(because.split())
    if not because:
        raise InputError("Give the reason for the new level.", "because")
    found, _ = Phase.objects.update_or_create(
        check_standard=check_standard,
        starts_on=starts_on,
        defaults={"because": because[:200], "by": by},
    )
    return found


def end_phase(phase: Phase) -> None:
    """Take a phase back: the days before and after are one again; history keeps that it was."""
    phase.delete()
