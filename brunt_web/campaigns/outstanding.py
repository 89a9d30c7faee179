"""What a specimen still needs, and where it departs from its plan. Pure: nothing is read or stored."""

from collections.abc import Mapping, Sequence
from typing import Any

from brunt_core.planning.deviations import (
    Deviation,
    age_deviation,
    setting_deviations,
    speed_deviation,
    word_deviation,
)
from brunt_core.planning.levels import step_key
from brunt_web.campaigns.recorded import OutstandingStep
from brunt_web.campaigns.requirements import Requirements
from brunt_web.campaigns.resolved_parts import Resolved

OUTSTANDING = {
    "making": "it is not made yet",
    "treatment": "outstanding:",
    "state": "it is still to be brought to",
}


def outstanding_of(
    made: str, required: Requirements, done: Mapping[str, Sequence[str]]
) -> tuple[OutstandingStep, ...]:
    """What a specimen still needs before its test."""
    found = [OutstandingStep("making", "", OUTSTANDING["making"])] if made == "planned" else []
    for kind, step in required.steps:
        carried_out = done.get("treated" if kind == "treatment" else "conditioned", ())
        if step.key not in {step_key(what) for what in carried_out}:
            words = f"{OUTSTANDING[kind]} “{step.what}”"
            found.append(OutstandingStep(kind, step.what, words))
    return tuple(found)


def still_needs(specimen: Any, kind: str, what: str) -> bool:
    """Whether a specimen still needs this treatment or state, however it is worded."""
    key = step_key(what)
    return any(o.kind == kind and o.key == key for o in specimen.outstanding_steps)


def making_deviations(specimen: Any, plan: Resolved) -> list[Deviation]:
    """Where it was not printed here than planned: settings, lot, dryness, how it stood."""
    facts = specimen.made_as
    if specimen.made == "planned" or not facts.known:
        return []
    found = setting_deviations(plan.kind, plan.settings, facts.settings)
    drying = specimen.condition.requirements.drying
    pairs = [
        word_deviation(
            "orientation", "Stood on the plate", specimen.orientation, facts.orientation
        ),
        word_deviation("lot", "Lot", facts.lot_planned, facts.lot, "printed from"),
        word_deviation(
            "drying", "Filament", drying.word if drying else "", facts.dryness, "printed"
        ),
    ]
    return found + [d for d in pairs if d]


def test_deviations(specimen: Any, turn: Any) -> list[Deviation]:
    """Where it was tested otherwise than planned: speed, age, what was outstanding, ticks."""
    age, done = turn.condition.requirements.age, turn.tested_as
    found = [speed_deviation(turn.speed, done.speed)]
    if age and specimen.made_at and turn.tested_at:
        old = (turn.tested_at - specimen.made_at).total_seconds()
        found.append(age_deviation(age.seconds, old))
    for step in done.outstanding_steps:
        if step.kind != "making":
            name = "Treatment" if step.kind == "treatment" else "State at test"
            key = f"outstanding {step.what}"
            found.append(Deviation(key, name, step.what, "without it", "tested"))
    for tick in done.unticked:
        key = f"tick {tick.name}"
        found.append(Deviation(key, tick.name, tick.what, "not confirmed", "at the bench"))
    return [d for d in found if d]
