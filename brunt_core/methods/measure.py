"""Measure: the tester's own quantity, with its name, unit and direction of better."""

from brunt_core.methods.base import LOCAL, READ, VOID, Input, Method, Outcome, ResultDefinition

VALUE = Input("value", "Value", "x", "number", "", bounded=True, least="any")
NAME = Input("name", "Quantity", "", "text", "", role="fixed", kind="text", hint="Hardness")
UNIT = Input("unit", "Unit", "", "text", "", required=False, role="fixed", kind="text")
BETTER = Input(
    "better",
    "Better is",
    "",
    "text",
    "",
    required=False,
    role="fixed",
    kind="choice",
    choices=(("higher", "higher"), ("lower", "lower")),
    default="higher",
)
HOW = Input("how", "How it is done", "", "text", "", required=False, role="fixed", kind="text")

METHOD = Method(
    "measure",
    "Own measurement",
    "Anything else that has a number",
    "flat",
    (VALUE, NAME, UNIT, BETTER, HOW),
    (
        ResultDefinition(
            "own_quantity",
            "x = x",
            "{value}",
            lambda v: v["value"],
            "as the tester's own procedure says",
            ("value", "name"),
        ),
    ),
    (READ, Outcome("limit", "end of the scale", "L", "at_least"), VOID),
    (),
    (LOCAL,),
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
)
