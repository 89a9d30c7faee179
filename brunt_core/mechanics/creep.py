"""The time law of creep, fitted."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from brunt_core.errors import InputError


@dataclass(frozen=True)
class PowerLaw:
    """v(t) = start + scale · t^exponent; ``spread`` is the standard deviation of what is left.

    ``error`` is the standard error of the exponent, by the linearised least squares.
    """

    start: float
    scale: float
    exponent: float
    spread: float
    error: float = 0.0

    def at(self, time: float) -> float:
        """The value at a time in s."""
        return self.start + self.scale * time**self.exponent


def fit_power_law(times: Sequence[float], values: Sequence[float]) -> PowerLaw:
    """Fit v(t) = v0 + a·tⁿ by least squares.

    For each n the other two follow by linear least squares, so n alone is searched, from 0.02 to
    2 (variable projection). Parameters: at least four times in s, none negative, and values in any
    unit. Returns a :class:`PowerLaw`. Raises :class:`InputError` with fewer than four unlike times.
    Source: W. N. Findley's power law of creep; Golub & Pereyra for the projection (both recalled);
    checked against a general fitter.

    >>> t = [1.0, 10.0, 100.0, 1000.0, 10000.0]
    >>> law = fit_power_law(t, [0.006 + 0.0004 * x**0.25 for x in t])
    >>> round(law.start, 6), round(law.scale, 6), round(law.exponent, 4)
    (0.006, 0.0004, 0.25)
    """
    t, v = np.asarray(times, float), np.asarray(values, float)
    if len(np.unique(t)) < 4:
        raise InputError("A time law needs readings at four or more times.")
    if (t < 0).any():
        raise InputError("Times are counted from the loading and cannot be negative.")
    grid = np.linspace(0.02, 2.0, 100)
    best = grid[int(np.argmin([_left_over(n, t, v)[1] for n in grid]))]
    found = scipy.optimize.minimize_scalar(
        lambda n: _left_over(n, t, v)[1],
        bounds=(max(best - 0.04, 0.01), best + 0.04),
        method="bounded",
        options={"xatol": 1e-10},
    )
    (start, scale), rest = _left_over(float(found.x), t, v)
    spread = float(np.sqrt(rest / max(len(t) - 3, 1)))
    n = float(found.x)
    return PowerLaw(float(start), float(scale), n, spread, spread * _leverage(t, float(scale), n))


def _leverage(t: np.ndarray, scale: float, exponent: float) -> float:
    """Standard error of the exponent per unit of variation: √[(JᵀJ)⁻¹]ₙₙ at the fit."""
    log = np.log(np.where(t > 0, t, 1.0))
    jacobian = np.column_stack([np.ones_like(t), t**exponent, scale * t**exponent * log])
    return float(np.sqrt(max(np.linalg.pinv(jacobian.T @ jacobian)[2, 2], 0.0)))


def _left_over(exponent: float, t: np.ndarray, v: np.ndarray) -> tuple[np.ndarray, float]:
    columns = np.column_stack([np.ones_like(t), t**exponent])
    solution, *_ = np.linalg.lstsq(columns, v, rcond=None)
    return solution, float(((v - columns @ solution) ** 2).sum())
