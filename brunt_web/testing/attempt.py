"""What the fields come to right now: computed, judged beside siblings, never raising."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from brunt_core.computation import Computation, ComputedResult, read_input
from brunt_core.computation.reading import inputs_in_own_unit
from brunt_core.computation.working import bounded_text
from brunt_core.errors import InputError
from brunt_core.methods.base import Method
from brunt_core.observations import Observation
from brunt_core.plausibility.bands import band
from brunt_core.plausibility.unit_mixups import UnitMixup, expected_range, find_unit_mixup
from brunt_core.quantities import in_unit
from brunt_core.quantities.rendering import render
from brunt_core.statistics.outliers import Flag, odd_one
from brunt_web.campaigns.models import Turn
from brunt_web.interface.scale import scale_for
from brunt_web.testing.filling import infill_of
from brunt_web.testing.inputs import computed, full_inputs
from brunt_web.testing.queries import nominal_sizes, siblings_of


class PlausibilityQuestion(InputError):
    """A value outside its plausible band, saved only after the tester has said that it is as typed.

    ``question`` is what has to come back as the answered question.
    """

    def __init__(self, question: str) -> None:
        super().__init__(f"{question} Save it as typed, or change it?", "kept")
        self.question = question


@dataclass
class TriedEntry:
    """A computation, or the sentence that stops it, and what deserves a second look."""

    method: Method
    outcome: str
    place: str = ""
    computation: Computation | None = None
    error: InputError | None = None
    misread: bool = False
    became: dict[str, str] = field(default_factory=dict)
    values: dict[str, float] = field(default_factory=dict)
    rows: dict[str, tuple] = field(default_factory=dict)
    unit_mixup: UnitMixup | None = None
    over_capacity: str = ""
    siblings: list[tuple[str, float]] = field(default_factory=list)
    flag: Flag | None = None
    strip: dict | None = None
    load_part: float | None = None
    ranked: str = ""
    odd_sizes: list[str] = field(default_factory=list)

    @property
    def main(self) -> ComputedResult | None:
        """The result shown large: the one the procedure ranks by, else the first."""
        return self.computation.result(self.ranked) if self.computation else None

    @property
    def ranked_result(self) -> ComputedResult | None:
        """The result of the ranked property, when it could be computed."""
        found = self.main
        return found if found and found.property.key == self.ranked else None

    @property
    def others(self) -> list[ComputedResult]:
        """The other results."""
        return (
            [r for r in self.computation.results if r is not self.main] if self.computation else []
        )


def attempt_result(
    turn: Turn, texts: Mapping[str, str], outcome: str, place: str = ""
) -> TriedEntry:
    """Try to compute with what is typed so far; never raises for what a person typed."""
    method = turn.procedure.method
    ends = outcome if method.outcome(outcome) and outcome != "void" else method.outcomes[0].key
    known = siblings_of(turn, ends)
    tried = TriedEntry(
        method,
        outcome,
        place,
        siblings=[(code, o.anchor) for code, o in known],
        ranked=turn.procedure.ranked_property.key,
    )
    inputs = full_inputs(turn, texts)
    _read_each(tried, inputs, texts)
    tried.odd_sizes = _odd_sizes(tried, turn)
    if tried.error is None:
        try:
            tried.computation = computed(turn, inputs, ends)
            tried.values = {**tried.values, **_plain(tried.computation.values)}
        except InputError as error:
            tried.error = error
    if tried.computation:
        _judge(tried, turn, inputs, ends, [o for _, o in known])
    tried.strip = _strip(tried, turn)
    return tried


def _odd_sizes(tried: TriedEntry, turn: Turn) -> list[str]:
    """Sizes more than a third off what the specimen type says."""
    said = []
    for key, nominal in nominal_sizes(turn).items():
        value = tried.values.get(key)
        if value and not 0.75 < value / nominal < 1.34:
            label = tried.method.input(key).label
            was, should = render(value, "length", "mm"), render(nominal, "length", "mm")
            said.append(f"{label} is {was}; nominal is {should}.")
    return said


def _plain(values: Mapping[str, object]) -> dict[str, float]:
    return {k: v for k, v in values.items() if isinstance(v, float)}


def _read_each(tried: TriedEntry, inputs: Mapping[str, str], typed: Mapping[str, str]) -> None:
    """What each field was read as, and the first typed one that could not be."""
    for spec in inputs_in_own_unit(tried.method, inputs):
        text = (inputs.get(spec.key) or spec.default).strip()
        if not text:
            continue
        try:
            reading = read_input(spec, text, {})
        except InputError as error:
            tried.error = tried.error or error
            tried.misread = tried.misread or bool(typed.get(spec.key))
            continue
        if reading.rows:
            tried.rows[spec.key] = reading.rows
        if not reading.plain:
            continue
        tried.values[spec.key] = reading.si
        means = (
            f"mean of {len(reading.typed.parts)}: "
            if len(reading.typed.parts) > 1 and reading.observation.is_exact
            else ""
        )
        note = f" — {reading.typed.note}" if reading.typed.note else ""
        shown = bounded_text(reading.observation, spec.dimension, spec.unit, 4)
        tried.became[spec.key] = f"= {means}{shown}{note}"


def _judge(
    tried: TriedEntry,
    turn: Turn,
    inputs: Mapping[str, str],
    outcome: str,
    siblings: list[Observation],
) -> None:
    done = tried.computation
    assert done is not None
    material = turn.condition.material
    ranked = turn.procedure.ranked_property
    family_band = band(material.family, ranked.key) if material else None
    exact = [o.anchor for o in siblings if o.is_exact]
    expected = expected_range(family_band, exact, ranked.dimension)
    found = tried.ranked_result
    ends = tried.method.outcome(outcome)
    if found is None or (ends is not None and ends.bound == "zero"):
        return _against_rig(tried, turn)
    sizes = nominal_sizes(turn)
    tried.unit_mixup = find_unit_mixup(done, inputs, outcome, expected, sizes, ranked.key)
    if tried.unit_mixup and material and len(exact) < 2:
        sparse = band(material.family, ranked.key, infill_of(turn.condition, turn.procedure))
        if sparse != family_band:
            wider = expected_range(sparse, exact, ranked.dimension)
            tried.unit_mixup = find_unit_mixup(done, inputs, outcome, wider, sizes, ranked.key)
    own = found.observation
    if own.is_exact:
        flag = odd_one([*exact, own.anchor], found.uncertainty, tried.method.cv)
        tried.flag = flag if flag and flag.index == len(exact) else None
    _against_rig(tried, turn)


def _against_rig(tried: TriedEntry, turn: Turn) -> None:
    rig, spec = turn.on_rig, tried.method.reading
    load = tried.values.get(spec.key)
    if rig is None or not rig.capacity or rig.dimension != spec.dimension or load is None:
        return
    tried.load_part = min(load / rig.capacity, 1.0)
    if load > rig.capacity:
        most = render(rig.capacity, spec.dimension, spec.unit)
        tried.over_capacity = f"More than {rig.name} can hold ({most})."


def _strip(tried: TriedEntry, turn: Turn) -> dict | None:
    """The reading drawn among its siblings."""
    prop = turn.procedure.ranked_property
    own = tried.ranked_result.observation.anchor if tried.ranked_result else None
    values = [v for _, v in tried.siblings] + ([own] if own is not None else [])
    if len(values) < 2:
        return None
    shown = [in_unit(v, prop.dimension, prop.unit) for v in values]
    floor = [0.0] if prop.dimension != "temperature" else []
    scale = scale_for([*floor, *shown], width=324, pad=12)
    x = {v: scale.x(in_unit(v, prop.dimension, prop.unit)) for v in values}
    return {
        "dots": [(x[v], code) for code, v in tried.siblings],
        "own": x.get(own) if own is not None else None,
        "ticks": scale.ticks,
    }
