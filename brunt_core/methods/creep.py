"""Creep: a constant load, and a gap or deflection read again and again."""

from typing import Any

from brunt_core.methods._beams import three_point_stress
from brunt_core.methods.base import (
    LOCAL,
    READ,
    SECTION_INPUTS,
    VOID,
    WEIGHTS,
    Estimated,
    Input,
    Method,
    Outcome,
    ResultDefinition,
    Values,
)
from brunt_core.observations import Observation
from brunt_core.quantities.rendering import figures, render, time_words

READINGS = Input(
    "readings",
    "Gap or deflection",
    "v(t)",
    "length",
    "mm",
    kind="series",
    along=(("time", "s"),),
    hint="1 min: 1.02 mm; 1 h: 1.10 mm; 1 d: 1.31 mm",
)
LOAD = Input("load", "Constant load", "F", "force", "N", required=False, role="fixed")
SPAN = Input("span", "Span", "L", "length", "mm", required=False, role="fixed")


def _ordered(values: Values) -> list[tuple[float, float]]:
    return sorted((row.at[0], row.value) for row in values["readings"])


def since_loading(values: Values) -> Estimated | None:
    """Change from the first reading to the last, Δ = |v_last − v_first|; m. ``None`` for one reading.

    ``readings.u`` is the standard uncertainty of one reading in m; the difference has √2 of it.
    The first reading stands for loading: what happened before it is not in the figure.
    Source: ISO 899-2, deflection at stated times (recalled).

    >>> from brunt_core.quantities.series import SeriesRow
    >>> rows = (SeriesRow((60.0,), 0.00102, ""), SeriesRow((3600.0,), 0.00110, ""))
    >>> round(since_loading({"readings": rows, "readings.u": 1e-5}).observation.anchor * 1e3, 9)
    0.08
    """
    rows = _ordered(values)
    if len(rows) < 2:
        return None
    (first, v0), (last, v1) = rows[0], rows[-1]
    steps = (
        ("first", f"at {time_words(first, 3)}", render(v0, "length", "mm", 4)),
        ("last", f"at {time_words(last, 3)}", render(v1, "length", "mm", 4)),
    )
    return Estimated(Observation.exact(abs(v1 - v0)), 2**0.5 * values["readings.u"], steps, last)


def creep_rate(values: Values) -> Estimated | None:
    """Rate between the last two readings, v̇ = |v_k − v_(k−1)| / (t_k − t_(k−1)); m/s."""
    rows = _ordered(values)
    if len(rows) < 2 or rows[-1][0] == rows[-2][0]:
        return None
    (t0, v0), (t1, v1) = rows[-2:]
    return Estimated(
        Observation.exact(abs(v1 - v0) / (t1 - t0)),
        2**0.5 * values["readings.u"] / (t1 - t0),
        (("between", f"{time_words(t0, 3)} and {time_words(t1, 3)}", ""),),
        t1,
    )


def exponent(values: Values) -> Estimated | None:
    """Exponent n of the time law v = v0 + a·tⁿ; ``None`` with fewer than four times, and where the
    readings differ by no more than twice the uncertainty of a difference: there is no creep to fit.

    Source: Findley's power law; see :func:`brunt_core.mechanics.creep.fit_power_law`.
    """
    from brunt_core.mechanics.creep import fit_power_law

    rows = _ordered(values)
    if len({t for t, _ in rows}) < 4:
        return None
    reach = max(v for _, v in rows) - min(v for _, v in rows)
    if reach <= 2 * 2**0.5 * values["readings.u"]:
        return None
    law = fit_power_law([t for t, _ in rows], [v for _, v in rows])
    ahead = rows[-1][0] * 10
    steps = (
        (
            "v = v_0 + a · tⁿ",
            f"{figures(law.start * 1e3, 4)} mm + {figures(law.scale * 1e3, 3)} mm · (t / s)^{figures(law.exponent)}",
            f"left over {figures(law.spread * 1e3, 2)} mm",
        ),
        (
            "drawn out to ten times as long",
            time_words(ahead),
            render(law.at(ahead), "length", "mm"),
        ),
    )
    return Estimated(Observation.exact(law.exponent), law.error, steps, rows[-1][0])


def remarks(values: Values) -> tuple[str, ...]:
    """Creep that does not exceed what the readings leave open is said."""
    rows = _ordered(values)
    if len(rows) < 2:
        return ()
    reach = max(v for _, v in rows) - min(v for _, v in rows)
    if 0 < values["readings.u"] and reach <= 2 * 2**0.5 * values["readings.u"]:
        return (
            f"The readings differ by {render(reach, 'length', 'mm')}, no more than they are uncertain by "
            f"(twice √2 · {render(values['readings.u'], 'length', 'mm')}): no creep is shown, no time law fitted.",
        )
    return ()


def load_stress(values: Values) -> Any:
    """Outer-fibre stress under the constant load at mid-span; see ``three_point_stress``."""
    return three_point_stress({**values, "force": values["load"]})


METHOD = Method(
    "creep",
    "Creep",
    "How far does it deform under constant load?",
    orientation="flat",
    inputs=(READINGS, LOAD, SPAN, *SECTION_INPUTS),
    results=(
        ResultDefinition(
            "creep_deflection",
            "Δ = |v_last − v_first|",
            "since loading",
            since_loading,
            "ISO 899-2, deflection at stated times (recalled)",
            ("readings",),
        ),
        ResultDefinition(
            "creep_rate",
            "v̇ = |v_k − v_(k−1)| / (t_k − t_(k−1))",
            "over the last two readings",
            creep_rate,
            "difference quotient",
            ("readings",),
        ),
        ResultDefinition(
            "creep_exponent",
            "v = v_0 + a · tⁿ",
            "least squares",
            exponent,
            "Findley's power law (recalled), by least squares",
            ("readings",),
        ),
        ResultDefinition(
            "outer_fibre_stress",
            "σ = F · L / (4 · W)",
            "{load} · {span} / (4 · {bending_modulus})",
            load_stress,
            "any handbook of beams, load at mid-span",
            ("load", "span", "bending_modulus"),
        ),
    ),
    outcomes=(
        READ,
        Outcome("broke_under_load", "broke under load", "X", "exact", breaks=True, fails=True),
        VOID,
    ),
    places=(),
    cautions=(
        WEIGHTS,
        "A part that creeps can break unattended: put a tray under the load.",
        LOCAL,
    ),
    drawing="creep",
    example={
        "load": "10 N",
        "span": "64 mm",
        "width": "10.02",
        "thickness": "4.01",
        "readings": "1 min: 1.02; 1 h: 1.10; 1 d: 1.31; 3 d: 1.40",
    },
    needs_section=False,
    check=remarks,
    destroys=False,
    cv=0.12,
    minutes=8.0,
)
