"""Measure: the tester's own quantity, with its name, unit and direction of better."""

from brunt_core.errors import InputError
from brunt_core.methods.base import (
    LOCAL,
    READ,
    VOID,
    Input,
    Method,
    Outcome,
    ResultDefinition,
    Values,
    fixed_choice,
    nominal,
    worded,
)

VALUE = Input("value", "Value", "x", "number", "", bounded=True, least="any")
BEFORE = Input("before", "Value before", "x_0", "number", "", required=False, least="any")
COMPARED = fixed_choice(
    "compared",
    "Compared is",
    (
        ("value", "the value"),
        ("change", "its change, after less before"),
        ("percent", "its change in per cent of before"),
    ),
    "value",
)
NAME = worded("name", "Quantity", required=True, hint="Hardness")
UNIT = worded("unit", "Unit")
BETTER = fixed_choice("better", "Better is", (("higher", "higher"), ("lower", "lower")), "higher")
HOW = worded("how", "How it is done")


def relative_change(values: Values) -> object:
    """Change in per cent of the value before, 100·(x − x0)/x0; any unit. Source: definition.

    >>> relative_change({"value": 9.0, "before": 10.0})
    -10.0
    """
    if nominal(values["before"]) == 0:
        raise InputError("The value before is nothing: no change in per cent of it.", "before")
    return 100 * (values["value"] - values["before"]) / values["before"]


METHOD = Method(
    "measure",
    "Custom measurement",
    "Anything else that has a number",
    orientation="flat",
    inputs=(VALUE, BEFORE, NAME, UNIT, BETTER, COMPARED, HOW),
    results=(
        ResultDefinition(
            "own_quantity",
            "x = x",
            "{value}",
            lambda v: v["value"],
            "as the tester's own procedure says",
            ("value", "name", "compared=value"),
        ),
        ResultDefinition(
            "own_quantity",
            "Δx = x − x_0",
            "{value} − {before}",
            lambda v: v["value"] - v["before"],
            "difference of two readings of one specimen",
            ("value", "before", "name", "compared=change"),
        ),
        ResultDefinition(
            "own_quantity",
            "Δx/x_0 = 100 · (x − x_0) / x_0",
            "100 · ({value} − {before}) / {before}",
            relative_change,
            "difference of two readings of one specimen over the first",
            ("value", "before", "name", "compared=percent"),
        ),
    ),
    outcomes=(READ, Outcome("limit", "end of the scale", "L", "at_least"), VOID),
    places=(),
    cautions=(LOCAL,),
    drawing="gauge",
    example={
        "name": "Hardness",
        "unit": "Shore D",
        "better": "higher",
        "how": "durometer on a flat plate, five places, the middle one",
        "value": "78",
    },
    needs_section=False,
    own_property=True,
    destroys=False,
)
