"""Impact: a pendulum hammer breaks a bar; the energy it lost on the way."""

from collections.abc import Mapping
from math import cos, degrees, pi

from uncertainties import umath

from brunt_core.errors import InputError
from brunt_core.methods.base import (
    FIBRES,
    FRAGMENTS,
    LIMIT,
    LOCAL,
    SECTION_INPUTS,
    VOID,
    Derived,
    Input,
    Method,
    Outcome,
    Place,
    ResultDefinition,
    Values,
    fixed_choice,
    modes,
    nominal,
)

STANDARD_GRAVITY = 9.80665
KILOGRAMS_A_POUND = 0.45359237
MASS = Input("hammer_mass", "Hammer mass", "m", "mass", "kg", required=False, role="fixed")
ARM = Input(
    "hammer_arm", "Arm to the centre of mass", "L", "length", "mm", required=False, role="fixed"
)
ENERGY = Input(
    "hammer_energy", "Calibrated energy", "E_0", "energy", "J", required=False, role="fixed"
)
START = Input("start_angle", "Start angle", "α", "angle", "°", role="fixed", daily=True)
END = Input("end_angle", "End angle", "β", "angle", "°", least="zero")
FREE = Input(
    "free_end_angle",
    "Free-swing end angle",
    "β_0",
    "angle",
    "°",
    required=False,
    role="fixed",
    daily=True,
)
LOSS = fixed_choice(
    "loss_rule",
    "Free-swing loss",
    (
        ("arc", "shared by the arc swept"),
        ("whole", "taken off whole"),
        ("none", "not taken off"),
    ),
    "arc",
)
BAR = fixed_choice(
    "bar",
    "Bar",
    (("supported", "supported at both ends"), ("cantilever", "cantilever")),
    "supported",
)
NOTCH = fixed_choice(
    "notch",
    "Notch",
    (
        ("none", "no notch"),
        ("A", "notch A, 0.25 mm"),
        ("B", "notch B, 1 mm"),
        ("own", "own"),
    ),
    "none",
)
_LEFT_AT_MOST = 8.8e-3
OUTCOMES = (
    Outcome("broke", "complete", "C", "exact"),
    Outcome("hinged", "hinged", "H", "exact"),
    Outcome("partial", "partial", "P", "exact"),
    Outcome("held", "no break", "N", "at_least", breaks=False),
    LIMIT,
    VOID,
)


def hammer_moment(values: Values) -> object:
    """Weight moment of the hammer about its pivot, M = m·g·L; N·m from kg and m.

    Limits: L to the centre of mass of the whole swinging part. Source: statics; g = 9.80665 m/s².

    >>> round(hammer_moment({"hammer_mass": 1.0, "hammer_arm": 0.3}), 6)
    2.941995
    """
    return values["hammer_mass"] * STANDARD_GRAVITY * values["hammer_arm"]


def moment_from_energy(values: Values) -> object:
    """The same from the energy stored at the start, M = E0 / (1 − cos α). J and rad.

    >>> round(moment_from_energy({"hammer_energy": 5.195694, "start_angle": 2.443461}), 5)
    2.94199
    """
    return values["hammer_energy"] / (1 - umath.cos(values["start_angle"]))


def free_loss(values: Values) -> object:
    """Energy a free swing loses to friction and air, M·(cos β0 − cos α); J."""
    cos = umath.cos
    return values["hammer_moment"] * (cos(values["free_end_angle"]) - cos(values["start_angle"]))


def arc_loss(values: Values) -> object:
    """Share of the free-swing loss by the arc swept, W_l = E_f·(α + β)/(α + β0); J, angles in rad.

    Source: the share rule of ISO 13802 and ASTM D256 in its simplest form (recalled).
    """
    swept = values["start_angle"] + values["end_angle"]
    return free_loss(values) * swept / (values["start_angle"] + values["free_end_angle"])  # type: ignore[operator]


def absorbed(values: Values) -> object:
    """Energy absorbed by the bar, W = M·(cos β − cos α) − W_l; never below zero.

    Parameters: ``hammer_moment`` N·m, angles in rad from hanging, ``swing_loss`` J. Returns J.
    Limits: the swing above the free swing is a misreading and counts as nothing.
    Source: conservation of energy; ISO 13802, ASTM D256.

    >>> from math import radians
    >>> v = {"hammer_moment": 2.941995, "start_angle": radians(140), "end_angle": radians(110)}
    >>> round(absorbed({**v, "swing_loss": 0.0605850}), 6)
    1.186892
    """
    cos = umath.cos
    swung = values["hammer_moment"] * (cos(values["end_angle"]) - cos(values["start_angle"]))
    net = swung - values["swing_loss"]
    return net if nominal(net) > 0 else net * 0


