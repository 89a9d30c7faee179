"""Cantilever: a bar fixed at one end, loaded at a fixed reach, read at a set time."""

from brunt_core.methods._beams import beam_modulus, cantilever_stress
from brunt_core.methods.base import (
    BETWEEN,
    BROKE,
    HELD,
    LIMIT,
    LOCAL,
    SECTION_INPUTS,
    VOID,
    WEIGHTS,
    Derived,
    Input,
    Method,
    Place,
    ResultDefinition,
    Values,
    modes,
)

BREAK = Input("break_force", "Load at break", "F_b", "force", "N", required=False, bounded=True)
FORCE = Input(
    "force",
    "Load hung",
    "F",
    "force",
    "N",
    required=False,
    bounded=True,
    role="fixed",
    aliases=("load",),
)
REACH = Input(
    "reach", "Reach", "L", "length", "mm", role="fixed", aliases=("length", "span", "arm")
)
DEFLECTION = Input(
    "deflection", "Deflection at the load", "δ", "length", "mm", required=False, timed=True
)


def cantilever_modulus(values: Values) -> object:
    """Modulus from load and deflection at the end, E = F·L³ / (3·I·δ).

    Parameters: ``force`` N, ``reach`` m, ``second_moment`` m⁴, ``deflection`` m. Returns Pa.
    Limits: small deflection, stiff clamp; creep up to the reading counts as give.
    Source: any handbook of beams (tip deflection FL³/3EI).

    >>> v = {"force": 5.0, "reach": 0.05, "second_moment": 0.01 * 0.004**3 / 12}
    >>> round(cantilever_modulus({**v, "deflection": 0.0015625}) / 1e6, 6)
    2500.0
    """
    slope = values["force"] / values["deflection"]
    return beam_modulus(
        {
            "span": values["reach"],
            "slope": slope,
            "second_moment": values["second_moment"],
            "beam_factor": 3,
        }
    )


def break_moment(values: Values) -> object:
    """Moment at the root at break, M = F_b · L, N·m from N and m. Source: statics.

    >>> break_moment({"break_force": 20.0, "reach": 0.05})
    1.0
    """
    return values["break_force"] * values["reach"]


def remarks(values: Values) -> tuple[str, ...]:
    """A deflection above a tenth of the reach is no longer small."""
    if values.get("deflection", 0.0) > 0.1 * values["reach"]:
        return ("The deflection is above 10 % of the reach: the modulus reads high.",)
    return ()


_SOURCE = "any handbook of beams, cantilever with a load at its end"

METHOD = Method(
    "cantilever",
    "Cantilever bending",
    "How stiff and how strong is it, fixed at one end?",
    orientation="flat",
    inputs=(BREAK, FORCE, REACH, DEFLECTION, *SECTION_INPUTS),
    results=(
        ResultDefinition(
            "bending_stress",
            "σ = F_b · L / W",
            "{break_force} · {reach} / {bending_modulus}",
            lambda v: cantilever_stress({**v, "force": v["break_force"]}),
            _SOURCE,
            ("break_force", "reach", "bending_modulus"),
        ),
        ResultDefinition(
            "bending_stress",
            "σ = F · L / W",
            "{force} · {reach} / {bending_modulus}",
            cantilever_stress,
            _SOURCE,
            ("force", "reach", "bending_modulus"),
        ),
        ResultDefinition(
            "flexural_modulus",
            "E = F · L³ / (3 · I · δ)",
            "{force} · ({reach})³ / (3 · {second_moment} · {deflection})",
            cantilever_modulus,
            _SOURCE,
            ("force", "reach", "second_moment", "deflection"),
            bounded=False,
        ),
        ResultDefinition(
            "deflection_under_load",
            "δ(F, t)",
            "{deflection} under {force}",
            lambda v: v["deflection"],
            "as read",
            ("force", "deflection"),
            bounded=False,
        ),
        ResultDefinition(
            "break_moment",
            "M = F_b · L",
            "{break_force} · {reach}",
            break_moment,
            "statics",
            ("break_force", "reach"),
        ),
    ),
    outcomes=(HELD, BROKE, LIMIT, BETWEEN, VOID),
    places=(
        Place("root", "at the clamp", "K", 0.12),
        Place("along", "along the bar", "G", 0.45),
        Place("at_load", "at the load", "E", 0.85, "the load's own notch broke it"),
    ),
    cautions=(WEIGHTS, LOCAL),
    drawing="cantilever",
    example={
        "reach": "50 mm",
        "force": "1 kgf",
        "width": "10.02",
        "thickness": "4.01",
        "deflection": "2.4",
    },
    derived=(
        Derived(
            "bar_stiffness",
            "m = F / δ",
            "{force} / {deflection}",
            compute=lambda v: v["force"] / v["deflection"],
            needs=("force", "deflection"),
            dimension="stiffness",
            unit="N/mm",
        ),
    ),
    modes=modes("clean break", "layers split", "bent without breaking", "flaw"),
    check=remarks,
    destroys=False,
    cv=0.05,
    minutes=3.0,
)
