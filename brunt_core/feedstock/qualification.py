"""A gated qualification for an unknown feedstock: each step judged, and the way back where it fails."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from brunt_core.errors import InputError
from brunt_core.feedstock.judges import (
    COUNT,
    CV_LIMIT,
    DONE,
    DRY_LIMIT,
    FIT_LIMIT,
    FITS,
    FLOW,
    FLOW_LIMIT,
    HEATS,
    LIFT,
    MASSES,
    MEASURED,
    OF,
    OVER,
    OVER_LIMIT,
    PART,
    RATES,
    REST,
    SET,
    TIME,
    UNDER,
    UNDER_LIMIT,
    WEIGHINGS,
    StepVerdict,
    Texts,
    judge_dry,
    judge_even,
    judge_exposure,
    judge_heat,
    judge_particles,
    judge_print,
    judge_rate,
    judge_specimens,
    judge_wall,
)
from brunt_core.methods.base import Input


@dataclass(frozen=True)
class Gate:
    """One step: what is asked, what is measured, how it is judged, and where to go back to.

    ``back`` is the key of an earlier gate (empty: the same again) with the words of what to change.
    """

    key: str
    label: str
    question: str
    inputs: tuple[Input, ...]
    judge: Callable[[Texts], StepVerdict]
    back: str
    way_back: str


_SPECIMENS = Gate(
    key="specimens",
    label="Specimens",
    question="Do specimens come out?",
    inputs=(COUNT, OF),
    judge=judge_specimens,
    back="print",
    way_back="Fix the print first.",
)
FEEDSTOCK: tuple[Gate, ...] = (
    Gate(
        key="dry",
        label="Dry",
        question="Is it dry?",
        inputs=(WEIGHINGS, DRY_LIMIT),
        judge=judge_dry,
        back="",
        way_back="Dry it on, weigh again.",
    ),
    Gate(
        key="particles",
        label="Particle size",
        question="Does it feed?",
        inputs=(OVER, UNDER, OVER_LIMIT, UNDER_LIMIT),
        judge=judge_particles,
        back="",
        way_back="Sieve it, or grind it again.",
    ),
    Gate(
        key="heat",
        label="Temperatures",
        question="At what temperature does it extrude?",
        inputs=(HEATS,),
        judge=judge_heat,
        back="",
        way_back="Try other temperatures.",
    ),
    Gate(
        key="even",
        label="Flow consistency",
        question="Is the flow consistent?",
        inputs=(MASSES, TIME, CV_LIMIT),
        judge=judge_even,
        back="dry",
        way_back="Dry it again; else sieve it, or try another temperature.",
    ),
    Gate(
        key="rate",
        label="Max. flow rate",
        question="Max. flow rate?",
        inputs=(RATES, PART),
        judge=judge_rate,
        back="heat",
        way_back="Try hotter, or slower.",
    ),
    Gate(
        key="wall",
        label="Single wall",
        question="Is the flow ratio right?",
        inputs=(SET, MEASURED, FLOW, FLOW_LIMIT),
        judge=judge_wall,
        back="even",
        way_back="Check for slip or a clog, then weigh five extrusions again.",
    ),
    Gate(
        key="print",
        label="Standard print",
        question="Does a print hold?",
        inputs=(DONE,),
        judge=judge_print,
        back="wall",
        way_back="Set flow and temperature again, then print again.",
    ),
    _SPECIMENS,
)
RESIN: tuple[Gate, ...] = (
    Gate(
        key="exposure",
        label="Exposure",
        question="At what exposure do parts fit?",
        inputs=(FITS, FIT_LIMIT, LIFT, REST),
        judge=judge_exposure,
        back="",
        way_back="Try other exposures, a slower lift, a longer rest.",
    ),
    Gate(
        key="print",
        label="Standard print",
        question="Does a print hold?",
        inputs=(DONE,),
        judge=judge_print,
        back="exposure",
        way_back="Set the exposure again.",
    ),
    _SPECIMENS,
)
QUALIFICATIONS: dict[str, tuple[Gate, ...]] = {"feedstock": FEEDSTOCK, "resin": RESIN}


def gate_of(qualification: str, key: str) -> Gate:
    """A gate of a qualification. Raises :class:`InputError` where there is none.

    >>> gate_of("feedstock", "even").back
    'dry'
    """
    found = next((g for g in QUALIFICATIONS.get(qualification, ()) if g.key == key), None)
    if found is None:
        raise InputError(f"There is no step “{key}” in this qualification.", "gate")
    return found


def open_gate(qualification: str, passed: Sequence[tuple[str, bool]]) -> str:
    """Which gate is open, from the attempts in order: (gate, passed).

    The first is open at the start; a pass opens the next; a failure leads back to the gate its own
    names, and what lies above that must be passed again. Empty when all are passed.

    >>> open_gate("feedstock", [("dry", True), ("particles", True), ("heat", True), ("even", False)])
    'dry'
    >>> open_gate("resin", [("exposure", True), ("print", True), ("specimens", True)])
    ''
    """
    gates = QUALIFICATIONS[qualification]
    order = {g.key: i for i, g in enumerate(gates)}
    at = 0
    for key, good in passed:
        if key not in order or order[key] > at:
            continue
        gate = gates[order[key]]
        if good:
            at = max(order[key] + 1, at if order[key] < at else order[key] + 1)
        else:
            at = order[gate.back] if gate.back else order[key]
    return gates[at].key if at < len(gates) else ""


def learnt_of(attempts: Sequence[tuple[str, bool, Mapping[str, str]]]) -> dict[str, str]:
    """What the steps taught, the latest pass of each: recipe settings.

    >>> learnt_of([("heat", True, {"nozzle_temperature": "205 °C"}), ("wall", False, {"flow": "80 %"})])
    {'nozzle_temperature': '205 °C'}
    """
    found: dict[str, str] = {}
    for _, good, learnt in attempts:
        if good:
            found |= dict(learnt)
    return found
