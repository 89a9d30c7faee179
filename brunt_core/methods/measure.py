"""Measure: the tester's own quantity, with its name, unit and direction of better."""

from brunt_core.methods.base import (
    LOCAL,
    READ,
    VOID,
    Input,
    Method,
    Outcome,
    ResultDefinition,
    chosen,
    worded,
)

VALUE = Input("value", "Value", "x", "number", "", bounded=True, least="any")
NAME = worded("name", "Quantity", required=True, hint="Hardness")
UNIT = worded("unit", "Unit")
BETTER = chosen("better", "Better is", (("higher", "higher"), ("lower", "lower")), "higher")
HOW = worded("how", "How it is done")

METHOD = Method(
    "measure",
    "Own measurement",
    "Anything else that has a number",
    orientation="flat",
    inputs=(VALUE, NAME, UNIT, BETTER, HOW),
    results=(
        ResultDefinition(
            "own_quantity",
            "x = x",
            "{value}",
            lambda v: v["value"],
            "as the tester's own procedure says",
            ("value", "name"),
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
