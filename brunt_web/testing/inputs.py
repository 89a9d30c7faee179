"""What a computation starts from: fixed by the procedure, set by the condition, measured, typed."""

from collections.abc import Mapping

from brunt_web.campaigns.models import Turn
from brunt_web.testing.marks import marks_for


def full_inputs(turn: Turn, typed: Mapping[str, str]) -> dict[str, str]:
    """What the procedure fixes, what was measured before, and what is typed, the later first."""
    known = turn.procedure.parameters | level_texts(turn)
    inputs = {k: v for k, v in typed.items() if v.strip()}
    wanted = [
        i.key
        for i in turn.procedure.method.inputs
        if (i.section or i.role == "size") and i.key not in inputs
    ]
    if wanted and not any(i.section and i.key in inputs for i in turn.procedure.method.inputs):
        known |= {k: m.text for k, m in marks_for(turn).items() if k in wanted}
    return known | inputs


def level_texts(turn: Turn) -> dict[str, str]:
    """Inputs that the condition's levels set: a factor called as the input is labelled."""
    given = turn.procedure.parameters
    left = [i for i in turn.procedure.method.fixed if i.plain and i.key not in given]
    words = turn.condition.level_words if left else {}
    return {i.key: words[i.label.lower()] for i in left if i.label.lower() in words}
