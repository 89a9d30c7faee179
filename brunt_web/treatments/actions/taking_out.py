"""Specimens taken out of a run before its end, and put back."""

from datetime import datetime

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Max

from brunt_core.errors import InputError
from brunt_web.campaigns import history
from brunt_web.campaigns.actions.change_plan import one_more, promote_spare
from brunt_web.campaigns.actions.mixups import change_role
from brunt_web.campaigns.models import Condition
from brunt_web.treatments.actions.runs import lies_in, mark_specimens
from brunt_web.treatments.models import FATES, RUNNING, Inside, Run

NO_WAY_BACK = 333.15


@transaction.atomic
def take_out_of_run(
    row: Inside, by: User, at: datetime, fate: str, reason: str, control: Condition | None = None
) -> Inside:
    """One specimen is taken out before the end, with what becomes of it.

    Raises :class:`InputError` without a reason, for one that is out, and for a control that has been
    above 60 °C: it cannot go back.
    """
    run = Run.objects.select_for_update(of=("self",)).get(pk=row.run_id)
    row = Inside.objects.select_related("specimen__condition", "specimen__procedure").get(pk=row.pk)
    if fate not in FATES:
        raise InputError("Choose what happens to it.", "fate")
    if not reason.strip():
        raise InputError("Give a reason; it is kept in its history.", "reason")
    if row.out_at or not run.open:
        raise InputError(f"{row.specimen.code} is out already.", "specimen")
    if fate == "control":
        _may_go_back(run, row, control)
    row.out_at, row.fate, row.reason = at, fate, reason.strip()[:300]
    row.save(update_fields=["out_at", "fate", "reason"])
    history.lay_in([row.specimen], "")
    words = f"taken out of run {run.number}, {run.what}: {reason.strip()}"
    if fate in ("lost", "reprint"):
        history.record_print_outcome(row.specimen, by, at, True, [], words)
    if fate == "lost":
        promote_spare(row.specimen)
    elif fate == "reprint":
        made = one_more(row.specimen.condition, row.specimen.procedure, by, at=at)[0]
        made.replaces = row.specimen
        made.save(update_fields=["replaces"])
    elif fate == "control" and control:
        history.note([row.specimen], "out_of_run", by, at, words)
        change_role(row.specimen, control, by, at, reason, replace=True)
    else:
        history.note([row.specimen], "out_of_run", by, at, f"{words}; kept for another test")
    return row


def hottest(run: Run) -> float | None:
    """The highest temperature the run has seen, K: as logged, or the set point of a step that began."""
    logged = run.log.filter(what__in=("core", "oven")).aggregate(most=Max("value"))["most"]
    heats = [s.heat for s in run.steps.all() if s.heat and s.started_at]
    known = [x for x in (logged, *(heats if logged is None else ())) if x is not None]
    return max(known, default=None)


def _may_go_back(run: Run, row: Inside, control: Condition | None) -> None:
    if control is None:
        raise InputError("Choose the condition it goes back to.", "control")
    heat = hottest(run)
    if heat is not None and heat > NO_WAY_BACK and run.state == RUNNING:
        raise InputError(
            f"The run has been at {heat - 273.15:.0f} °C: above 60 °C {row.specimen.code} cannot go back "
            "as a control. It is lost, or kept for another test.",
            "fate",
        )


@transaction.atomic
def undo_taking_out(row: Inside, by: User, at: datetime) -> None:
    """It lies in the run again: taking it out was a slip. Not where it became a control.

    Raises :class:`InputError` for a run that is over, or a specimen that changed its role.
    """
    run = Run.objects.select_for_update(of=("self",)).get(pk=row.run_id)
    row = Inside.objects.select_related("specimen").get(pk=row.pk)
    if not run.open or not row.out_at:
        raise InputError("There is nothing to put back.", "specimen")
    if row.fate == "control":
        raise InputError("It is a control now; take that back in its history.", "specimen")
    if other := lies_in(row.specimen):
        raise InputError(
            f"{row.specimen.code} lies in run {other.number} now: take it out first.",
            "specimen",
        )
    if row.specimen.spent:
        raise InputError(f"{row.specimen.code} was destroyed by a test since.", "specimen")
    if row.fate in ("lost", "reprint"):
        history.record_print_outcome(row.specimen, by, at, False, [], f"back in run {run.number}")
    row.out_at, row.fate, row.reason = None, "", ""
    row.save(update_fields=["out_at", "fate", "reason"])
    mark_specimens(run, [row.specimen])
