"""Qualifications: begun, tried step by step, undone, ended in a recipe."""

from collections.abc import Mapping
from datetime import datetime

from django.contrib.auth.models import User
from django.db import transaction

from brunt_core.errors import InputError
from brunt_core.feedstock.qualification import QUALIFICATIONS, gate_of, learnt_of, open_gate
from brunt_web.feedstock.models import KINDS, Attempt, Qualification
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
) -> Qualification:
    """A qualification for one material. Raises :class:`InputError` for a name that is taken."""
    if kind not in KINDS:
        raise InputError("Choose what it is for.", "kind")
    if Qualification.objects.filter(workshop=workshop, name=name).exists():
        raise InputError(f"There is a qualification called {name} already.", "name")
    return Qualification.objects.create(
        workshop=workshop,
        kind=kind,
        name=name,
        material=material or (lot.material if lot else None),
        lot=lot,
        created_by=by,
    )


def standing_attempts(qualification: Qualification) -> list[Attempt]:
    """The attempts that stand, in order."""
    return list(qualification.attempts.filter(undone_at__isnull=True))


def gate_now(qualification: Qualification) -> str:
    """The step that is open; empty when the qualification is climbed."""
    return open_gate(
        qualification.kind, [(a.gate, a.passed) for a in standing_attempts(qualification)]
    )


@transaction.atomic
def record_attempt(
    qualification: Qualification,
    by: User,
    at: datetime,
    key: str,
    texts: Mapping[str, str],
    note: str = "",
) -> Attempt:
    """One attempt at a step, judged and kept whether it passes or not.

    Raises :class:`InputError` for a step that is not open yet, or what cannot be read.
    """
    qualification = Qualification.objects.select_for_update().get(pk=qualification.pk)
    gate = gate_of(qualification.kind, key)
    now = gate_now(qualification)
    order = [g.key for g in QUALIFICATIONS[qualification.kind]]
    if now and order.index(key) > order.index(now):
        first = gate_of(qualification.kind, now)
        raise InputError(f"First “{first.label}”: {first.question}", "gate")
    kept = {i.key: texts.get(i.key, "").strip()[:2000] for i in gate.inputs}
    verdict = gate.judge(kept)
    return Attempt.objects.create(
        qualification=qualification,
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


def withdraw_attempt(qualification: Qualification, pk: int, at: datetime) -> None:
    """An attempt was a slip; it stays, marked so, and counts no longer."""
    qualification.attempts.filter(pk=pk, undone_at__isnull=True).update(undone_at=at)


@transaction.atomic
def make_recipe(qualification: Qualification, name: str) -> Recipe:
    """What the steps taught, as a recipe to go on from.

    Raises :class:`InputError` before the qualification is climbed, or for a name that is taken.
    """
    if gate_now(qualification):
        raise InputError("The qualification is not complete; a step is still open.", "name")
    learnt = learnt_of([(a.gate, a.passed, a.learnt) for a in standing_attempts(qualification)])
    kind = "resin" if qualification.kind == "resin" else "filament"
    qualification.recipe = save_recipe(
        qualification.workshop, name, kind, read_settings(kind, learnt)
    )
    qualification.save(update_fields=["recipe"])
    return qualification.recipe
