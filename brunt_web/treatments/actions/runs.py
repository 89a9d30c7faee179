"""Runs: planned, taken step by step, undone, things taken out, stopped."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Max

from brunt_core.errors import InputError
from brunt_core.treatments.kind import Kind, step_seconds
from brunt_core.treatments.kinds import KINDS
from brunt_core.treatments.suits import objections
from brunt_web.campaigns import history
from brunt_web.campaigns.models import Campaign, HistoryEvent, Specimen, Turn
from brunt_web.library.models import Drying, Lot
from brunt_web.people.models import Workshop
from brunt_web.treatments.facts import parts_of
from brunt_web.treatments.models import (
    DONE,
    PLANNED,
    RUNNING,
    STOPPED,
    Inside,
    OwnKind,
    Run,
    RunStep,
    Vessel,
)


@dataclass(frozen=True)
class RunDraft:
    """A run as it is asked for."""

    kind_key: str
    texts: Mapping[str, str]
    specimens: Sequence[Specimen] = ()
    what: str = ""
    event: str = ""
    own: OwnKind | None = None
    vessel: Vessel | None = None
    lot: Lot | None = None
    planned_for: datetime | None = None
    accepted: str = ""
    again: str = ""
    places: Mapping[str, int] = field(default_factory=dict)

    @property
    def kind(self) -> Kind:
        """What is to be done. Raises :class:`InputError` for an unknown kind."""
        if self.own:
            return self.own.kind
        if self.kind_key not in KINDS:
            raise InputError("Choose what is done.", "kind")
        return KINDS[self.kind_key]


@transaction.atomic
def plan_run(workshop: Workshop, campaign: Campaign | None, by: User, draft: RunDraft) -> Run:
    """A run with its steps and what goes in.

    Raises :class:`InputError`: a parameter that cannot be, nothing to put in, more than the vessel
    takes, a specimen that is not made, is destroyed, lies in another open run, had this already (unless
    ``again`` says why), and what does not suit (unless ``accepted`` says why it is done all the same).
    """
    kind = draft.kind
    values = kind.read(draft.texts)
    specimens = _lock(draft.specimens)
    if kind.of == "lot":
        if draft.lot is None:
            raise InputError("Choose the lot that is dried.", "lot")
    elif not specimens:
        raise InputError("Tick the specimens that go in.", "specimens")
    what = " ".join(draft.what.split())[:120] or _in_words(kind, draft.texts)
    event = draft.event or kind.event
    if draft.vessel and len(specimens) > draft.vessel.capacity:
        raise InputError(
            f"{draft.vessel} takes {draft.vessel.capacity}; {len(specimens)} are ticked. Make two runs.",
            "specimens",
        )
    for s in specimens:
        _can_go_in(s, what, event, draft.again)
    said = objections(kind, values, parts_of(specimens))
    stops = [o.sentence for o in said if o.stops]
    if stops and not draft.accepted.strip():
        raise InputError(stops[0] + " Give a reason to do it all the same.", "accepted")
    run = Run.objects.create(
        workshop=workshop,
        campaign=campaign,
        number=_next_number(workshop),
        kind_key=kind.key if not draft.own else "own",
        own=draft.own,
        event=event,
        what=what,
        texts={k: v for k, v in draft.texts.items() if v.strip()},
        vessel=draft.vessel,
        lot=draft.lot,
        planned_for=draft.planned_for,
        accepted=draft.accepted.strip()[:300],
        created_by=by,
    )
    _lay_in(run, kind, values, specimens, draft.places)
    return run


def _next_number(workshop: Workshop) -> int:
    Workshop.objects.select_for_update().get(pk=workshop.pk)
    return (Run.objects.filter(workshop=workshop).aggregate(most=Max("number"))["most"] or 0) + 1


def _in_words(kind: Kind, texts: Mapping[str, str]) -> str:
    typed = [(texts.get(p.key) or p.default).strip() for p in kind.parameters[:2]]
    return ", ".join([kind.name, *(t for t in typed if t)])[:120]


def _lock(specimens: Sequence[Specimen]) -> list[Specimen]:
    """The specimens again, held until the end of the transaction, in their order."""
    wanted = {s.pk: i for i, s in enumerate(specimens)}
    rows = (
        Specimen.objects.select_for_update(of=("self",), no_key=True)
        .filter(pk__in=wanted)
        .select_related(
            "condition__material", "condition__recipe", "procedure__variant", "campaign__recipe"
        )
        .order_by("pk")
    )
    return sorted(rows, key=lambda s: wanted[s.pk])


def _can_go_in(specimen: Specimen, what: str, event: str, again: str) -> None:
    if specimen.made != "made":
        raise InputError(f"{specimen.code} is not made yet.", "specimens")
    if specimen.spent:
        raise InputError(f"{specimen.code} was destroyed by a test.", "specimens")
    if other := lies_in(specimen):
        raise InputError(
            f"{specimen.code} lies in run {other.number} ({other.what}) already.", "specimens"
        )
    had = HistoryEvent.objects.filter(
        specimen=specimen, kind=event, detail__what=what, undone_at__isnull=True
    ).exists()
    if had and not again.strip():
        raise InputError(
            f"{specimen.code} had “{what}” already. Say why it is done again.", "again"
        )


def _lay_in(
    run: Run,
    kind: Kind,
    values: Mapping[str, float | str],
    specimens: Sequence[Specimen],
    places: Mapping[str, int],
) -> None:
    RunStep.objects.bulk_create(
        RunStep(
            run=run,
            position=i,
            key=s.key,
            label=s.label,
            order=s.order,
            ends=s.ends,
            seconds=step_seconds(s, values),
            heat=values.get(s.heat) if s.heat else None,
            attended=s.attended,
        )
        for i, s in enumerate(kind.steps)
    )
    Inside.objects.bulk_create(
        Inside(run=run, specimen=s, place=places.get(s.code, i + 1))
        for i, s in enumerate(specimens)
    )


@transaction.atomic
def go_on(run: Run, by: User, at: datetime, seen: int | None = None) -> RunStep | None:
    """The step in hand is over and the next begins; the first begins the run. Returns the step begun.

    After the last the run is done: it stands in the history of what is still in it. ``seen`` is the
    position of the step the page showed, −1 before the first: whoever presses after somebody else
    did presses nothing.
    Raises :class:`InputError` for a run that is over or has gone on already, or a moment before the
    step began.
    """
    run = Run.objects.select_for_update(of=("self",)).select_related("own", "lot").get(pk=run.pk)
    if not run.open:
        raise InputError(f"Run {run.number} is over.", "run")
    steps = list(run.steps.all())
    current = next((s for s in steps if s.started_at and not s.ended_at), None)
    if seen is not None and seen != (current.position if current else -1):
        raise InputError("It has gone on already; look at what is on now.", "seen")
    if current:
        assert current.started_at is not None
        if at < current.started_at:
            raise InputError(
                f"“{current.label}” began at {current.started_at:%H:%M}; it cannot have ended before.",
                "at",
            )
        current.ended_at = at
        current.save(update_fields=["ended_at"])
    else:
        _may_begin(run, at)
        run.state, run.started_at = RUNNING, at
        run.save(update_fields=["state", "started_at"])
        mark_specimens(run, still_in(run))
    following = next((s for s in steps if not s.started_at), None)
    if following is None:
        _finish(run, by, at)
        return None
    following.started_at = at
    following.save(update_fields=["started_at"])
    return following


def _may_begin(run: Run, at: datetime) -> None:
    for row in run.inside.filter(out_at__isnull=True).select_related("specimen"):
        made = row.specimen.made_at
        if row.specimen.spent or row.specimen.made != "made":
            how = "was destroyed by a test" if row.specimen.spent else "failed"
            raise InputError(
                f"{row.specimen.code} {how} since this was planned: take it out of the run.", "run"
            )
        if made and at < made:
            raise InputError(
                f"{row.specimen.code} was made on {made:%d %b %Y %H:%M}; this cannot have been before.",
                "at",
            )


def _finish(run: Run, by: User, at: datetime) -> None:
    """What is still in has had it; what a test spent meanwhile has not."""
    run.state, run.ended_at = DONE, at
    run.save(update_fields=["state", "ended_at"])
    held = still_in(run)
    mark_specimens(run, held)
    run.inside.filter(out_at__isnull=True, specimen__spent=True).update(
        out_at=at, fate="other", reason="tested while the run was on"
    )
    left = [s for s in held if not s.spent]
    step = ("treatment" if run.event == "treated" else "state", run.what)
    if left:
        history.carried_out(left, by, at, step, f"run {run.number}{_where(run)}")
    if run.lot and run.kind.key == "dry-stock":
        assert run.started_at is not None
        heat = run.heat
        masses = [r.value for r in run.log.filter(what="mass").order_by("at")]
        Drying.objects.create(
            lot=run.lot,
            started_at=run.started_at,
            ended_at=at,
            temperature=heat or 0.0,
            duration=sum(
                (s.ended_at - s.started_at).total_seconds()
                for s in run.steps.filter(key="dry", ended_at__isnull=False)
                if s.ended_at and s.started_at
            ),
            before=masses[0] if masses else None,
            after=masses[-1] if len(masses) > 1 else None,
            by=by,
        )


def _where(run: Run) -> str:
    return f" in {run.vessel}" if run.vessel else ""


@transaction.atomic
def step_back(run: Run, by: User, at: datetime) -> None:
    """Take the last press back: the step in hand never began, the one before goes on.

    A run that was done is running again, and its specimens owe it again.
    Raises :class:`InputError` where nothing has begun.
    """
    run = Run.objects.select_for_update(of=("self",)).get(pk=run.pk)
    if run.state == DONE:
        _unfinish(run, by, at)
    steps = list(run.steps.filter(started_at__isnull=False))
    if not steps or run.state == STOPPED:
        raise InputError("Nothing has started that could be undone.", "run")
    last = steps[-1]
    if last.ended_at:
        last.ended_at = None
        last.save(update_fields=["ended_at"])
        return
    last.started_at = None
    last.save(update_fields=["started_at"])
    if len(steps) == 1:
        run.state, run.started_at = PLANNED, None
        run.save(update_fields=["state", "started_at"])
        mark_specimens(run, still_in(run))
    else:
        steps[-2].ended_at = None
        steps[-2].save(update_fields=["ended_at"])


def _unfinish(run: Run, by: User, at: datetime) -> None:
    run.state, ended, run.ended_at = RUNNING, run.ended_at, None
    assert ended is not None
    left = _lock(still_in(run))
    _may_be_reopened(run, left, ended)
    run.save(update_fields=["state", "ended_at"])
    mark_specimens(run, left)
    events = HistoryEvent.objects.filter(
        specimen__in=left, kind=run.event, at=ended, detail__what=run.what, undone_at__isnull=True
    )
    events.update(undone_at=at)
    history.note(left, "step_taken_back", by, at, f"undone: {run.what}")
    history.settle(left)
    if run.lot and ended:
        Drying.objects.filter(lot=run.lot, ended_at=ended).delete()


def _may_be_reopened(run: Run, specimens: Sequence[Specimen], ended: datetime) -> None:
    """Refuse where a test or another run has built on the end of this one."""
    since = Turn.objects.filter(specimen__in=specimens, tested_at__gte=ended).order_by("tested_at")
    if turn := since.select_related("specimen").first():
        raise InputError(
            f"{turn.code} was tested after this run ended: take that test back first.", "run"
        )
    for s in specimens:
        if elsewhere := lies_in(s):
            raise InputError(
                f"{s.code} lies in run {elsewhere.number} now: take it out first.", "run"
            )


def still_in(run: Run) -> list[Specimen]:
    """The specimens that were not taken out."""
    rows = run.inside.filter(out_at__isnull=True).select_related("specimen")
    return [row.specimen for row in rows]


def mark_specimens(run: Run, specimens: Sequence[Specimen]) -> None:
    """Tell the specimens that this run holds them, or no longer does."""
    on = run.state == RUNNING
    history.lay_in(specimens, f"run {run.number} ({run.what})" if on else "")


def lies_in(specimen: Specimen) -> Run | None:
    """The open run that holds it."""
    return Run.objects.filter(
        inside__specimen=specimen, inside__out_at__isnull=True, state__in=(PLANNED, RUNNING)
    ).first()


@transaction.atomic
def abort_run(run: Run, by: User, at: datetime, why: str) -> None:
    """It is broken off: nothing counts as treated, what is in is free again.

    Raises :class:`InputError` without a reason.
    """
    run = Run.objects.select_for_update(of=("self",)).get(pk=run.pk)
    if not why.strip():
        raise InputError("Give a reason for stopping the run.", "note")
    if not run.open:
        raise InputError(f"Run {run.number} is over.", "run")
    begun = run.state == RUNNING
    run.state, run.ended_at, run.note = STOPPED, at, why.strip()[:300]
    run.save(update_fields=["state", "ended_at", "note"])
    run.steps.filter(started_at__isnull=False, ended_at__isnull=True).update(ended_at=at)
    left = still_in(run)
    mark_specimens(run, left)
    if begun:
        words = f"run {run.number}, {run.what}, broken off: {why.strip()}"
        history.note(left, "out_of_run", by, at, words)
