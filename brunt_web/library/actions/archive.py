"""What is not used any more is archived, and restored: nothing of the library is ever deleted."""

from collections.abc import Iterator
from datetime import datetime
from typing import Any

from django.db import models, transaction

from brunt_core.errors import InputError
from brunt_web.library.models import Lot, Material, Printer, Procedure, Recipe, Rig, SpecimenVariant
from brunt_web.people.models import Workshop

KINDS: dict[str, type[models.Model]] = {
    "material": Material,
    "lot": Lot,
    "recipe": Recipe,
    "procedure": Procedure,
    "rig": Rig,
    "printer": Printer,
    "type": SpecimenVariant,
}


@transaction.atomic
def archive_entry(workshop: Workshop, kind: str, pk: int, now: datetime) -> Any:
    """Put something away, or bring it back; what was made with it stays as it is.

    Raises :class:`InputError` for what the workshop does not have.
    """
    model = KINDS.get(kind)
    found: Any = (
        model._default_manager.select_for_update(of=("self",))
        .filter(workshop=workshop, pk=pk)
        .first()
        if model
        else None
    )
    if found is None:
        raise InputError("There is no such thing in this workshop's library.")
    found.archived_at = None if found.archived_at else now
    found.save(update_fields=["archived_at"])
    return found


def away(workshop: Workshop) -> Iterator[tuple[str, Any]]:
    """Everything that is archived, with its kind, the last first."""
    rows: list[tuple[str, Any]] = [
        (kind, row)
        for kind, model in KINDS.items()
        for row in model._default_manager.filter(workshop=workshop, archived_at__isnull=False)
    ]
    yield from sorted(rows, key=lambda x: x[1].archived_at, reverse=True)
