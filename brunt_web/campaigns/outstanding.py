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
from brunt_web.campaigns.resolved_parts import Resolved

OUTSTANDING = {
    "making": "it is not made yet",
    "treatment": "outstanding:",
    "state": "it is still to be brought to",
}


def stored(deviation: Deviation, turn: int | None) -> dict[str, Any]:
    """A deviation as it is kept with a specimen; ``turn`` where it came of a test."""
    return {
        "key": deviation.key,
        "name": deviation.name,
        "planned": deviation.planned,
        "actual": deviation.actual,
        "says": deviation.sentence,
        "turn": turn,
    }


def outstanding_of(
    made: str, asks: Mapping[str, Any], done: Mapping[str, Sequence[str]]
) -> list[dict[str, Any]]:
    """What a specimen still needs before its test: (kind, what) and the words for it."""
    outstanding_steps: list[dict[str, Any]] = []
    if made == "planned":
        outstanding_steps.append({"kind": "making", "what": "", "says": OUTSTANDING["making"]})
    for step in asks.get("treatments", ()):
        if step["outstanding"] and step["what"] not in done.get("treated", ()):
            outstanding_steps.append(_outstanding("treatment", step["what"]))
    state = asks.get("state")
    if state and state["outstanding"] and state["what"] not in done.get("conditioned", ()):
        outstanding_steps.append(_outstanding("state", state["what"]))
    return outstanding_steps


def _outstanding(kind: str, what: str) -> dict[str, Any]:
    return {"kind": kind, "what": what, "says": f"{OUTSTANDING[kind]} “{what}”"}


def making_deviations(specimen: Any, plan: Resolved) -> list[Deviation]:
    """Where it was not printed here than planned: settings, lot, dryness, how it stood."""
    facts = specimen.made_as
    if specimen.made == "planned" or not facts:
        return []
    found = setting_deviations(plan.kind, plan.settings, facts.get("settings", {}))
    asks = specimen.condition.asks
    pairs = [
        word_deviation(
            "orientation", "Stood on the plate", specimen.orientation, facts.get("orientation", "")
        ),
        word_deviation(
            "lot", "Lot", facts.get("lot_planned", ""), facts.get("lot", ""), "printed from"
        ),
        word_deviation(
            "drying",
            "Filament",
            (asks.get("drying") or {}).get("word", ""),
            facts.get("dryness", ""),
            "printed",
        ),
    ]
    return found + [d for d in pairs if d]


def test_deviations(specimen: Any, turn: Any) -> list[Deviation]:
    """Where it was tested otherwise than planned: speed, age, what was outstanding, ticks."""
    asks, done = turn.condition.asks, turn.tested_as
    found = [speed_deviation(turn.speed, done.get("speed"))]
    age = asks.get("age")
    if age and specimen.made_at and turn.tested_at:
        old = (turn.tested_at - specimen.made_at).total_seconds()
        found.append(age_deviation(age["seconds"], old))
    for outstanding_steps in done.get("outstanding_steps", ()):
        if outstanding_steps["kind"] != "making":
            name = "Treatment" if outstanding_steps["kind"] == "treatment" else "State at test"
            found.append(
                Deviation(
                    f"outstanding {outstanding_steps['what']}",
                    name,
                    outstanding_steps["what"],
                    "without it",
                    "tested",
                )
            )
    for tick in done.get("unticked", ()):
        found.append(
            Deviation(
                f"tick {tick['name']}", tick["name"], tick["what"], "not confirmed", "at the bench"
            )
        )
    return [d for d in found if d]
