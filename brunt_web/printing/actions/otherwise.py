"""Specimens that were not printed here while they lay on filled plates: asked about, then taken off."""

from datetime import datetime

from django.contrib.auth.models import User
from django.db import transaction

from brunt_core.errors import InputError
from brunt_web.campaigns import history
from brunt_web.campaigns.actions.make import mark_as_made
from brunt_web.campaigns.models import Campaign, Condition, Specimen
from brunt_web.printing.models import Plate, Print


class OnPlates(InputError):
    """Specimens that are said to be made lie on plates that are not printed; ``prints`` are their places."""

    def __init__(self, prints: list[Print]) -> None:
        plates = dict.fromkeys(
            f"plate {p.plate.number} of batch {p.plate.batch.number}" for p in prints
        )
        lie = "lies" if len(prints) == 1 else "lie"
        super().__init__(
            f"{len(prints)} of these specimens {lie} on filled plates that are not printed: {', '.join(plates)}. Are they already made?",
            "condition",
        )
        self.prints = prints


def planned_on_plates(campaign: Campaign, condition: Condition | None) -> list[Print]:
    """The places on plates, not printed yet, of specimens that are still to be made; of one condition or of all."""
    rows = Print.objects.filter(
        plate__batch__campaign=campaign, plate__printed_at=None, specimen__made="planned"
    )
    rows = rows.filter(specimen__condition=condition) if condition else rows
    order = ("plate__batch__number", "plate__number", "specimen__code")
    return list(rows.select_related("plate__batch", "specimen").order_by(*order))


@transaction.atomic
def make_off_plates(
    campaign: Campaign,
    condition: Condition | None,
    by: User,
    at: datetime,
    how: str,
    words: str,
    off: bool,
) -> list[Specimen]:
    """Specimens not printed here; with ``off`` those that lie on filled plates are taken off them first, and a plate
    that is empty then is gone.

    Raises :class:`OnPlates` where some lie on plates and ``off`` is not said, and :class:`InputError` where nothing is
    left to be made.
    """
    lying = planned_on_plates(campaign, condition)
    if lying and not off:
        raise OnPlates(lying)
    plates = {p.plate_id: p.plate for p in lying}
    for pk in sorted(plates):
        plate = Plate.objects.select_for_update().get(pk=pk)
        if plate.printed_at:
            raise InputError("A plate was printed in the meantime; check again.", "condition")
        mine = [p for p in lying if p.plate_id == pk]
        words_off = f"taken off plate {plate.number} of batch {plate.batch.number}"
        history.note([p.specimen for p in mine], "off_plate", by, at, words_off)
        Print.objects.filter(pk__in=[p.pk for p in mine]).delete()
        if not plate.prints.exists():
            plate.delete()
            if not plate.batch.plates.exists():
                plate.batch.delete()
    return mark_as_made(campaign, condition, by, at, how, words)