def per_area(values: Values) -> object:
    """Impact strength, a = W / A; J/m² from J and m². A is the section left at the notch.

    Source: ISO 179-1, ISO 180.

    >>> round(per_area({"absorbed_energy": 1.186892, "area": 40e-6}) / 1e3, 4)
    29.6723
    """
    return values["absorbed_energy"] / values["area"]


def per_thickness(values: Values) -> object:
    """Energy per thickness, a_t = W / h; J/m from J and m. Source: ASTM D256, D6110.

    >>> round(per_thickness({"absorbed_energy": 1.186892, "thickness": 0.004}), 3)
    296.723
    """
    return values["absorbed_energy"] / values["thickness"]


def remarks(values: Mapping[str, float]) -> tuple[str, ...]:
    """Misreadings of the pointer, and a hammer too strong or too weak for the bar."""
    said = []
    start, end = values["start_angle"], values["end_angle"]
    free = values.get("free_end_angle", start)
    if end > free + 1e-12:
        said.append(
            f"The end angle of {degrees(end):.1f}° is above the free swing of {degrees(free):.1f}°: "
            "read the pointer again. The energy counts as zero, not less."
        )
    said += _unlike_hammer(values)
    notched = next((n for n in ("A", "B") if f"notch={n}" in values), "")
    if notched and values.get("width", 0.0) > _LEFT_AT_MOST:
        said.append(
            f"Notch {notched} leaves 8 mm of a 10 mm bar; {values['width'] * 1e3:.4g} mm looks like "
            "the full width. Type the width left at the notch, or the strength reads low."
        )
    if "free_end_angle" not in values:
        said.append("No free swing is given: friction and air count as absorbed.")
    part = values["absorbed_energy"] / (values["hammer_moment"] * (1 - umath.cos(start)))
    if 0 < part < 0.1:
        said.append(
            f"The bar absorbed {part * 100:.0f} % of the hammer's energy: under 10 % use a lighter one."
        )
    if part > 0.8:
        said.append(
            f"The bar absorbed {part * 100:.0f} % of the hammer's energy: above 80 % use a heavier one."
        )
    return tuple(said)


def _unlike_hammer(values: Mapping[str, float]) -> list[str]:
    """A calibrated energy and a mass and arm that do not belong to one hammer."""
    if not {"hammer_energy", "hammer_mass", "hammer_arm", "start_angle"} <= set(values):
        return []
    by_mass = values["hammer_mass"] * STANDARD_GRAVITY * values["hammer_arm"]
    by_mass *= 1 - cos(values["start_angle"])
    ratio = by_mass / values["hammer_energy"]
    if 0.95 < ratio < 1.05:
        return []
    pounds = " The mass reads like pounds." if 0.95 < ratio * KILOGRAMS_A_POUND < 1.05 else ""
    return [
        f"Mass and arm give {by_mass:.3g} J at the start, the calibrated energy is "
        f"{values['hammer_energy']:.3g} J: one of the three is another hammer's.{pounds}"
    ]


def swing(values: Mapping[str, float]) -> None:
    """Refuse swings that no hammer makes: from beyond the upright, or free and higher than its start.

    Angles in rad from hanging. Raises :class:`InputError` with the angle's field. Source: statics.

    >>> swing({"start_angle": 2.0, "free_end_angle": 1.9, "end_angle": 1.0})
    """
    start, free = values.get("start_angle"), values.get("free_end_angle")
    for key, word in (("start_angle", "start"), ("end_angle", "end")):
        if (angle := values.get(key)) is not None and angle > pi + 1e-9:
            raise InputError(
                f"A swing's {word} angle is counted from hanging: {degrees(angle):.4g}° is beyond the upright at 180°.",
                key,
            )
    if start is not None and free is not None and free > start + 1e-9:
        raise InputError(
            f"A free swing cannot end at {degrees(free):.4g}°, above its start at {degrees(start):.4g}°: "
            "read both again.",
            "free_end_angle",
        )


