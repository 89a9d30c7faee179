"""Deflection ladder: weights added one by one, the deflection read at set times under each."""

from math import sqrt
from statistics import fmean, stdev
from typing import Any

from brunt_core.errors import InputError
from brunt_core.methods._beams import SPAN, beam_modulus
from brunt_core.methods.base import (
    LOCAL,
    READ_OUTCOMES,
    SECTION_INPUTS,
    WEIGHTS,
    Derived,
    Estimated,
    Input,
    Method,
    ResultDefinition,
    Values,
    fixed_choice,
    worded,
)
from brunt_core.observations import Observation
from brunt_core.quantities.rendering import figures, render

LADDER = Input(
    "ladder",
    "Ladder",
    "δ(F, t)",
    "length",
    "mm",
    kind="series",
    along=(("force", "N"), ("time", "s")),
    hint="5 N @ 1 s: 0.40 mm; 5 N @ 60 s: 0.42 mm; 10 N @ 1 s: 0.81 mm",
)
ARRANGEMENT = fixed_choice(
    "arrangement",
    "Arrangement",
    (("three-point", "three-point, load at mid-span"), ("cantilever", "cantilever")),
    "three-point",
)
LOADS = worded("loads", "Loads, in order", hint="5 N; 10 N; 15 N")
SOURCE = "ISO 178 and any handbook of beams; least squares over the loads"


def load_steps(rows: Any) -> dict[float, list[tuple[float, float]]]:
    """Readings by load in N: (time s, deflection m), in order of time."""
    found: dict[float, list[tuple[float, float]]] = {}
    for row in sorted(rows, key=lambda r: r.at):
        found.setdefault(row.at[0], []).append((row.at[1], row.value))
    if any(w <= 0 for w in found):
        raise InputError("Every load of the ladder must be more than zero.", "ladder")
    return found


def ladder_slope(rows: Any, reading_error: float = 0.0) -> tuple[float, float]:
    """Slope of load over deflection at the first reading of each load, and its standard error.

    m = Σ(δ−δ̄)(F−F̄)/Σ(δ−δ̄)²; a single load gives F/δ. Rows with loads in N, deflections in m;
    ``reading_error`` is the standard uncertainty of one deflection in m. The error is that of the
    variation about the line from three loads on, and never less than the dial's own: readings that
    lie on a line by luck, or by the dial's step, are not surer than the dial. Returns N/m.
    Raises :class:`InputError` when the deflection does not grow with the load.
    Source: ordinary least squares (any textbook); checked against scipy's linregress.

    >>> from brunt_core.quantities.series import SeriesRow
    >>> ladder_slope([SeriesRow((5.0, 1.0), 0.0005, ""), SeriesRow((10.0, 1.0), 0.0010, "")])
    (10000.0, 0.0)
    """
    pairs = [(load, reads[0][1]) for load, reads in load_steps(rows).items()]
    loads, sags = [p[0] for p in pairs], [p[1] for p in pairs]
    if len(pairs) == 1:
        if sags[0] <= 0:
            raise InputError("The deflection must be more than zero.", "ladder")
        slope = loads[0] / sags[0]
        return slope, slope * reading_error / sags[0]
    load, sag = fmean(loads), fmean(sags)
    away = [(f - load, d - sag) for f, d in pairs]
    spread = sum(d**2 for _, d in away)
    slope = sum(d * f for f, d in away) / spread if spread else 0.0
    if slope <= 0:
        raise InputError("The deflection does not grow with the load; look at the rows.", "ladder")
    df = len(pairs) - 2
    variance = sum((f - slope * d) ** 2 for f, d in away) / df if df else 0.0
    return slope, sqrt(max(variance, (slope * reading_error) ** 2) / spread)


def stiffness(values: Values) -> object:
    """Load per deflection over the ladder; see :func:`ladder_slope`."""
    from uncertainties import ufloat

    return ufloat(*ladder_slope(values["ladder"], values.get("ladder.u", 0.0)))


def modulus(values: Values) -> Estimated:
    """Modulus from the ladder's slope, E = L³·m/(k·I), with the modulus under each load beside it."""
    whole: Any = beam_modulus(values)
    steps = []
    for load, reads in load_steps(values["ladder"]).items():
        if reads[0][1] > 0:
            one: Any = beam_modulus({**values, "slope": load / reads[0][1]})
            steps.append(
                (
                    f"E at {render(load, 'force')}",
                    f"{render(reads[0][1], 'length', 'mm')} at {figures(reads[0][0])} s",
                    render(one.nominal_value, "stress", "MPa", 4),
                )
            )
    last = max(r.at[1] for r in values["ladder"])
    return Estimated(Observation.exact(whole.nominal_value), whole.std_dev, tuple(steps), last)


