"""What a specimen still owes, and where it departs from its plan. Pure: nothing is read or stored."""

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

OWING = {
    "making": "it is not made yet",
    "treatment": "it still owes",
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


def owed_of(
    made: str, asks: Mapping[str, Any], done: Mapping[str, Sequence[str]]
) -> list[dict[str, Any]]:
    """What a specimen still needs before its test: (kind, what) and the words for it."""
    owed: list[dict[str, Any]] = []
    if made == "planned":
        owed.append({"kind": "making", "what": "", "says": OWING["making"]})
    for step in asks.get("treatments", ()):
        if step["owes"] and step["what"] not in done.get("treated", ()):
            owed.append(_owing("treatment", step["what"]))
    state = asks.get("state")
    if state and state["owes"] and state["what"] not in done.get("conditioned", ()):
        owed.append(_owing("state", state["what"]))
    return owed


def _owing(kind: str, what: str) -> dict[str, Any]:
    return {"kind": kind, "what": what, "says": f"{OWING[kind]} “{what}”"}


def making_deviations(specimen: Any, plan: Resolved) -> list[Deviation]:
    """Where it was made otherwise than planned: settings, lot, dryness, how it stood."""
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
    """Where it was tested otherwise than planned: speed, age, what it still owed, ticks."""
    asks, done = turn.condition.asks, turn.tested_as
    found = [speed_deviation(turn.speed, done.get("speed"))]
    age = asks.get("age")
    if age and specimen.made_at and turn.tested_at:
        old = (turn.tested_at - specimen.made_at).total_seconds()
        found.append(age_deviation(age["seconds"], old))
    for owed in done.get("owed", ()):
        if owed["kind"] != "making":
            name = "Treatment" if owed["kind"] == "treatment" else "State at test"
            found.append(
                Deviation(f"owed {owed['what']}", name, owed["what"], "without it", "tested")
            )
    for tick in done.get("unticked", ()):
        found.append(
            Deviation(
                f"tick {tick['name']}", tick["name"], tick["what"], "not confirmed", "at the bench"
            )
        )
    return [d for d in found if d]
