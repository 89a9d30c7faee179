"""Puts back what was deleted, as it was."""

import json

from django.db import IntegrityError, connection, transaction

from brunt_core.errors import InputError
from brunt_web.changes.models import Change
from brunt_web.changes.tracked import RETURNABLE
from brunt_web.people.models import Workshop


def undelete_row(workshop: Workshop, pk: int) -> Change:
    """Put one row back that was deleted, with its old key; its change stays on record.

    Raises :class:`InputError` for a change that took nothing away, a row of a kind that does not come
    back alone (a specimen, a test: enter it again), one that is there again, and one whose place is taken.
    """
    change = Change.objects.filter(workshop=workshop, pk=pk, what="-").first()
    if change is None or change.kind not in RETURNABLE:
        raise InputError("This cannot be restored from here.")
    table = connection.ops.quote_name(change.kind)
    try:
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute(
                f"INSERT INTO {table} SELECT * FROM jsonb_populate_record(NULL::{table}, %s::jsonb)"
                f" WHERE NOT EXISTS (SELECT 1 FROM {table} WHERE id = %s)",
                [json.dumps(change.before), change.row],
            )
            if not cursor.rowcount:
                raise InputError("It was restored already.")
    except IntegrityError:
        raise InputError(
            "It cannot be restored: what it belonged to was deleted, or something else has taken its place."
        ) from None
    return change
