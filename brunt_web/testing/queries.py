"""Reading the bench: the queue, the specimen in hand, what was measured and read before."""

from collections.abc import Mapping
from copy import copy
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from django.contrib.auth.models import User
from django.core.cache import cache
from django.db.models import Count, FilteredRelation, Q, QuerySet
from django.http import Http404

from brunt_core.identifiers import nearest_codes
from brunt_core.methods.base import Input, Method
from brunt_core.observations import Observation
from brunt_core.quantities.rendering import count_of
from brunt_web.campaigns.addresses import bench_address, specimen_address
from brunt_web.campaigns.models import Campaign, HistoryEvent, Specimen, Turn
from brunt_web.campaigns.queries import DONE, turns_fit_for_bench
from brunt_web.people.models import Workshop
from brunt_web.results.reading import siblings
from brunt_web.testing.curve_queries import curve_texts
from brunt_web.testing.inputs import level_texts
from brunt_web.testing.marks import marks_for
from brunt_web.testing.models import Clock, DismissedCaution, Test

# Shown before and after the one in hand, and known to the page for when the server is away.
BEFORE, AFTER, KNOWN = 2, 7, 60
_RIG = ("name", "dimension", "capacity", "resolution", "relative_error", "due_on", "instrument")
_SHOWN = (
    "specimen",
    "campaign",
    "condition__material",
    "procedure__rig",
    "rig",
    "procedure__variant",
    "curve",
)
# Seconds a turn is kept for what is typed of it.
_IN_HAND = 30
# What only a turn that is running or done has.
_ENDED = ("clock", "test__by")
# The columns that the bench shows; the rest is read when asked for.
_COLUMNS = (
    *("id", "step", "open", "run_order", "skips", "speed", "conditioning", "state", "outcome"),
    *("place", "excluded", "spends", "untimely", "tested_at", "campaign_id", "condition_id"),
    "procedure_id",
    *("specimen__workshop_id", "specimen__code", "specimen__replicate", "specimen__spare"),
    *(
        "specimen__made",
        "specimen__outstanding_steps",
        "specimen__outstanding",
        "specimen__ready_at",
    ),
    *(
        "specimen__spent",
        "specimen__lies_in",
        "specimen__deviations",
        "specimen__made_at",
        "specimen__treated",
    ),
    *("specimen__condition_id", "specimen__procedure_id", "specimen__campaign_id"),
    *(
        "campaign__question",
        "campaign__replicates",
        "campaign__workshop_id",
        "campaign__confidence",
    ),
    *("condition__label", "condition__detail", "condition__campaign_id", "condition__requirements"),
    *("condition__material__name", "condition__material__family"),
    *(f"procedure__{k}" for k in ("name", "method_key", "orientation", "specimen_type", "speed")),
    *(f"procedure__{k}" for k in ("conditioning", "standard", "parameters", "preload")),
    *(
        f"procedure__{k}"
        for k in ("reading_times", "ranked_by", "workshop_id", "destroys", "sizes")
    ),
    *(f"{where}__{k}" for where in ("procedure__rig", "rig") for k in _RIG),
    *(
        "procedure__variant__name",
        "procedure__variant__shape",
        "procedure__variant__sizes",
        "procedure__variant__part",
    ),
    *("curve__name", "curve__points", "curve__picks", "curve__notes"),
    "curve__without_spikes",
)


def _turns(workshop: Workshop, code: str) -> list[Turn]:
    return list(
        Turn.objects.filter(specimen__workshop=workshop, specimen__code=code)
        .select_related(*_SHOWN)
        .only(*_COLUMNS)
        .order_by("step")
    )


def turn_of(workshop: Workshop, code: str, step: int | None = None) -> Turn:
    """One turn of a specimen of the workshop with what the bench shows of it, or 404.

    Without a ``step`` (from 1) the one that comes next, or the last when all are done.
    """
    found = _turns(workshop, code)
    if not found:
        raise Http404(_not_there(workshop, code))
    if step is not None:
        chosen = next((t for t in found if t.step == step - 1), None)
        if chosen is None:
            raise Http404(f"{code} has {count_of(len(found), 'test')}; there is no number {step}.")
        return _with_end(chosen)
    return _with_end(next((t for t in found if t.state in ("waiting", "running")), found[-1]))


def _with_end(turn: Turn) -> Turn:
    """With its clock and its test, which are looked for only where there can be some."""
    cache = turn._state.fields_cache
    cache["clock"] = cache["test"] = None
    if turn.state == "running":
        cache["clock"] = Clock.objects.filter(turn=turn).first()
    elif turn.state != "waiting":
        cache["test"] = Test.objects.filter(turn=turn).select_related("by").first()
    return turn


