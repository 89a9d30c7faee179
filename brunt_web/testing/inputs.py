"""What a computation starts from: fixed by the procedure, set by the condition, measured, typed."""

from collections.abc import Mapping

from brunt_web.campaigns.models import Specimen


def full_inputs(specimen: Specimen, typed: Mapping[str, str]) -> dict[str, str]:
    """What the procedure fixes, what was measured before, and what is typed, the later first."""
    known = specimen.procedure.parameters | level_texts(specimen)
    inputs = {k: v for k, v in typed.items() if v.strip()}
    wanted = [
        i.key
        for i in specimen.procedure.method.inputs
        if (i.section or i.role == "size") and i.key not in inputs
    ]
    if wanted and not any(i.section and i.key in inputs for i in specimen.procedure.method.inputs):
        known |= {m.key: m.text for m in specimen.measurements.all() if m.key in wanted}
    return known | inputs


def level_texts(specimen: Specimen) -> dict[str, str]:
    """Inputs that the condition's levels set: a factor called as the input is labelled."""
    given = specimen.procedure.parameters
    left = [i for i in specimen.procedure.method.fixed if i.plain and i.key not in given]
    words = specimen.condition.level_words if left else {}
    return {i.key: words[i.label.lower()] for i in left if i.label.lower() in words}
