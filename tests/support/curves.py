"""Curves whose slope and yield are known: Ramberg–Osgood with a toe, noise, a break; files of them."""

from dataclasses import dataclass

import numpy as np

from brunt_core.curves.reading import LoadCurve

AREA, GAUGE = 40e-6, 0.05


@dataclass(frozen=True)
class Known:
    """A curve and what is true of it, in SI."""

    curve: LoadCurve
    slope: float
    yield_load: float


def ramberg_osgood(
    *, modulus=2500e6, yield_stress=45e6, n=10, toe=0.0, points=200, noise=0.0, top=1.3, seed=0
) -> Known:
    """Strain = σ/E + 0.002 (σ/σ_y)ⁿ: by its definition the 0.2 % offset yield is σ_y.

    ``toe`` is the share of the yield load at which a parabolic toe has run into the line; noise
    is a share of the peak; after ``top`` · σ_y it breaks.
    """
    stress = np.linspace(0, top * yield_stress, 20_000)
    travel = (stress / modulus + 0.002 * (stress / yield_stress) ** n) * GAUGE
    slope, shift = modulus * AREA / GAUGE, toe * yield_stress / modulus * GAUGE / 2
    x = np.linspace(0, travel[-1] + shift, points)
    force = np.interp(x, travel + shift, stress * AREA)
    if shift:
        start = x < 2 * shift
        force[start] = slope * x[start] ** 2 / (4 * shift)
    after = max(3, points // 20)
    x = np.append(x, x[-1] + (x[1] - x[0]) * np.arange(1, after + 1))
    force = np.append(force, np.linspace(0.3 * force[-1], 0, after))
    force = force + np.random.default_rng(seed).normal(0, noise * top * yield_stress * AREA, len(x))
    return Known(LoadCurve(x, force), slope, yield_stress * AREA)


def pulled(points=60):
    """Time in s, travel in mm and load in N of a bar that yields and breaks, as a frame logs them."""
    x = np.linspace(0, 3, points)
    force = np.minimum(1500 * x, 1800 + 30 * x)
    force[-4:] = [300, 200, 100, 0]
    return np.arange(points) * 0.5, x, force


def german(value: float, digits: int = 2) -> str:
    """A number with a decimal comma and thousands points: 1.234,50."""
    return f"{value:,.{digits}f}".translate(str.maketrans(",.", ".,"))