def deflection_under(values: Values) -> Estimated:
    """The last deflection read under the highest load, δ(F, t), in m; as read."""
    by_load = load_steps(values["ladder"])
    load = max(by_load)
    time, sag = by_load[load][-1]
    step = (
        f"δ({render(load, 'force')}, {figures(time)} s)",
        "as read",
        render(sag, "length", "mm", 4),
    )
    return Estimated(Observation.exact(sag), values.get("ladder.u", 0.0), (step,), time)


def creep_between(values: Values) -> Estimated | None:
    """Mean relative growth of deflection from the first to the last reading under each load.

    κ = mean of (δ_last − δ_first)/δ_first; ``None`` without two readings under any load.
    Source: common practice, no source (the drift under dead weight is creep).
    """
    rows = [
        (load, reads[0], reads[-1])
        for load, reads in load_steps(values["ladder"]).items()
        if len(reads) > 1 and reads[0][1] > 0
    ]
    if not rows:
        return None
    drifts = [(b[1] - a[1]) / a[1] for _, a, b in rows]
    steps = tuple(
        (
            f"drift at {render(load, 'force')}",
            f"{figures(a[0])} s to {figures(b[0])} s",
            f"{figures(100 * d)} %",
        )
        for (load, a, b), d in zip(rows, drifts, strict=True)
    )
    dial = values.get("ladder.u", 0.0)
    own = [2**0.5 * dial / a[1] for _, a, _ in rows]
    spread = stdev(drifts) / sqrt(len(drifts)) if len(drifts) > 1 else 0.0
    spread = max(spread, sqrt(sum(u**2 for u in own)) / len(own))
    return Estimated(Observation.exact(fmean(drifts)), spread, steps, max(b[0] for _, _, b in rows))


def remarks(values: Values) -> tuple[str, ...]:
    """First readings taken at unlike times make the slope one of creep as well."""
    firsts = [reads[0][0] for reads in load_steps(values["ladder"]).values()]
    if min(firsts) > 0 and max(firsts) / min(firsts) > 2:
        return (
            f"The first readings were taken {figures(min(firsts))} to {figures(max(firsts))} s after "
            "loading: the slope pools unlike times, and creep is in it.",
        )
    return ()


METHOD = Method(
    "deflection-ladder",
    "Deflection ladder",
    "How stiff is it under dead weights, and does it drift?",
    orientation="flat",
    inputs=(LADDER, SPAN, ARRANGEMENT, LOADS, *SECTION_INPUTS),
    results=(
        ResultDefinition(
            "flexural_modulus",
            "E = L³ · m / (k · I)",
            "({span})³ · {slope} / ({beam_factor} · {second_moment})",
            modulus,
            SOURCE,
            ("ladder", "span", "slope", "second_moment", "beam_factor"),
        ),
        ResultDefinition(
            "bending_stiffness",
            "m = Σ(δ − δ̄)(F − F̄) / Σ(δ − δ̄)²",
            "over the loads, at their first reading",
            lambda v: v["slope"],
            SOURCE,
            ("slope",),
        ),
        ResultDefinition(
            "deflection_under_load",
            "δ(F, t)",
            "the last under the highest load",
            deflection_under,
            "as read",
            ("ladder",),
        ),
        ResultDefinition(
            "ladder_creep",
            "κ = (δ_last − δ_first) / δ_first",
            "mean over the loads",
            creep_between,
            "common practice, no source",
            ("ladder",),
        ),
    ),
    outcomes=READ_OUTCOMES,
    places=(),
    cautions=(WEIGHTS, LOCAL),
    drawing="ladder",
    example={
        "span": "64 mm",
        "arrangement": "three-point",
        "loads": "5 N; 10 N; 15 N",
        "width": "10.02",
        "thickness": "4.01",
        "ladder": "5 N @ 1 s: 0.21 mm; 5 N @ 60 s: 0.22 mm; 10 N @ 1 s: 0.41 mm; 15 N @ 1 s: 0.62",
    },
    derived=(
        Derived(
            "slope",
            "m = ΔF / Δδ",
            "least squares",
            compute=stiffness,
            needs=("ladder",),
            dimension="stiffness",
            unit="N/mm",
        ),
        Derived(
            "beam_factor",
            "k",
            "load at mid-span",
            compute=lambda v: 48.0,
            needs=("arrangement=three-point",),
            dimension="number",
            unit="",
        ),
        Derived(
            "beam_factor",
            "k",
            "load at the end of a cantilever",
            compute=lambda v: 3.0,
            needs=("arrangement=cantilever",),
            dimension="number",
            unit="",
        ),
    ),
    check=remarks,
    destroys=False,
    cv=0.05,
    minutes=8.0,
)
