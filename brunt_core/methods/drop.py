"""Drop: heights passed and failed, as they come or up and down; the median failure height."""

from math import hypot

from brunt_core.methods.base import (
    FRAGMENTS,
    LOCAL,
    READ,
    VOID,
    WEIGHTS,
    Estimated,
    Input,
    Method,
    ResultDefinition,
    Values,
    modes,
    nominal,
    spread,
)
from brunt_core.methods.impact import STANDARD_GRAVITY
from brunt_core.quantities.rendering import figures, render
from brunt_core.statistics.staircase import Median, median_level

DROPS = Input(
    "drops",
    "Drops, in order",
    "h",
    "trial",
    "",
    kind="series",
    along=(("length", "mm"),),
    hint="400 mm: pass; 450 mm: fail; 400 mm: pass",
)
ENOUGH = 20
MASS = Input("mass", "Falling mass", "m", "mass", "kg", required=False, role="fixed")


def median_of(values: Values) -> Median:
    """Median failure height of the drops; see :func:`median_level`."""
    return median_level([(row.at[0], row.value > 0) for row in values["drops"]])


def median_height(values: Values) -> Estimated:
    """Median failure height in m, with how it was found and its 95 % interval where it has one."""
    found = median_of(values)
    steps = [("by", found.how, f"{len(values['drops'])} drops")]
    if found.error:
        low, high = (found.observation.anchor + k * 1.96 * found.error for k in (-1, 1))
        steps.append(
            (
                "95 % interval",
                "h_50 ± 1.96 · s_m",
                f"{figures(low * 1e3)} to {render(high, 'length', 'mm')}",
            )
        )
    return Estimated(found.observation, found.error, tuple(steps))


def median_energy(values: Values) -> Estimated:
    """Median failure energy, W_50 = m·g·h_50; J from kg and m. Source: potential energy."""
    found, mass = median_of(values), values["mass"]
    weight = nominal(mass) * STANDARD_GRAVITY
    height = found.observation.anchor
    error = hypot(found.error * weight, spread(mass) * STANDARD_GRAVITY * height)
    return Estimated(found.observation.scaled(weight), error)


def remarks(values: Values) -> tuple[str, ...]:
    """Few drops rank; they do not measure."""
    found, count = median_of(values), len(values["drops"])
    if found.observation.is_exact and count >= ENOUGH:
        return ()
    if found.observation.is_exact:
        return (
            f"{count} drops: a staircase takes {ENOUGH} or more (ASTM D5628, recalled); the interval is "
            "wide. Drops of several specimens of a condition are taken together on Compare.",
        )
    return (
        "Too few drops for a median: the answer is a bound or a pair of bounds, good to rank by.",
    )


METHOD = Method(
    "drop",
    "Drop",
    "From what height does it break?",
    orientation="flat",
    inputs=(DROPS, MASS),
    results=(
        ResultDefinition(
            "median_failure_height",
            "h_50 = median of the failures",
            "of the drops",
            median_height,
            "Dixon & Mood 1948 and ASTM D5628, up-and-down; probit otherwise (recalled)",
            ("drops",),
        ),
        ResultDefinition(
            "failure_energy",
            "W_50 = m · g · h_50",
            "{mass} · g · h_50",
            median_energy,
            "potential energy",
            ("drops", "mass"),
        ),
    ),
    outcomes=(READ, VOID),
    places=(),
    cautions=(FRAGMENTS, WEIGHTS, LOCAL),
    drawing="drop",
    example={
        "mass": "0.5 kg",
        "drops": "400: pass; 450: fail; 400: pass; 450: pass; 500: fail",
    },
    modes=modes("cracked", "shattered", "corner chipped", "joint opened"),
    needs_section=False,
    check=remarks,
)
