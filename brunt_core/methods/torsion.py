"""Torsion: a rod or bar twisted to break, or through a right angle."""

from brunt_core.methods.base import (
    BREAK_OUTCOMES,
    FRAGMENTS,
    LOCAL,
    SECTION_INPUTS,
    Input,
    Method,
    Place,
    ResultDefinition,
    Values,
    modes,
)

TORQUE = Input(
    "torque", "Peak torque", "T", "torque", "N·m", bounded=True, aliases=("peak_torque",)
)
AT_90 = Input("torque_at_90", "Torque at 90°", "T_90", "torque", "N·m", required=False)
BREAK_ANGLE = Input("angle_at_break", "Angle at break", "φ_b", "angle", "°", required=False)
EARLY = Input("elastic_torque", "Torque early on", "T_e", "torque", "N·m", required=False)
ANGLE = Input("elastic_angle", "Angle at that torque", "θ", "angle", "°", required=False)
LENGTH = Input(
    "length",
    "Twisted length",
    "L",
    "length",
    "mm",
    required=False,
    role="fixed",
    aliases=("gauge_length",),
)


def torsional_stress(values: Values) -> object:
    """Largest shear stress in torsion, τ = T / W_t.

    Parameters: ``torque`` T in N·m; ``torsion_modulus`` W_t in m³: π·d³/16 for a rod, α·b·t² for
    a rectangle by the exact series. Returns Pa. Limits: elastic stress distribution up to peak, so
    nominal after yield; isotropic. Source: any handbook of strength of materials.

    >>> from math import pi
    >>> round(torsional_stress({"torque": 2.0, "torsion_modulus": pi * 0.008**3 / 16}) / 1e6, 5)
    19.89437
    """
    return values["torque"] / values["torsion_modulus"]


def shear_modulus(values: Values) -> object:
    """Shear modulus from an early torque and its angle, G = T_e·L / (J·θ).

    Parameters: ``elastic_torque`` N·m, ``length`` m, ``torsion_constant`` m⁴, ``elastic_angle``
    rad. Returns Pa. Limits: elastic; the angle of the twisted length alone. Source: any handbook.

    >>> from math import pi
    >>> v = {"elastic_torque": 2.0, "length": 0.1, "torsion_constant": pi * 0.008**4 / 32}
    >>> round(shear_modulus({**v, "elastic_angle": 0.5526213}) / 1e6, 3)
    900.0
    """
    return (
        values["elastic_torque"]
        * values["length"]
        / (values["torsion_constant"] * values["elastic_angle"])
    )


def remarks(values: Values) -> tuple[str, ...]:
    """A torque at 90° above the peak is impossible."""
    if values.get("torque_at_90", 0.0) > values["torque"] * (1 + 1e-9):
        return ("The torque at 90° is above the peak: one of the two is misread.",)
    return ()


_SOURCE = "any handbook of strength of materials; rectangles by the exact series"

METHOD = Method(
    "torsion",
    "Torsion",
    "How much twist does it take?",
    orientation="flat",
    inputs=(TORQUE, AT_90, BREAK_ANGLE, EARLY, ANGLE, LENGTH, *SECTION_INPUTS),
    results=(
        ResultDefinition(
            "torsional_strength",
            "τ = T / W_t",
            "{torque} / {torsion_modulus}",
            torsional_stress,
            _SOURCE,
            ("torque", "torsion_modulus"),
        ),
        ResultDefinition(
            "peak_torque",
            "T = T_max",
            "{torque}",
            lambda v: v["torque"],
            "as read: joints and rails compare in N·m against a continuous piece",
            ("torque",),
        ),
        ResultDefinition(
            "torsional_stress_at_90",
            "τ_90 = T_90 / W_t",
            "{torque_at_90} / {torsion_modulus}",
            lambda v: torsional_stress({**v, "torque": v["torque_at_90"]}),
            _SOURCE,
            ("torque_at_90", "torsion_modulus"),
        ),
        ResultDefinition(
            "shear_modulus",
            "G = T_e · L / (J · θ)",
            "{elastic_torque} · {length} / ({torsion_constant} · {elastic_angle})",
            shear_modulus,
            _SOURCE,
            ("elastic_torque", "length", "torsion_constant", "elastic_angle"),
        ),
        ResultDefinition(
            "break_angle",
            "φ_b = angle at break",
            "{angle_at_break}",
            lambda v: v["angle_at_break"],
            "as read",
            ("angle_at_break",),
            at_end=True,
        ),
    ),
    outcomes=BREAK_OUTCOMES,
    places=(
        Place("upper_grip", "upper grip", "K", 0.90, "a break in the grip says little of the rod"),
        Place("upper_fillet", "upper shoulder", "F", 0.76, "a break at the shoulder reads low"),
        Place("gauge", "twisted length", "G", 0.5),
        Place("lower_fillet", "lower shoulder", "R", 0.24, "a break at the shoulder reads low"),
        Place("lower_grip", "lower grip", "J", 0.10, "a break in the grip says little of the rod"),
    ),
    cautions=(FRAGMENTS, "Hold the lever so that a sudden break does not throw your hand.", LOCAL),
    drawing="rod",
    example={
        "length": "60 mm",
        "diameter": "8.02",
        "torque": "3.6",
        "torque_at_90": "3.4",
        "angle_at_break": "200",
    },
    modes=modes(
        "helix along 45°",
        "square across",
        "layers parted",
        "splintered",
        "twisted without breaking",
    ),
    needs_section=False,
    check=remarks,
    cv=0.07,
    minutes=6.0,
)
