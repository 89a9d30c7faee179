"""Median failure height from passes and failures: up-and-down, probit, or bounds when few."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

import numpy as np
import numpy.typing as npt

from brunt_core.errors import InputError
from brunt_core.observations import Observation

Trial = tuple[float, bool]
FloatArray = npt.NDArray[np.float64]
FEW = 5
_MOST_STEPS = 60


@dataclass(frozen=True)
class Median:
    """The level at which half fail: as known, its standard error, how, and the spread found."""

    observation: Observation
    error: float
    how: str
    spread: float | None = None


def median_level(trials: Sequence[Trial]) -> Median:
    """The median failure level of (level, failed) trials in the order they were made.

    An up-and-down staircase of one step with four or more of the rarer outcome goes by Bruceton;
    other trials that overlap, five or more, by probit; else the answer is between the highest
    level passed and the lowest failed, or a bound. Raises :class:`InputError` with no trial.

    >>> median_level([(0.4, False), (0.5, True)]).observation
    Observation(lower=0.4, upper=0.5)
    """
    if not trials:
        raise InputError("No drop recorded yet.")
    passed = [level for level, failed in trials if not failed]
    failing = [level for level, failed in trials if failed]
    if not failing:
        return Median(Observation.at_least(max(passed)), 0.0, "all passed")
    if not passed:
        return Median(Observation.at_most(min(failing)), 0.0, "all failed")
    if staircase_step(trials) and min(len(passed), len(failing)) >= 4:
        return bruceton(trials)
    if len(trials) >= FEW and max(passed) > min(failing):
        return probit(trials)
    low, high = sorted((max(passed), min(failing)))
    return Median(Observation.between(low, high), 0.0, "between the highest pass and lowest fail")


def staircase_step(trials: Sequence[Trial]) -> float | None:
    """The step of an up-and-down staircase, or ``None`` when the trials are none.

    >>> round(staircase_step([(0.40, False), (0.45, True), (0.40, False), (0.45, False), (0.50, True)]), 9)
    0.05
    """
    if len(trials) < 3:
        return None
    step = abs(trials[1][0] - trials[0][0])
    for (level, failed), (following, _) in zip(trials, trials[1:], strict=False):
        expected = level - step if failed else level + step
        if abs(following - expected) > 1e-6 * max(step, 1e-12):
            return None
    return step or None


def bruceton(trials: Sequence[Trial]) -> Median:
    """Median and spread of an up-and-down staircase.

    With i the level above the lowest at which the rarer outcome fell, n_i its count there,
    N = Σn, A = Σi·n, B = Σi²·n, d the step: m = h0 + d·(A/N ± ½), + when passes are the rarer,
    − when failures are; s = 1.620·d·((N·B − A²)/N² + 0.029), the bracket above 0.3; s_m = s/√N.
    Source: Dixon & Mood, J. Am. Stat. Assoc. 43 (1948) 109; ASTM D5628 (both recalled).
    """
    step = staircase_step(trials)
    if step is None:
        raise InputError("These drops are not an up-and-down staircase.")
    failures = sum(failed for _, failed in trials)
    rarer = failures <= len(trials) - failures
    levels = np.array([level for level, failed in trials if failed == rarer])
    lowest, n = float(levels.min()), len(levels)
    i = np.round((levels - lowest) / step)
    mean = lowest + step * (i.sum() / n + (-0.5 if rarer else 0.5))
    bracket = (n * (i**2).sum() - i.sum() ** 2) / n**2
    spread = 1.620 * step * (max(bracket, 0.3) + 0.029)
    return Median(
        Observation.exact(float(mean)), float(spread / sqrt(n)), "up-and-down (Bruceton)", spread
    )


def probit(trials: Sequence[Trial]) -> Median:
    """Median by probit: P(fail) = Φ((h − m)/s), maximum likelihood; the error by the delta method.

    Fitted by Newton's method on levels brought to mean 0 and standard deviation 1, with the observed
    information. Trials that do not show more failures at higher levels, or whose passes and failures
    do not overlap, give bounds instead.
    Source: Finney, Probit Analysis (recalled); checked against statsmodels in
    tests/reference/test_outliers_and_staircase.py.

    >>> round(probit([(1.0, False), (2.0, True), (3.0, False), (4.0, True)] * 3).observation.anchor, 6)
    2.5
    """
    levels = np.array([level for level, _ in trials])
    failed = np.array([float(f) for _, f in trials])
    centre, width = levels.mean(), levels.std() or 1.0
    fitted = _probit_fit((levels - centre) / width, failed)
    if fitted is None or fitted[0][1] <= 0:
        bounds = Observation.between(float(levels.min()), float(levels.max()))
        return Median(bounds, 0.0, "no trend with height")
    (a, b), covariance = fitted
    slope = np.array([-1 / b, a / b**2])
    error = float(np.sqrt(slope @ covariance @ slope)) * width
    return Median(
        Observation.exact(float(centre - width * a / b)), error, "probit", float(width / b)
    )


def _probit_fit(z: FloatArray, failed: FloatArray) -> tuple[FloatArray, FloatArray] | None:
    """Intercept and slope with their covariance; ``None`` where passes and failures do not overlap."""
    from scipy.stats import norm

    signs, columns, beta = 2 * failed - 1, np.column_stack([np.ones_like(z), z]), np.zeros(2)
    for _ in range(_MOST_STEPS):
        linear = columns @ beta
        pull = signs * np.exp(norm.logpdf(linear) - norm.logcdf(signs * linear))
        information = (columns * (pull * (pull + linear))[:, None]).T @ columns
        if not np.linalg.cond(information) < 1e10:
            return None
        step = np.linalg.solve(information, columns.T @ pull)
        beta = beta + step
        if np.abs(step).max() < 1e-9:
            return beta, np.linalg.inv(information)
    return None
