"""Wall: a single-wall cylinder measured with calipers, and the flow to set."""

from brunt_core.methods.base import (
    LOCAL,
    READ_OUTCOMES,
    Input,
    Method,
    ResultDefinition,
    Values,
)

SET = Input("set_width", "Wall as set", "w_0", "length", "mm", role="fixed")
MEASURED = Input(
    "measured_width",
    "Wall as measured",
    "w",
    "length",
    "mm",
    hint="at several places of the wall, above the first layers",
)
FLOW = Input("flow", "Flow it was printed with", "k_0", "ratio", "%", default="100 %", role="fixed")


def flow_to_set(values: Values) -> object:
    """Flow to set next, k = k₀·w₀/w; dimensionless, widths in one unit.

    Limits: the wall must be one bead wide and not bulged; calipers press soft walls thin.
    Source: volume of a bead of constant height; common practice of setting flow by a single wall.

    >>> round(flow_to_set({"flow": 1.0, "set_width": 0.45e-3, "measured_width": 0.42e-3}), 6)
    1.071429
    """
    return values["flow"] * values["set_width"] / values["measured_width"]


def remarks(values: Values) -> tuple[str, ...]:
    """A wall so far off that something else is wrong."""
    off = values["measured_width"] / values["set_width"] - 1
    if abs(off) > 0.25:
        return (
            f"The wall is {abs(off) * 100:.0f} % {'thicker' if off > 0 else 'thinner'} than set: look for a "
            "clog, slip or a second bead before the flow is changed.",
        )
    return ()


METHOD = Method(
    "wall-flow",
    "Wall and flow",
    "Is the flow ratio right?",
    orientation="upright",
    inputs=(MEASURED, SET, FLOW),
    results=(
        ResultDefinition(
            "flow_correction",
            "k = k_0 · w_0 / w",
            "{flow} · {set_width} / {measured_width}",
            flow_to_set,
            "common practice: the flow is set by a single wall",
            ("flow", "set_width", "measured_width"),
        ),
    ),
    outcomes=READ_OUTCOMES,
    places=(),
    cautions=(LOCAL,),
    drawing="calipers",
    example={"set_width": "0.45", "measured_width": "0.42; 0.43; 0.42", "flow": "100 %"},
    needs_section=False,
    check=remarks,
    destroys=False,
    cv=0.03,
    minutes=3.0,
)
