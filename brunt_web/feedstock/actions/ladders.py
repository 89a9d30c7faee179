"""Ladders: begun, tried rung by rung, taken back, ended in a recipe."""

from collections.abc import Mapping
from datetime import datetime

from django.contrib.auth.models import User
from django.db import transaction

from brunt_core.errors import InputError
from brunt_core.feedstock.ladder import LADDERS, gate_of, learnt_of, open_gate
from brunt_web.feedstock.models import KINDS, Attempt, Ladder
from brunt_web.library.actions.recipes import read_settings, save_recipe
from brunt_web.library.models import Lot, Material, Recipe
from brunt_web.people.models import Workshop


def begin(
    workshop: Workshop,
    by: User,
    name: str,
    kind: str = "feedstock",
    material: Material | None = None,
    lot: Lot | None = None,
) -> Ladder:
    """A ladder for one material. Raises :class:`InputError` for a name that is taken."""
    if kind not in KINDS:
        raise InputError("Choose what it is for.", "kind")
    if Ladder.objects.filter(workshop=workshop, name=name).exists():
        raise InputError(f"There is a ladder called {name} already.", "name")
    return Ladder.objects.create(
        workshop=workshop,
        kind=kind,
        name=name,
        material=material or (lot.material if lot else None),
        lot=lot,
        created_by=by,
    )


def standing(ladder: Ladder) -> list[Attempt]:
    """The attempts that stand, in order."""
    return list(ladder.attempts.filter(undone_at__isnull=True))


def gate_now(ladder: Ladder) -> str:
    """The rung that is open; empty when the ladder is climbed."""
    return open_gate(ladder.kind, [(a.gate, a.passed) for a in standing(ladder)])


@transaction.atomic
def attempt(
    ladder: Ladder, by: User, at: datetime, key: str, texts: Mapping[str, str], note: str = ""
) -> Attempt:
    """One attempt at a rung, judged and kept whether it passes or not.

    Raises :class:`InputError` for a rung that is not open yet, or what cannot be read.
    """
    ladder = Ladder.objects.select_for_update().get(pk=ladder.pk)
    gate = gate_of(ladder.kind, key)
    now = gate_now(ladder)
    order = [g.key for g in LADDERS[ladder.kind]]
    if now and order.index(key) > order.index(now):
        first = gate_of(ladder.kind, now)
        raise InputError(f"First “{first.label}”: {first.question}", "gate")
    kept = {i.key: texts.get(i.key, "").strip()[:2000] for i in gate.inputs}
    verdict = gate.judge(kept)
    return Attempt.objects.create(
        ladder=ladder,
        gate=key,
        texts={k: v for k, v in kept.items() if v},
        passed=verdict.passed,
        reason=verdict.reason[:300],
        working=list(verdict.working),
        learnt=dict(verdict.learnt),
        note=note.strip()[:300],
        at=at,
        by=by,
    )


def take_back(ladder: Ladder, pk: int, at: datetime) -> None:
    """An attempt was a slip; it stays, marked so, and counts no longer."""
    ladder.attempts.filter(pk=pk, undone_at__isnull=True).update(undone_at=at)


@transaction.atomic
def make_recipe(ladder: Ladder, name: str) -> Recipe:
    """What the rungs taught, as a recipe to go on from.

    Raises :class:`InputError` before the ladder is climbed, or for a name that is taken.
    """
    if gate_now(ladder):
        raise InputError("The ladder is not climbed yet; a rung is still open.", "name")
    learnt = learnt_of([(a.gate, a.passed, a.learnt) for a in standing(ladder)])
    kind = "resin" if ladder.kind == "resin" else "filament"
    ladder.recipe = save_recipe(ladder.workshop, name, kind, read_settings(kind, learnt))
    ladder.save(update_fields=["recipe"])
    return ladder.recipe
