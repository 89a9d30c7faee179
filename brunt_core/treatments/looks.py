"""What is looked at while something is exposed: sag under its load and without it, colour by grey scale."""

from brunt_core.errors import InputError
from brunt_core.methods.base import Input

# Grades of the grey scale for change in colour: ISO 105-A02, 5 no change to 1 strong change, halves
# between (from memory).
SAG = Input(
    "sag_loaded", "Sag loaded", "s", "length", "mm", required=False, role="size", least="zero"
)
REST = Input(
    "sag_unloaded", "Sag unloaded", "s_0", "length", "mm", required=False, role="size", least="zero"
)
GREY = Input("grey_scale", "Grey-scale grade", "G", "number", "", required=False, role="size")
LOOK_SIZES = (SAG, REST, GREY)


def check_look(values: dict[str, float]) -> None:
    """Refuse what an inspection cannot be.

    Parameters: sags in m under ``sag_loaded`` and ``sag_unloaded``, a grade of 1 to 5 in halves under
    ``grey``. Raises :class:`InputError`.

    >>> check_look({"grey_scale": 4.5, "sag_loaded": 0.003, "sag_unloaded": 0.001})
    >>> check_look({"grey_scale": 6.0})
    Traceback (most recent call last):
    brunt_core.errors.InputError: The grey scale goes from 5, no change, to 1, in halves.
    """
    grey = values.get("grey_scale")
    if grey is not None and (not 1 <= grey <= 5 or abs(grey * 2 - round(grey * 2)) > 1e-9):
        raise InputError("The grey scale goes from 5, no change, to 1, in halves.", "grey_scale")
    sag, rest = values.get("sag_loaded"), values.get("sag_unloaded")
    if sag is not None and rest is not None and rest > sag:
        raise InputError("It sags more without its load than with it.", "sag_unloaded")


def sprung_back(sag: float, rest: float) -> float | None:
    """The share of a sag that goes when the load is taken off, 1 − rest/sag; ``None`` for no sag.

    >>> sprung_back(0.004, 0.001)
    0.75
    """
    return None if sag <= 0 else 1 - rest / sag
