"""Torsion of rectangular bars by the exact series."""

from functools import lru_cache
from math import cosh, exp, pi, tanh

from brunt_core.errors import InputError

_TERMS = 60


@lru_cache(maxsize=4096)
def torsion_factors(ratio: float) -> tuple[float, float]:
    """Factors of a rectangle in torsion: α of the largest stress and β of the stiffness.

    τ_max = T/(α·b·t²), θ = T·L/(β·b·t³·G), with b the longer side and r = b/t ≥ 1:
    β = ⅓·[1 − (192/(π⁵·r))·Σ tanh((2k+1)·π·r/2)/(2k+1)⁵],
    α = β / {1 − (8/π²)·Σ 1/[(2k+1)²·cosh((2k+1)·π·r/2)]}, k from 0.

    Parameter: ``ratio`` r, 1 or more. Returns (α, β), dimensionless; both tend to ⅓.
    Limits: elastic, isotropic, free to warp. Raises :class:`InputError` for r below 1.
    Source: Timoshenko & Goodier, Theory of Elasticity, torsion of rectangular bars (series
    recalled); checked against the sum in 30 digits.

    >>> [round(x, 7) for x in torsion_factors(2.0)]
    [0.2458783, 0.2286817]
    """
    if ratio < 1:
        raise InputError("The ratio of the sides is of the longer to the shorter.")
    odd = range(1, 2 * _TERMS, 2)
    total = sum(tanh(n * pi * ratio / 2) / n**5 for n in odd)
    beta = (1 - 192 / (pi**5 * ratio) * total) / 3
    return beta / (1 - 8 / pi**2 * sum(_sech(n * pi * ratio / 2) / n**2 for n in odd)), beta


def _sech(x: float) -> float:
    return 2 * exp(-x) if x > 30 else 1 / cosh(x)


def stress_factor(width: float, thickness: float) -> float:
    """α·b·t² of a rectangle, whichever side is the longer; m³.

    >>> round(stress_factor(0.004, 0.004) * 1e9, 4)
    13.3226
    """
    t, b = sorted((width, thickness))
    return torsion_factors(b / t)[0] * b * t * t


def stiffness_factor(width: float, thickness: float) -> float:
    """β·b·t³ of a rectangle: its torsion constant; m⁴.

    >>> round(stiffness_factor(0.004, 0.004) * 1e12, 4)
    35.9877
    """
    t, b = sorted((width, thickness))
    return torsion_factors(b / t)[1] * b * t**3
