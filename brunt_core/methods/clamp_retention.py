"""Clamp retention: a bolted joint tightened to a set torque, and what remains later."""

from math import hypot

from brunt_core.errors import InputError
from brunt_core.methods.base import (
    LOCAL,
    READ,
    VOID,
    Estimated,
    Input,
    Method,
    Outcome,
    ResultDefinition,
    Values,
    nominal,
    spread,
)
from brunt_core.observations import Observation
from brunt_core.quantities.rendering import figures, render

HEIGHTS = Input(
    "heights",
    "Head height",
    "h(t)",
    "length",
    "mm",
    kind="series",
    along=(("time", "s"),),
    hint="0 s: 8.42 mm; 1 h: 8.39 mm; 1 d: 8.36 mm",
)
RETORQUE = Input(
    "retorques",
    "Torque to turn it on",
    "T(t)",
    "torque",
    "N·m",
    required=False,
    kind="series",
    along=(("time", "s"),),
    hint="1 h: 1.7 N·m; 1 d: 1.5 N·m",
)
TORQUE = Input("torque", "Tightening torque", "T_0", "torque", "N·m", role="fixed")


def _ordered(values: Values) -> list[tuple[float, float]]:
    return sorted((row.at[0], row.value) for row in values["heights"])


def _rates(values: Values) -> list[float]:
    rows = _ordered(values)
    if len({t for t, _ in rows}) < len(rows):
        raise InputError("Two head heights are given for one time.", "heights")
    return [(v0 - v1) / (t1 - t0) for (t0, v0), (t1, v1) in zip(rows, rows[1:], strict=False)]


def height_loss(values: Values) -> Estimated | None:
    """Loss of head height since tightening, Δh = h_first − h_last; m. Source: definition.

    ``heights.u`` is the standard uncertainty of one reading in m; the difference has √2 of it.

    >>> from brunt_core.quantities.series import SeriesRow
    >>> rows = (SeriesRow((0.0,), 0.00842, ""), SeriesRow((3600.0,), 0.00839, ""))
    >>> round(height_loss({"heights": rows, "heights.u": 1e-5}).observation.anchor * 1e3, 9)
    0.03
    """
    rows = _ordered(values)
    if len(rows) < 2:
        return None
    steps = tuple(("h", f"at {figures(t / 3600)} h", render(v, "length", "mm", 4)) for t, v in rows)
    return Estimated(
        Observation.exact(rows[0][1] - rows[-1][1]),
        2**0.5 * values["heights.u"],
        steps,
        rows[-1][0],
    )


def last_rate(values: Values) -> Estimated | None:
    """Rate of loss between the last two readings; m/s. Source: difference quotient."""
    rates, rows = _rates(values), _ordered(values)
    if not rates:
        return None
    wide = rows[-1][0] - rows[-2][0] or 1.0
    error = 2**0.5 * values["heights.u"] / wide
    return Estimated(Observation.exact(rates[-1]), error, (), rows[-1][0])


def loss_trend(values: Values) -> Estimated | None:
    """Last rate of loss over the first, r = v_last / v_first: under 1 it levels off; above, it speeds up.

    ``None`` with fewer than three readings or when nothing was lost at first. Source: common
    practice, no source.
    """
    rates = _rates(values)
    if len(rates) < 2 or rates[0] <= 0:
        return None
    ratio = rates[-1] / rates[0]
    rows = _ordered(values)
    u = 2**0.5 * values["heights.u"]
    first, last = u / (rows[1][0] - rows[0][0]), u / (rows[-1][0] - rows[-2][0])
    error = hypot(last / rates[0], ratio * first / rates[0])
    return Estimated(
        Observation.exact(ratio), error, (("trend", trend_word(ratio), ""),), rows[-1][0]
    )


def trend_word(ratio: float) -> str:
    """``levelling off``, ``steady`` or ``accelerating``.

    >>> trend_word(0.2), trend_word(1.0), trend_word(1.6)
    ('levelling off', 'steady', 'accelerating')
    """
    return "levelling off" if ratio < 0.8 else "steady" if ratio <= 1.2 else "accelerating"


def retained(values: Values) -> Estimated:
    """Torque to turn it on at the last reading, as a part of the tightening torque, q = T_last / T0."""
    from uncertainties import ufloat

    rows = sorted((row.at[0], row.value) for row in values["retorques"])
    ratio = ufloat(rows[-1][1], values["retorques.u"]) / values["torque"]
    return Estimated(Observation.exact(nominal(ratio)), spread(ratio), (), rows[-1][0])


def remarks(values: Values) -> tuple[str, ...]:
    """Says in words whether the joint settles."""
    found = loss_trend(values)
    if found is None:
        return ()
    return (f"The loss of height is {trend_word(found.observation.anchor)}.",)


METHOD = Method(
    "clamp-retention",
    "Clamp retention",
    "Does the bolted joint stay tight?",
    orientation="flat",
    inputs=(HEIGHTS, RETORQUE, TORQUE),
    results=(
        ResultDefinition(
            "height_loss",
            "Δh = h_first − h_last",
            "since tightening",
            height_loss,
            "definition; common practice",
            ("heights",),
        ),
        ResultDefinition(
            "clamp_retained",
            "q = T_last / T_0",
            "last torque to turn it on / {torque}",
            retained,
            "common practice, no source",
            ("retorques", "torque"),
        ),
        ResultDefinition(
            "loosening_rate",
            "v = (h_(k−1) − h_k) / (t_k − t_(k−1))",
            "over the last two readings",
            last_rate,
            "difference quotient",
            ("heights",),
        ),
        ResultDefinition(
            "loosening_trend",
            "r = v_last / v_first",
            "of the rates",
            loss_trend,
            "common practice, no source",
            ("heights",),
        ),
    ),
    outcomes=(
        READ,
        Outcome("cracked", "boss cracked", "X", "exact", breaks=True, fails=True),
        VOID,
    ),
    places=(),
    cautions=("A cracked boss can release its screw: keep your face out of its line.", LOCAL),
    drawing="clamp",
    example={
        "torque": "1.5 N·m",
        "heights": "0 s: 8.42; 1 h: 8.39; 1 d: 8.38",
        "retorques": "1 h: 1.3; 1 d: 1.2",
    },
    needs_section=False,
    check=remarks,
    destroys=False,
    cv=0.15,
    minutes=10.0,
)
