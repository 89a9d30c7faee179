"""Attempts at a plate that failed, before one succeeded."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from django.contrib.auth.models import User
from django.db import transaction

from brunt_core.errors import InputError
from brunt_core.printing.checks import DEFECTS
from brunt_web.printing.models import Plate, PrintAttempt


@dataclass(frozen=True)
class AttemptDraft:
    """How one attempt was made stick, and what went wrong; ``brim`` in mm, 0 for none."""

    defects: Sequence[str] = ()
    bed_surface: str = ""
    adhesive: str = ""
    brim: float | None = None
    enclosure: str = ""
    note: str = ""


@transaction.atomic
def note_failed(plate: Plate, by: User, at: datetime, draft: AttemptDraft) -> PrintAttempt:
    """Note an attempt that failed; the plate waits to be printed again.

    Raises :class:`InputError` once it is printed, and for a defect that is not on the list.
    """
    plate = Plate.objects.select_for_update().get(pk=plate.pk)
    if plate.printed_at:
        raise InputError("This plate is printed; record failures by specimen.", "plate")
    if odd := [d for d in draft.defects if d not in DEFECTS]:
        raise InputError(f"“{odd[0]}” is not on the list of defects.", "defects")
    if not draft.defects and not draft.note.strip():
        raise InputError("Choose what went wrong, or write a note.", "defects")
    return PrintAttempt.objects.create(
        plate=plate,
        defects=list(draft.defects),
        bed_surface=draft.bed_surface.strip()[:80],
        adhesive=draft.adhesive.strip()[:80],
        brim=draft.brim,
        enclosure=draft.enclosure.strip()[:80],
        note=draft.note.strip()[:300],
        by=by,
        at=at,
    )


@transaction.atomic
def remove_print_attempt(plate: Plate, pk: int) -> None:
    """Take an attempt off that was noted by mistake."""
    PrintAttempt.objects.filter(plate=plate, pk=pk).delete()
