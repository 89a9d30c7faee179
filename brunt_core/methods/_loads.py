"""What a hook and a real part share: a load that a fixed shape carries, not a stress."""

from brunt_core.methods.base import (
    BREAK_OUTCOMES,
    CRACKED,
    FRAGMENTS,
    LOCAL,
    WEIGHTS,
    Input,
    Method,
    Mode,
    Place,
    ResultDefinition,
    Values,
)

FORCE = Input(
    "force",
    "Peak load",
    "F",
    "force",
    "N",
    bounded=True,
    hint="6 .. 8 kgf when it held 6 and failed on adding 2",
    aliases=("load", "peak_load"),
)
YIELD = Input("yield_force", "Load at first yield", "F_y", "force", "N", required=False)
MASS = Input("mass", "Mass of the piece", "m", "mass", "g", required=False, role="size")
REFERENCE = Input(
    "reference_force", "Reference load", "F_ref", "force", "N", required=False, role="fixed"
)
RAISED = Input(
    "stress_per_load",
    "Stress a newton raises",
    "k",
    "stress_per_force",
    "MPa/N",
    required=False,
    role="fixed",
    hint="empty: from the part's own section",
)
SOURCE = "common practice, no source: the load itself, of one fixed shape"


def percent_of_reference(values: Values) -> object:
    """Load as a fraction of a reference piece's, q = F / F_ref. Newtons in; dimensionless out.

    Limits: same shape, rig and speed. Source: common practice, no source.

    >>> percent_of_reference({"force": 300.0, "reference_force": 400.0})
    0.75
    """
    return values["force"] / values["reference_force"]


def load_per_mass(values: Values) -> object:
    """Load carried per mass of the piece, F / m, in N/kg from N and kg.

    Source: common practice, no source (specific load).

    >>> load_per_mass({"force": 300.0, "mass": 0.02})
    15000.0
    """
    return values["force"] / values["mass"]


def section_stress(values: Values) -> object:
    """Largest normal stress at a section of interest, σ = F·k.

    ``force`` in N; ``stress_per_load`` k in 1/m², what a newton raises there by the theory of beams.
    Returns Pa. Limits: small deflection, elastic, without the rise at corners and holes, held beyond the
    section. Source: any handbook, unsymmetrical bending (see ``brunt_core.parts.sections``).

    >>> section_stress({"force": 100.0, "stress_per_load": 1.875e6}) / 1e6
    187.5
    """
    return values["force"] * values["stress_per_load"]


RESULTS = (
    ResultDefinition("peak_load", "F = F_max", "{force}", lambda v: v["force"], SOURCE, ("force",)),
    ResultDefinition(
        "yield_load",
        "F_y = F at first yield",
        "{yield_force}",
        lambda v: v["yield_force"],
        "common practice, no source: a joint that starts to yield is good only to that load",
        ("yield_force",),
    ),
    ResultDefinition(
        "percent_of_reference",
        "q = F / F_ref",
        "{force} / {reference_force}",
        percent_of_reference,
        "common practice, no source",
        ("force", "reference_force"),
    ),
    ResultDefinition(
        "section_stress",
        "σ_s = F · k",
        "{force} · {stress_per_load}",
        section_stress,
        "any handbook, unsymmetrical bending of a beam held beyond the section",
        ("force", "stress_per_load"),
    ),
    ResultDefinition(
        "load_per_gram",
        "F / m",
        "{force} / {mass}",
        load_per_mass,
        "common practice, no source",
        ("force", "mass"),
    ),
)


def carried(
    key: str,
    name: str,
    question: str,
    places: tuple[Place, ...],
    failures: tuple[Mode, ...],
    drawing: str,
    example: Values,
) -> Method:
    """A method whose result is the load itself."""
    return Method(
        key,
        name,
        question,
        orientation="flat",
        inputs=(FORCE, YIELD, MASS, REFERENCE, RAISED),
        results=RESULTS,
        outcomes=(*BREAK_OUTCOMES, CRACKED),
        places=places,
        cautions=(FRAGMENTS, WEIGHTS, LOCAL),
        drawing=drawing,
        example=example,
        modes=failures,
        needs_section=False,
        curve={"peak_load": "force", "yield_load": "yield_force"},
    )
