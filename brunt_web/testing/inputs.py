"""What a computation starts from: fixed by the procedure, set by the condition, measured, typed, assumed."""

from collections.abc import Iterable, Mapping, Sequence
from statistics import fmean, stdev

from brunt_core.computation import Computation, compute
from brunt_core.quantities import in_unit
from brunt_core.specimens.types import SpecimenType
from brunt_web.campaigns.models import Specimen, Turn
from brunt_web.library.models import Procedure
from brunt_web.testing.day import daily_texts
from brunt_web.testing.instruments import instruments_for
from brunt_web.testing.marks import latest, marks_at, marks_for

# How far a printed size is off what was drawn, as a standard uncertainty, and the least that the
# variation of a few measured ones leaves open (common practice, no source).
NOMINAL_OFF, BATCH_OFF = 0.1, 0.03


def full_inputs(turn: Turn, typed: Mapping[str, str]) -> dict[str, str]:
    """What the procedure fixes, what was measured before, and what is typed, the later first.

    Where the procedure takes sizes as drawn, or from some of the batch, those that were neither
    typed nor measured are filled in with the uncertainty that goes with it.
    """
    known = of_part(turn) | turn.procedure.parameters | level_texts(turn) | daily_texts(turn)
    inputs = {k: v for k, v in typed.items() if v.strip()}
    wanted = [
        i.key
        for i in turn.procedure.method.inputs
        if (i.section or i.role == "size") and i.key not in inputs
    ]
    if wanted and not any(i.section and i.key in inputs for i in turn.procedure.method.inputs):
        marks = {k: m.text for k, m in marks_for(turn).items() if k in wanted}
        known |= marks
        if not has_section(turn.procedure, {*marks, *known}):
            known |= assumed_for(turn)
    return known | inputs


def computed(turn: Turn, inputs: Mapping[str, str], outcome: str) -> Computation:
    """What its inputs come to, computed once while the turn is in hand and nothing of it changes.

    Raises :class:`InputError` as :func:`brunt_core.computation.compute` does. An empty ``outcome`` is
    the method's first.
    """
    method = turn.procedure.method
    on = turn.on_rig
    asked = (dict(inputs), outcome or method.outcomes[0].key, on.pk if on else None)
    known: tuple[tuple, Computation] | None = vars(turn).get("computed")
    if known is None or known[0] != asked:
        done = compute(method, inputs, asked[1], instruments_for(turn))
        known = vars(turn)["computed"] = (asked, done)
    return known[1]


def of_part(turn: Turn) -> dict[str, str]:
    """What a custom part's section says, where the method asks for it."""
    part = turn.geometry.part
    if part is None or part.stress_per_load is None:
        return {}
    asked = {i.key for i in turn.procedure.method.fixed}
    raised = in_unit(part.stress_per_load, "stress_per_force", "MPa/N")
    return {"stress_per_load": f"{raised:.6g} MPa/N"} if "stress_per_load" in asked else {}


def has_section(procedure: Procedure, keys: Iterable[str]) -> bool:
    """Whether some of these are sizes of a section."""
    return any(i.section and i.key in set(keys) for i in procedure.method.inputs)


def assumed_for(turn: Turn) -> dict[str, str]:
    """A turn's sizes as its procedure takes them unmeasured, read once while it is in hand."""
    if turn.procedure.sizes == "each":
        return {}
    known: dict[str, str] | None = vars(turn).get("assumed_sizes")
    if known is None:
        measured = _measured_beside(turn) if turn.procedure.sizes == "batch" else []
        known = assumed_sizes(turn.procedure, turn.geometry, measured)
        vars(turn)["assumed_sizes"] = known
    return known


def assumed_sizes(
    procedure: Procedure, geometry: SpecimenType, measured: Sequence[Mapping[str, float]]
) -> dict[str, str]:
    """Sizes that were not measured, as text with their uncertainty: the mean of those measured in the
    batch (m), else the drawing's. Empty where the procedure wants each measured.
    """
    if procedure.sizes == "each":
        return {}
    sections = {i.key for i in procedure.method.inputs if i.section}
    found = {}
    for key, nominal in geometry.nominal.items():
        if key not in sections:
            continue
        sizes = [m[key] * 1e3 for m in measured if key in m]
        if procedure.sizes == "batch" and sizes:
            off = max(stdev(sizes) if len(sizes) > 1 else NOMINAL_OFF, BATCH_OFF)
            found[key] = f"{fmean(sizes):.3f} ± {off:.2g} mm"
        elif procedure.sizes == "nominal":
            found[key] = f"{nominal:g} ± {NOMINAL_OFF:g} mm"
    return found


def _measured_beside(turn: Turn) -> list[dict[str, float]]:
    """The sizes of the specimens of its condition and procedure that were measured."""
    beside = Specimen.objects.filter(
        condition_id=turn.condition_id, procedure_id=turn.specimen.procedure_id
    ).exclude(pk=turn.specimen_id)
    rows = marks_at(list(beside)).values()
    return [{k: m.value for k, m in latest(marks).items()} for marks in rows if marks]


def level_texts(turn: Turn) -> dict[str, str]:
    """Inputs that the condition's levels set: a factor called as the input is labelled.

    Read once while the turn is in hand; no query where the method leaves nothing to them.
    """
    given = turn.procedure.parameters
    left = [i for i in turn.procedure.method.fixed if i.plain and i.key not in given]
    if not left:
        return {}
    words: dict[str, str] | None = vars(turn).get("level_words")
    if words is None:
        words = vars(turn)["level_words"] = turn.condition.level_words
    return {i.key: words[i.label.lower()] for i in left if i.label.lower() in words}