_ANGLES = ("hammer_moment", "start_angle", "end_angle")
_SWING = "{hammer_moment} · (cos {free_end_angle} − cos {start_angle})"

METHOD = Method(
    "impact",
    "Impact",
    "How much impact energy does it absorb?",
    orientation="flat",
    inputs=(END, MASS, ARM, ENERGY, START, FREE, LOSS, BAR, NOTCH, *SECTION_INPUTS),
    results=(
        ResultDefinition(
            "impact_strength",
            "a = W / A",
            "{absorbed_energy} / {area}",
            per_area,
            "ISO 179-1 and ISO 180: absorbed energy over the section at the notch (recalled)",
            ("absorbed_energy", "area"),
        ),
        ResultDefinition(
            "absorbed_energy",
            "W = M · (cos β − cos α) − W_l",
            "{hammer_moment} · (cos {end_angle} − cos {start_angle}) − {swing_loss}",
            absorbed,
            "conservation of energy; ISO 13802 and ASTM D256 for the loss (recalled)",
            (*_ANGLES, "swing_loss"),
        ),
        ResultDefinition(
            "impact_energy_per_thickness",
            "a_t = W / h",
            "{absorbed_energy} / {thickness}",
            per_thickness,
            "ASTM D256 and D6110 (recalled)",
            ("absorbed_energy", "thickness"),
        ),
    ),
    outcomes=OUTCOMES,
    places=(
        Place("strike", "at the strike", "K", 0.5),
        Place(
            "off_strike", "off the strike", "O", 0.36, "off the strike or notch: look for a flaw"
        ),
        Place("support", "at a support", "G", 0.14, "the bar did not sit right"),
    ),
    cautions=(
        "Keep out of the hammer's plane: stand to the side, latch it before placing a bar, and "
        "never reach in under a raised hammer.",
        FRAGMENTS,
        FIBRES,
        LOCAL,
    ),
    drawing="pendulum",
    example={
        "hammer_mass": "1.2 kg",
        "hammer_arm": "310 mm",
        "start_angle": "140°",
        "free_end_angle": "138°",
        "notch": "none",
        "bar": "supported",
        "loss_rule": "arc",
        "width": "10.02",
        "thickness": "4.01",
        "end_angle": "128",
    },
    derived=(
        Derived(
            "hammer_moment",
            "M = m · g · L",
            "{hammer_mass} · g · {hammer_arm}",
            compute=hammer_moment,
            needs=("hammer_mass", "hammer_arm"),
            dimension="torque",
            unit="N·m",
        ),
        Derived(
            "hammer_moment",
            "M = E_0 / (1 − cos α)",
            "{hammer_energy} / (1 − cos {start_angle})",
            compute=moment_from_energy,
            needs=("hammer_energy", "start_angle"),
            dimension="torque",
            unit="N·m",
        ),
        Derived(
            "swing_loss",
            "W_l = M · (cos β_0 − cos α) · (α + β) / (α + β_0)",
            _SWING + " · ({start_angle} + {end_angle}) / ({start_angle} + {free_end_angle})",
            compute=arc_loss,
            needs=(*_ANGLES, "free_end_angle", "loss_rule=arc"),
            dimension="energy",
            unit="J",
        ),
        Derived(
            "swing_loss",
            "W_l = M · (cos β_0 − cos α)",
            _SWING,
            compute=free_loss,
            needs=(*_ANGLES, "free_end_angle", "loss_rule=whole"),
            dimension="energy",
            unit="J",
        ),
        Derived(
            "swing_loss",
            "W_l = 0",
            "not taken off",
            compute=lambda v: 0 * v["start_angle"],
            needs=("start_angle",),
            dimension="energy",
            unit="J",
        ),
        Derived(
            "absorbed_energy",
            "W = M · (cos β − cos α) − W_l",
            "{hammer_moment} · (cos {end_angle} − cos {start_angle}) − {swing_loss}",
            compute=absorbed,
            needs=(*_ANGLES, "swing_loss"),
            dimension="energy",
            unit="J",
        ),
    ),
    modes=modes("clean across", "layers split", "whitened", "splintered", "flaw"),
    needs_section=False,
    check=remarks,
    possible=swing,
    apart=True,
    cv=0.12,
    minutes=3.0,
)
