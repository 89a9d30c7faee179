"""Impact, relative: a drop hammer's dial with and without a specimen; figures for this rig alone."""

from brunt_core.methods.base import (
    FRAGMENTS,
    LOCAL,
    VOID,
    WEIGHTS,
    Input,
    Method,
    ResultDefinition,
    Values,
    nominal,
)
from brunt_core.methods.impact import OUTCOMES

WITH = Input("dial_with", "Dial with the bar", "r", "number", "", least="zero")
FREE = Input("dial_free", "Dial of the free swing", "r_0", "number", "", role="fixed")


def swing_lost(values: Values) -> object:
    """Part of the free swing lost to the bar, q = (r0 − r) / r0; never below zero. Dimensionless.

    Parameters: dial readings ``dial_with`` and ``dial_free`` in the dial's own marks.
    Limits: compares bars on one rig only. Source: common practice, no source.

    >>> swing_lost({"dial_with": 30.0, "dial_free": 120.0})
    0.75
    """
    lost = (values["dial_free"] - values["dial_with"]) / values["dial_free"]
    return lost if nominal(lost) > 0 else lost * 0


def remarks(values: Values) -> tuple[str, ...]:
    """A dial above its free swing is a misreading."""
    if values["dial_with"] > values["dial_free"]:
        return ("The dial reads above its free swing: read again. The loss counts as zero.",)
    return ()


METHOD = Method(
    "impact-relative",
    "Impact, relative dial",
    "Which bar absorbs more of the swing?",
    orientation="flat",
    inputs=(WITH, FREE),
    results=(
        ResultDefinition(
            "swing_lost",
            "q = (r_0 − r) / r_0",
            "({dial_free} − {dial_with}) / {dial_free}",
            swing_lost,
            "common practice, no source: relative to this rig's own free swing",
            ("dial_free", "dial_with"),
        ),
    ),
    outcomes=tuple(o for o in OUTCOMES if o != VOID) + (VOID,),
    places=(),
    cautions=(WEIGHTS, FRAGMENTS, LOCAL),
    drawing="dial",
    example={
        "dial_free": "100",
        "dial_with": "62",
    },
    needs_section=False,
    check=remarks,
    apart=True,
)