def turns_of(specimen: Specimen) -> list[Turn]:
    """All turns of a specimen in their order."""
    return list(
        Turn.objects.filter(specimen=specimen)
        .select_related(*_SHOWN, *_ENDED)
        .prefetch_related("results")
        .order_by("step")
    )


def specimen_of(workshop: Workshop, code: str) -> Specimen:
    """One specimen of the workshop, or 404."""
    found = (
        Specimen.objects.filter(workshop=workshop, code=code)
        .select_related("condition__material", "procedure__variant", "campaign", "replaces")
        .first()
    )
    if found is None:
        raise Http404(_not_there(workshop, code))
    return found


def _not_there(workshop: Workshop, code: str) -> str:
    near = nearest_codes(
        code, Specimen.objects.filter(workshop=workshop).values_list("code", flat=True)
    )
    return f"There is no specimen {code} in this workshop." + (
        f" Nearest: {', '.join(near)}." if near else ""
    )


def turn_in_hand(workshop: Workshop, code: str, step: int | None = None) -> Turn:
    """The same, as it was when somebody took it up, for half a minute: for what is being typed.

    What is stored is checked by the database, so that an outdated one does no harm.
    """
    found: Turn | None = cache.get(_key(workshop.pk, code, step))
    if found is None:
        found = take_in_hand(turn_of(workshop, code, step))
        if step is None and found.step:
            cache.set(_key(workshop.pk, code, None), found, _IN_HAND)
    return found


def take_in_hand(turn: Turn) -> Turn:
    """Keep a turn just read for what will be typed of it; returns it.

    With what its levels set. What else was read for it, such as sizes, what was read on the day and of
    those beside it, is read again each time: it is there before the last one is stored.
    """
    level_texts(turn)
    turn = copy(turn)
    for name in ("computed", "known_marks", "daily", "assumed_sizes", "siblings"):
        vars(turn).pop(name, None)
    step = turn.step + 1 if turn.step else None
    cache.set(_key(turn.workshop_id, turn.code, step), turn, _IN_HAND)
    return turn


def _key(workshop: int, code: str, step: int | None) -> str:
    return f"turn-{workshop}-{code}-{step or 0}"


def let_go(turn: Turn) -> None:
    """Forget the specimen as it was in hand."""
    keys = [f"turn-{turn.workshop_id}-{turn.code}-{n}" for n in (0, turn.step + 1, turn.step + 2)]
    cache.delete_many(keys)


@dataclass
class Queued:
    """One specimen in the queue: what its row shows."""

    code: str
    uuid: UUID
    address: str
    condition: str
    state: str
    made: str = "made"
    place: str = ""
    excluded: bool = False
    treated: bool = False
    result: Observation | None = None
    waits: bool = False


@dataclass
class Queue:
    """The specimens about the one in hand, those after them for when the server is away, and how far it has come."""

    items: list[Queued]
    later: list[Queued]
    done: int
    total: int
    outstanding: int


_ROW = (
    *(
        "specimen__code",
        "specimen__uuid",
        "step",
        "condition__label",
        "condition__detail",
        "state",
        "place",
    ),
    *("excluded", "specimen__made", "specimen__treated", "ranked__lower", "ranked__upper"),
)


def queue_for(turn: Turn, now: datetime) -> Queue:
    """The queue of the turn's procedure in test order. Two narrow queries, however long it is."""
    mine, key = (turn.campaign_id, turn.procedure_id), turn.procedure.ranked_property.key
    counts = _counted(*mine)
    found = [_queued(row) for row in _about(*mine, key, turn.pk, turn.run_order, now)]
    done = [q for q in found if q.state != "waiting"]
    here = Queued(
        turn.code,
        turn.specimen.uuid,
        turn.address,
        str(turn.condition),
        state=turn.state,
        made=turn.specimen.made,
        place=turn.place,
        excluded=turn.excluded,
        treated=turn.specimen.treated,
        waits=turn.waits,
    )
    ahead_ = [q for q in found if q.state == "waiting"]
    return Queue(
        [*reversed(done), here, *ahead_[:AFTER]],
        later=ahead_[AFTER:],
        done=sum(n for state, _, _, n in counts if state in DONE),
        total=sum(n for *_, n in counts),
        outstanding=sum(
            n
            for state, spare, outstanding, n in counts
            if state == "waiting" and outstanding and not spare
        ),
    )


def _counted(campaign: int, procedure: int) -> QuerySet[Turn, Any]:
    mine = Turn.objects.filter(campaign_id=campaign, procedure_id=procedure).order_by()
    return mine.values_list("state", "specimen__spare", "specimen__outstanding").annotate(
        n=Count("id")
    )


