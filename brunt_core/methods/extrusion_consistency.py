"""Extrusion: equal extrusions weighed; how alike, how fast, and the least print time it implies."""

from math import sqrt
from statistics import fmean, stdev

from brunt_core.errors import InputError
from brunt_core.methods.base import (
    LOCAL,
    READ_OUTCOMES,
    Estimated,
    Input,
    Method,
    ResultDefinition,
    Values,
    nominal,
    spread,
)
from brunt_core.observations import Observation
from brunt_core.quantities.rendering import number

MASSES = Input(
    "masses",
    "Masses of equal extrusions",
    "m_i",
    "mass",
    "g",
    kind="series",
    aliases=("mass",),
    hint="five of one length or time, weighed one by one",
)
TIME = Input("time", "Time of each extrusion", "t", "time", "s", role="fixed")
PART = Input("part_mass", "Mass of the part", "m_p", "mass", "g", required=False, role="fixed")
HOT = (
    "Nozzle and melt burn at 200 to 400 °C, and melt held too hot spits: gloves and glasses, nobody "
    "before the nozzle.",
    "Hot plastic gives off fumes, overheated plastic worse ones: ventilate; stop when it smokes.",
)
SOURCE = "arithmetic; five equal extrusions are common practice, no source"


def masses(values: Values) -> list[float]:
    """The single masses in kg."""
    return [row.value for row in values["masses"]]


def mean_error(found: list[float]) -> float:
    """Standard error of the mean of masses, s/√n, in their unit; zero for one. ISO 2602.

    >>> round(mean_error([1.0, 2.0, 3.0]), 6)
    0.57735
    """
    return stdev(found) / sqrt(len(found)) if len(found) > 1 else 0.0


def mean_mass(values: Values) -> Estimated:
    """Mean of the masses, kg, with the standard error of their variation."""
    found = masses(values)
    return Estimated(Observation.exact(fmean(found)), mean_error(found))


def cv_of_masses(values: Values) -> Estimated | None:
    """Coefficient of variation s/m, dimensionless; ``None`` for one mass.

    Its standard error is v·√(1/(2(n − 1)) + v²/n). Source: ISO 2602 for s; the error is the usual
    large-sample one of a coefficient of variation.
    """
    found = masses(values)
    if len(found) < 2:
        return None
    v, n = stdev(found) / fmean(found), len(found)
    return Estimated(Observation.exact(v), v * sqrt(1 / (2 * (n - 1)) + v * v / n))


def mass_rate(values: Values) -> Estimated:
    """Rate q = m/t, kg/s from kg and s; first-order uncertainty of both."""
    found, time = masses(values), values["time"]
    q = fmean(found) / nominal(time)
    relative = sqrt((mean_error(found) / fmean(found)) ** 2 + (spread(time) / nominal(time)) ** 2)
    return Estimated(Observation.exact(q), q * relative)


def least_time(values: Values) -> Estimated:
    """Minimum print time of a part, t_min = m_p/q, s: no print is faster than its melt comes.

    Limits: travel, cooling and small features take more. Source: arithmetic.
    """
    q = mass_rate(values)
    part = values["part_mass"]
    time = nominal(part) / q.observation.anchor
    relative = sqrt(
        (q.uncertainty / q.observation.anchor) ** 2 + (spread(part) / nominal(part)) ** 2
    )
    return Estimated(Observation.exact(time), time * relative)


def remarks(values: Values) -> tuple[str, ...]:
    """Few extrusions, and variation that layers will show."""
    found = masses(values)
    if any(m <= 0 for m in found):
        raise InputError("A mass must be more than zero.", "masses")
    if len(found) < 5:
        return (f"{len(found)} extrusions: use at least five to estimate the CV.",)
    v = stdev(found) / fmean(found)
    if v > 0.05:
        return (
            f"The extrusions have a CV of {number(v * 100, '.1f')} %. Above 5 %, dry again, sieve, or "
            "check the feed for slip before printing (common practice, no source).",
        )
    return ()


METHOD = Method(
    "extrusion-consistency",
    "Extrusion",
    "Is the flow consistent, and how fast can it be?",
    orientation="flat",
    inputs=(MASSES, TIME, PART),
    results=(
        ResultDefinition(
            "extrusion_mass", "m = Σ m_i / n", "of the masses", mean_mass, SOURCE, ("masses",)
        ),
        ResultDefinition(
            "extrusion_cv", "v = s / m", "of the masses", cv_of_masses, SOURCE, ("masses",)
        ),
        ResultDefinition(
            "extrusion_rate", "q = m / t", "m / {time}", mass_rate, SOURCE, ("masses", "time")
        ),
        ResultDefinition(
            "least_print_time",
            "t_min = m_p / q",
            "{part_mass} / q",
            least_time,
            SOURCE,
            ("masses", "time", "part_mass"),
        ),
    ),
    outcomes=READ_OUTCOMES,
    places=(),
    cautions=(*HOT, LOCAL),
    drawing="balance",
    example={"masses": "5.02; 5.10; 4.95; 5.05; 4.98", "time": "30 s", "part_mass": "180 g"},
    needs_section=False,
    check=remarks,
    destroys=False,
    cv=0.05,
    minutes=8.0,
)
