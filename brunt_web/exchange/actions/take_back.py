"""Undo an import as a whole."""

from dataclasses import dataclass
from datetime import datetime

from django.contrib.auth.models import User
from django.db import transaction

from brunt_core.errors import InputError
from brunt_web.campaigns import history
from brunt_web.campaigns.models import Condition, Specimen, Turn
from brunt_web.exchange.models import DataImport, DataImportRow
from brunt_web.jobs.progress import step
from brunt_web.library.models import Lot, Material
from brunt_web.results.storing import remove_results
from brunt_web.testing.actions.record_test import take_back
from brunt_web.testing.models import Test


@dataclass(frozen=True)
class Undone:
    """What became of an import that was undone."""

    tests: int
    kept: list[str]


@transaction.atomic
def undo_import(brought: DataImport, by: User, at: datetime) -> Undone:
    """Take every test of an import back, with the specimens, conditions and materials it made.

    What somebody corrected or tested since stays, and is told. Raises :class:`InputError` for an
    import that is undone already.
    """
    brought = DataImport.objects.select_for_update().get(pk=brought.pk)
    if brought.undone_at:
        raise InputError("This import is undone already.")
    rows = list(brought.rows.select_related("turn__specimen", "turn__condition", "turn__procedure"))
    list(
        Specimen.objects.filter(pk__in=[r.turn.specimen_id for r in rows])
        .order_by("pk")
        .select_for_update(no_key=True)
        .values_list("pk")
    )
    tests = {t.turn_id: t for t in Test.objects.filter(turn__in=[r.turn_id for r in rows])}
    kept = [r for r in rows if r.turn_id in tests and tests[r.turn_id].entry_key != r.entry_key]
    gone = [r for r in rows if r not in kept]
    count = sum(r.turn_id in tests for r in gone)
    _let_go(gone, tests, by, at)
    _clear(brought)
    brought.undone_at = at
    brought.save(update_fields=["undone_at"])
    return Undone(count, sorted(r.turn.code for r in kept))


def _let_go(rows: list[DataImportRow], tests: dict[int, Test], by: User, at: datetime) -> None:
    """Tests and what the import did to specimens besides; its own specimens go with their tests."""
    mine = {r.turn.specimen_id for r in rows if r.new_specimen}
    others = Test.objects.filter(turn__specimen__in=mine).exclude(
        turn__in=[r.turn_id for r in rows]
    )
    mine -= set(others.values_list("turn__specimen_id", flat=True))
    remove_results(Turn.objects.filter(specimen__in=mine).values_list("pk", flat=True))
    Test.objects.filter(turn__specimen__in=mine).delete()
    Specimen.objects.filter(pk__in=mine).delete()
    rest = [r for r in rows if r.turn.specimen_id not in mine]
    for i, row in enumerate(rest):
        step(i, len(rest), "tests undone")
        if row.turn_id in tests:
            take_back(tests[row.turn_id], by, at, spend=False)
    tested = set(
        Test.objects.filter(turn__specimen__in=[r.turn.specimen_id for r in rest]).values_list(
            "turn__specimen_id", flat=True
        )
    )
    left = [r for r in rest if r.turn.specimen_id not in tested]
    for row in left:
        if row.named_here:
            history.called(row.turn.specimen, "", by, at)
    unmade = [r.turn.specimen_id for r in left if r.made_here]
    if unmade:
        specimens = list(Specimen.objects.filter(pk__in=unmade))
        history.unmade(specimens, by, at, "the import that recorded it as made was undone")


def _clear(brought: DataImport) -> None:
    """Conditions and materials that the import made and nothing uses."""
    Condition.objects.filter(pk__in=brought.conditions, specimens__isnull=True).delete()
    for material in Material.objects.filter(pk__in=brought.materials):
        used = Condition.objects.filter(material=material).exists()
        if not used and not Lot.objects.filter(material=material).exists():
            material.delete()