def _about(
    campaign: int, procedure: int, prop: str, turn: int, order: int, now: datetime
) -> QuerySet[Turn, Any]:
    ranked = FilteredRelation("results", condition=Q(results__property_key=prop))
    mine = Turn.objects.filter(campaign_id=campaign, procedure_id=procedure).exclude(pk=turn)
    mine = mine.annotate(ranked=ranked)
    past = mine.filter(state__in=DONE, run_order__lt=order).order_by("-run_order")
    ahead = mine.filter(turns_fit_for_bench(now)).annotate(behind=Q(run_order__lt=order))
    ahead = ahead.order_by("skips", "behind", "run_order")
    return past.values_list(*_ROW)[:BEFORE].union(ahead.values_list(*_ROW)[:KNOWN], all=True)


def _queued(row: tuple) -> Queued:
    code, uuid, step, label, detail, state, place, excluded, made, treated, *bounds = row
    known = Observation(*bounds) if bounds != [None, None] else None
    condition = f"{label}, {detail}" if detail else label
    waits = state == "waiting"
    return Queued(
        code,
        uuid,
        bench_address(code, step) if waits else specimen_address(code),
        condition,
        state=state,
        made=made,
        place=place,
        excluded=excluded,
        treated=treated,
        result=known,
        waits=waits,
    )


def section_inputs(turn: Turn) -> list[Input]:
    """What is measured of the specimen: its section, and sizes and masses the method asks for."""
    keys = turn.geometry.nominal
    method = turn.procedure.method
    return [i for i in method.inputs if (i.key in keys if i.section else i.role == "size")]


def further_inputs(turn: Turn) -> list[Input]:
    """What can be read besides the big number, and what the procedure leaves open."""
    procedure = turn.procedure
    method = procedure.method
    return [
        i
        for i in method.inputs
        if i.key != procedure.reading.key
        and i not in method.timed
        and not i.section
        and (i.role == "reading" or (i.role == "fixed" and _left_open(i, procedure.parameters)))
    ]


def _left_open(spec: Input, parameters: Mapping[str, str]) -> bool:
    return spec.kind == "quantity" and not parameters.get(spec.key)


def nominal_sizes(turn: Turn) -> dict[str, float]:
    """The specimen type's section in m."""
    return {key: size / 1000 for key, size in turn.geometry.nominal.items()}


def entered_values(turn: Turn) -> dict[str, str]:
    """What was measured or read before, as typed."""
    texts = level_texts(turn) | {k: m.text for k, m in marks_for(turn).items()}
    if getattr(turn, "test", None):
        texts |= {r.key: r.text for r in turn.test.readings.all()}
    curve = getattr(turn, "curve", None)
    return texts | (curve_texts(turn) if curve else {})


def siblings_of(turn: Turn, outcome: str = "") -> list[tuple[str, Observation]]:
    """Results of the same condition and procedure, without this one: (ID, observation in SI).

    Where a method keeps unlike outcomes apart, only those that ended as ``outcome`` says. Read once while
    the turn is in hand.
    """
    outcome = outcome if turn.procedure.method.apart else ""
    known: dict[str, list] = vars(turn).setdefault("siblings", {})
    if outcome in known:
        return known[outcome]
    known[outcome] = siblings(turn, turn.procedure.ranked_property.key, outcome)
    return known[outcome]


def cautions_open(user: User, method: Method) -> bool:
    """Whether this person has not yet put these cautions away."""
    dismissed = DismissedCaution.objects.filter(
        user=user, method_key=method.key, version=method.version
    )
    return not dismissed.exists()


def not_old_enough(campaign: Campaign, now: datetime) -> list[Specimen]:
    """Specimens whose day has not come, the nearest first."""
    return list(
        Specimen.objects.filter(campaign=campaign, outstanding="", ready_at__gt=now, spent=False)
        .select_related("condition")
        .order_by("ready_at")[:40]
    )


def minutes_out(turn: Turn, now: datetime) -> float | None:
    """Minutes since the specimen was taken out of its state; ``None`` where that was not noted."""
    if not turn.condition.requirements.state_to_reach:
        return None
    last = (
        HistoryEvent.objects.filter(
            specimen_id=turn.specimen_id, kind="taken_out", undone_at__isnull=True
        )
        .order_by("-at")
        .first()
    )
    return (now - last.at).total_seconds() / 60 if last else None


def last_entered(campaign: Campaign, by: User) -> Turn | None:
    """The turn of the test that this person entered last in a campaign."""
    tests = Test.objects.filter(turn__campaign=campaign, by=by).select_related("turn__specimen")
    last = tests.order_by("-recorded_at", "-id").first()
    return last.turn if last else None
