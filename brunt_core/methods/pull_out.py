"""Pull-out: a screw's direct thread or a heat-set insert pulled from a block."""

from math import pi

from brunt_core.methods.base import (
    BREAK_OUTCOMES,
    CRACKED,
    FRAGMENTS,
    LOCAL,
    PEAK_LOAD,
    Input,
    Method,
    Place,
    ResultDefinition,
    Values,
    fixed_choice,
    modes,
)

YIELD = Input("yield_force", "Load at first slip", "F_y", "force", "N", required=False)
JOINT = fixed_choice(
    "joint", "Joint", (("insert", "heat-set insert"), ("thread", "direct thread")), "insert"
)
INSERTION = Input(
    "insertion_temperature",
    "Insertion temperature",
    "T_i",
    "temperature",
    "°C",
    required=False,
    role="fixed",
    least="any",
)
HOLE = Input(
    "hole_diameter", "Thread or insert diameter", "d", "length", "mm", required=False, role="fixed"
)
DEPTH = Input("engagement", "Engaged length", "l", "length", "mm", required=False, role="fixed")


def thread_shear(values: Values) -> object:
    """Mean shear stress on the cylinder round the joint, τ = F / (π·d·l).

    Parameters: ``force`` N, ``hole_diameter`` d and ``engagement`` l in m. Returns Pa. Limits: a
    nominal figure that lets unlike sizes be compared. Source: any handbook, stripping of threads.

    >>> v = {"force": 4000.0, "hole_diameter": 0.0254, "engagement": 0.0032}
    >>> round(thread_shear(v) / 1e6, 5)
    15.66486
    """
    return values["force"] / (pi * values["hole_diameter"] * values["engagement"])


METHOD = Method(
    "pull-out",
    "Pull-out",
    "What pulls the insert or the thread out?",
    orientation="flat",
    inputs=(PEAK_LOAD, YIELD, JOINT, INSERTION, HOLE, DEPTH),
    results=(
        ResultDefinition(
            "pull_out_load",
            "F = F_max",
            "{force}",
            lambda v: v["force"],
            "common practice, no source: the load itself, of one joint",
            ("force",),
        ),
        ResultDefinition(
            "yield_load",
            "F_y = F at first slip",
            "{yield_force}",
            lambda v: v["yield_force"],
            "common practice, no source: good only to where it starts to yield",
            ("yield_force",),
        ),
        ResultDefinition(
            "thread_shear_stress",
            "τ = F / (π · d · l)",
            "{force} / (π · {hole_diameter} · {engagement})",
            thread_shear,
            "any handbook of machine elements, stripping of threads",
            ("force", "hole_diameter", "engagement"),
        ),
    ),
    outcomes=(*BREAK_OUTCOMES, CRACKED),
    places=(Place("joint", "at the joint", "G", 0.8), Place("block", "in the block", "O", 0.35)),
    cautions=(
        "Setting inserts: the iron is at 300 °C and more; ventilate, and keep fingers off the brass.",
        FRAGMENTS,
        LOCAL,
    ),
    drawing="insert",
    example={
        "joint": "insert",
        "force": "820 N",
        "insertion_temperature": "240",
    },
    modes=modes(
        "insert came out",
        "insert turned",
        "thread stripped",
        "layers split",
        "screw broke",
        "rig stalled",
    ),
    needs_section=False,
    curve={"peak_load": "force", "yield_load": "yield_force"},
)
