"""One group's summary: mean, standard deviation and interval, with bounded readings given their due."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import exp, inf, isfinite, pi, sqrt
from typing import Any

import numpy as np
import scipy

from brunt_core.errors import InputError
from brunt_core.observations import Observation

MEAN, CENSORED, LOWER_BOUND, UPPER_BOUND, SINGLE, NOTHING = (
    "mean",
    "censored_mean",
    "lower_bound",
    "upper_bound",
    "single",
    "nothing",
)


@dataclass(frozen=True)
class Summary:
    """A group's estimate.

    ``estimate`` says what ``mean`` is: the sample mean; the mean of a normal distribution fitted
    with its bounded readings; a bound on the mean when too few broke; a single value; or nothing.
    ``sd``, ``standard_error``, ``df`` and the interval are ``None`` where they do not exist.
    """

    n: int
    n_bounded: int
    estimate: str
    mean: float
    sd: float | None = None
    standard_error: float | None = None
    df: float | None = None
    low: float | None = None
    high: float | None = None

    @property
    def cv(self) -> float | None:
        """Coefficient of variation: sd over mean."""
        return None if self.sd is None or not self.mean else self.sd / abs(self.mean)

    @property
    def sign(self) -> str:
        """``≥``, ``≤`` or nothing, to write before the mean."""
        return {LOWER_BOUND: "≥", UPPER_BOUND: "≤"}.get(self.estimate, "")


def t_quantile(probability: float, df: float) -> float:
    """Quantile of Student's t. Source: scipy.special.stdtrit.

    >>> round(t_quantile(0.975, 4), 6)
    2.776445
    """
    return float(scipy.special.stdtrit(df, probability))


def summarise(
    observations: Sequence[Observation], confidence: float = 0.95, rounding: float = 0.0
) -> Summary:
    """Mean, standard deviation, CV and t-interval of a group.

    Parameters: observations in any one unit; ``confidence`` between 0 and 1; ``rounding`` the
    standard uncertainty that the step of the display gives each reading by itself, in that unit
    (JCGM 100 F.2.2.1). It enters the standard error, so that readings rounded to one value do not
    pass for readings without variation; what is common to all of a rig does not.

    With exact readings only: the sample mean, s with n − 1, and mean ± t·√(s²/n + u_r²) (ISO 2602),
    where u_r² = u²/n + max(u² − s², 0)·(1 − 1/n): rounding averages out only where the readings
    variation over more than a step, else all may be off by the same.
    Where that would reach below zero although every reading is above, the interval is taken on the
    logarithm, mean · exp(± t·u/mean), which cannot; with one that failed at nothing it ends at zero.
    With one-sided readings and at least two others: maximum likelihood for a normal distribution,
    σ enlarged by √(n/(n−1)), the standard error from the observed information, and t with one
    degree of freedom less than the number that broke. With fewer: the bound that
    every one of them bears out (the smallest "at least", the largest "at most"), and no interval. A reading between two values counts as the
    middle, its width added to the variation as a rectangular distribution.

    >>> s = summarise([Observation.exact(v) for v in (28.0, 30.0, 26.0, 31.0, 25.0)])
    >>> s.mean, round(s.sd, 6), round(s.low, 4)
    (28.0, 2.54951, 24.8344)
    """
    if not 0 < confidence < 1:
        raise InputError("The confidence must lie between 0 and 1.", "confidence")
    if not observations:
        return Summary(0, 0, NOTHING, float("nan"))
    one_sided = [o for o in observations if o.lower is None or o.upper is None]
    if not one_sided:
        return _complete(observations, confidence, rounding)
    if len(observations) - len(one_sided) >= 2:
        return _censored(observations, len(one_sided), confidence, rounding)
    return _bound_only(observations, one_sided)


def _complete(observations: Sequence[Observation], confidence: float, rounding: float) -> Summary:
    values = np.array([o.anchor for o in observations])
    n, mean = len(values), float(values.mean())
    widths = np.array([o.upper - o.lower for o in observations])  # type: ignore[operator]
    between = int(np.count_nonzero(widths))
    if n == 1:
        return Summary(1, between, SINGLE, mean)
    sd = sqrt(float(values.var(ddof=1)) + float(np.mean(widths**2)) / 12)
    error = sqrt(sd**2 / n + _of_rounding(rounding, sd, n))
    low, high = _interval(mean, t_quantile((1 + confidence) / 2, n - 1) * error, values.min() > 0)
    return Summary(
        n, between, MEAN, mean=mean, sd=sd, standard_error=error, df=n - 1, low=low, high=high
    )


@dataclass(frozen=True)
class Columns:
    """Summaries of many groups of exact readings, an array each; nothing where a group has one reading."""

    n: Any
    mean: Any
    sd: Any
    standard_error: Any
    low: Any
    high: Any


def summarise_many(
    values: Any, sizes: Any, confidence: float = 0.95, rounding: float = 0.0
) -> Columns:
    """The same as :func:`summarise` for many groups of exact readings at once.

    Parameters: readings of all groups one after the other; how many each group has, 1 or more; the
    rest as there. A group of one has a mean and no variation (not a number).
    Raises :class:`InputError` for sizes that do not fit the readings.
    Source: :func:`summarise`, which it equals in the property tests.

    >>> c = summarise_many([28., 30., 26., 31., 25., 7.], [5, 1])
    >>> c.mean.tolist(), round(float(c.low[0]), 4), bool(np.isnan(c.sd[1]))
    ([28.0, 7.0], 24.8344, True)
    """
    x, n = np.asarray(values, float), np.asarray(sizes, int)
    if len(n) == 0 or n.min() < 1 or n.sum() != len(x):
        raise InputError("The sizes of the groups do not fit the readings.", "sizes")
    starts = np.concatenate([[0], np.cumsum(n)[:-1]])
    mean = np.add.reduceat(x, starts) / n
    off = x - np.repeat(mean, n)
    least = np.minimum.reduceat(x, starts)
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        variance = np.where(n > 1, np.add.reduceat(off * off, starts) / (n - 1), np.nan)
        alike = np.maximum(rounding**2 - variance, 0.0)
        error = np.sqrt(variance / n + rounding**2 / n + alike * (1 - 1 / n))
        kinds, place = np.unique(n, return_inverse=True)
        t = np.array([t_quantile((1 + confidence) / 2, k - 1) if k > 1 else np.nan for k in kinds])
        reach = t[place] * error
        factor = np.exp(np.minimum(reach / mean, 700.0))
        logs = (least > 0) & (reach >= mean) & (mean > 0)
        low = np.where(logs, mean / factor, mean - reach)
        high = np.where(logs, mean * factor, mean + reach)
    return Columns(n, mean, np.sqrt(variance), error, low=low, high=high)


def _of_rounding(rounding: float, sd: float, n: int) -> float:
    """Variance of a mean of n that rounding leaves open: it averages out only as far as the readings
    variation over more than a step; where they do not, all may be off by the same."""
    alike = max(rounding**2 - sd**2, 0.0)
    return rounding**2 / n + alike * (1 - 1 / n)


def _interval(mean: float, reach: float, positive: bool) -> tuple[float, float]:
    """Mean ± reach; on the logarithm where that would leave the values that can be."""
    if positive and reach >= mean > 0:
        factor = exp(min(reach / mean, 700.0))
        return mean / factor, mean * factor
    return mean - reach, mean + reach


def _bound_only(observations: Sequence[Observation], one_sided: Sequence[Observation]) -> Summary:
    n, anchors = len(observations), [o.anchor for o in observations]
    lower = all(o.upper is None for o in one_sided)
    upper = all(o.lower is None for o in one_sided)
    if lower == upper:
        return Summary(n, len(one_sided), NOTHING, float("nan"))
    borne_out = min(anchors) if lower else max(anchors)
    return Summary(n, len(one_sided), LOWER_BOUND if lower else UPPER_BOUND, borne_out)


def _censored(
    observations: Sequence[Observation], bounded: int, confidence: float, rounding: float
) -> Summary:
    n, exact = len(observations), len(observations) - bounded
    mean, sigma, error = fit_censored_normal(observations)
    if not isfinite(error):
        return _bound_only(
            observations, [o for o in observations if o.lower is None or o.upper is None]
        )
    widen = sqrt(n / (n - 1))
    error = sqrt((error * widen) ** 2 + _of_rounding(rounding, sigma * widen, n))
    positive = all(o.anchor > 0 for o in observations)
    low, high = _interval(mean, t_quantile((1 + confidence) / 2, exact - 1) * error, positive)
    if not positive and all(o.anchor >= 0 for o in observations):
        # One failed at nothing ("at most 0"): what is below nothing cannot be.
        low = max(low, 0.0) if any(o.lower is None for o in observations) else low
    return Summary(
        n,
        bounded,
        CENSORED,
        mean=mean,
        sd=sigma * widen,
        standard_error=error,
        df=exact - 1,
        low=low,
        high=high,
    )


def fit_censored_normal(observations: Sequence[Observation]) -> tuple[float, float, float]:
    """Mean, σ and the mean's standard error of a normal fitted by maximum likelihood.

    Exact readings enter by their density, one-sided ones by the probability beyond their bound;
    readings between two values by their middle. The error comes from the observed information.
    Returns an infinite error where the likelihood has no proper maximum.
    Source: Meeker & Escobar, Statistical Methods for Reliability Data, ch. 8 (method recalled);
    checked against ``scipy.stats.norm.fit`` on ``CensoredData``.

    >>> o = [Observation.exact(v) for v in (44.0, 46.0, 47.0)] + [Observation.at_least(45.0)]
    >>> [round(x, 3) for x in fit_censored_normal(o)[:2]]
    [45.833, 1.202]
    """
    anchors = np.array([o.anchor for o in observations])
    centre, scale = float(anchors.mean()), float(anchors.std() or abs(anchors.mean()) * 0.01 or 1.0)
    sides = np.array([1 if o.upper is None else -1 if o.lower is None else 0 for o in observations])
    z = (anchors - centre) / scale
    delta, theta, information = _newton(z[sides == 0], z[sides != 0], sides[sides != 0])
    mean, sigma = delta / theta, 1 / theta
    slope = np.array([sigma, -mean * sigma])
    variance = float(slope @ np.linalg.pinv(information) @ slope)
    error = sqrt(variance) * scale if variance > 0 and sigma > 1e-5 else inf
    return centre + scale * mean, scale * sigma, error


def _newton(exact: Any, bounds: Any, sides: Any) -> tuple[float, float, Any]:
    """Newton's method in δ = μ/σ and θ = 1/σ, where the log-likelihood is concave.

    Source: R. J. Olsen, Econometrica 46 (1978) 1211–1215 (recalled). Returns δ, θ and the
    information matrix there.
    """
    delta, theta = 0.0, 1.0
    for _ in range(100):
        gradient, information = _slope_and_information(exact, bounds, sides, delta, theta)
        step = np.linalg.solve(information, gradient)
        while theta + step[1] <= 0:
            step = step / 2
        delta, theta = delta + float(step[0]), theta + float(step[1])
        if np.max(np.abs(step)) < 1e-12 * (1 + theta) or theta > 1e6:
            break
    return delta, theta, _slope_and_information(exact, bounds, sides, delta, theta)[1]


def _slope_and_information(
    exact: Any, bounds: Any, sides: Any, delta: float, theta: float
) -> tuple[Any, Any]:
    u = theta * exact - delta
    v = sides * (delta - theta * bounds)
    mills = np.exp(-v * v / 2 - scipy.special.log_ndtr(v)) / sqrt(2 * pi)
    curve = mills * (v + mills)
    gradient = np.array(
        [
            np.sum(u) + np.sum(sides * mills),
            len(exact) / theta - np.sum(u * exact) - np.sum(sides * mills * bounds),
        ]
    )
    cross = -np.sum(exact) - np.sum(curve * bounds)
    information = np.array(
        [
            [len(exact) + np.sum(curve), cross],
            [cross, len(exact) / theta**2 + np.sum(exact**2) + np.sum(curve * bounds**2)],
        ]
    )
    return gradient, information
