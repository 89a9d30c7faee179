"""Dimensional change: sizes before and after a treatment, and the scale to print next time."""

from collections.abc import Callable

from brunt_core.methods.base import LOCAL, READ_OUTCOMES, Input, Method, ResultDefinition, Values
from brunt_core.quantities.rendering import number

_AXES = (("length", "L"), ("width", "b"), ("thickness", "h"))


def size_change(before: object, after: object) -> object:
    """Relative change of a size, (after − before) / before; any one unit. Dimensionless.

    Source: ISO 294-4 measures mould against part in the same way.

    >>> round(size_change(100.0, 99.6), 12)
    -0.004
    """
    return (after - before) / before  # type: ignore[operator]


def print_scale(values: Values) -> object:
    """Scale factor for next print, s = L_before / L_after = 1 / (1 + ΔL/L).

    Limits: a warped part is not corrected by scaling. Source: arithmetic; common practice.

    >>> round(print_scale({"length_before": 0.1, "length_after": 0.0996}), 9)
    1.004016064
    """
    return values["length_before"] / values["length_after"]


def _change_of(axis: str) -> Callable[[Values], object]:
    return lambda v: size_change(v[f"{axis}_before"], v[f"{axis}_after"])


def _inputs() -> tuple[Input, ...]:
    return tuple(
        Input(
            f"{axis}_{when}",
            f"{axis.capitalize()} {when}",
            f"{symbol}_{when}",
            "length",
            "mm",
            required=axis == "length",
            role="size" if when == "before" else "reading",
        )
        for axis, symbol in _AXES
        for when in ("after", "before")
    )


def remarks(values: Values) -> tuple[str, ...]:
    """More than 3 % on any axis makes a strength comparison doubtful: common practice."""
    worst = max(
        (
            abs(values[f"{a}_after"] / values[f"{a}_before"] - 1)
            for a, _ in _AXES
            if f"{a}_after" in values and f"{a}_before" in values
        ),
        default=0.0,
    )
    if worst > 0.03:
        return (
            f"A size changed by {number(worst * 100, '.1f')} %: a strength comparison with untreated is doubtful.",
        )
    return ()


METHOD = Method(
    "dimensional",
    "Change of size",
    "How much did it shrink or grow?",
    orientation="flat",
    inputs=_inputs(),
    results=(
        *(
            ResultDefinition(
                f"{axis}_change",
                f"Δ{s}/{s} = ({s}_after − {s}_before) / {s}_before",
                f"({{{axis}_after}} − {{{axis}_before}}) / {{{axis}_before}}",
                _change_of(axis),
                "arithmetic; ISO 294-4 in spirit",
                (f"{axis}_before", f"{axis}_after"),
            )
            for axis, s in _AXES
        ),
        ResultDefinition(
            "print_scale",
            "s = L_before / L_after",
            "{length_before} / {length_after}",
            print_scale,
            "arithmetic",
            ("length_before", "length_after"),
        ),
    ),
    outcomes=READ_OUTCOMES,
    places=(),
    cautions=(LOCAL,),
    drawing="calipers",
    example={
        "length_before": "60",
        "length_after": "59.6",
    },
    needs_section=False,
    check=remarks,
    destroys=False,
    cv=0.10,
    minutes=3.0,
)
