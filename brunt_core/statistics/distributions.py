"""Normal, log-normal and Weibull fitted to readings of any kind: exact, at least, at most, between."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from math import exp, inf, isfinite, log, sqrt
from typing import Any

import numpy as np
import scipy

from brunt_core.errors import InputError
from brunt_core.observations import Observation

NORMAL, LOGNORMAL, WEIBULL = "normal", "lognormal", "weibull"
FAMILIES = (NORMAL, LOGNORMAL, WEIBULL)
# Another family is taken for the normal where its likelihood is e times greater: two points of AIC,
# all three having two parameters.
_BETTER_BY = 1.0
_STEEP = 20.0


@dataclass(frozen=True)
class Readings:
    """Unlike readings as arrays on the scale they are fitted on: ``low`` and ``high`` bounds, ``exact``
    marks, ``count`` of each."""

    low: Any
    high: Any
    exact: Any
    count: Any
    log_scale: bool

    @property
    def n(self) -> int:
        """How many."""
        return int(self.count.sum())


@dataclass(frozen=True)
class Fit:
    """A location–scale family fitted by maximum likelihood.

    ``location`` and ``scale`` are of the readings (normal) or of their natural logarithms (log-normal:
    mean and sd of the logs; Weibull: log of the characteristic strength and 1/shape).
    """

    family: str
    location: float
    scale: float
    log_likelihood: float
    readings: Readings

    @property
    def n(self) -> int:
        """All readings."""
        return self.readings.n

    @property
    def n_bounded(self) -> int:
        """Those of which only bounds are known."""
        return int(self.n - self.readings.count[self.readings.exact].sum())

    @property
    def parameters(self) -> dict[str, float]:
        """As the field names them: mean and sd; mu and sigma of the logs; shape and scale."""
        if self.family == WEIBULL:
            return {"shape": 1 / self.scale, "scale": exp(self.location)}
        names = ("mean", "sd") if self.family == NORMAL else ("mu", "sigma")
        return dict(zip(names, (self.location, self.scale), strict=True))

    @property
    def aicc(self) -> float:
        """Akaike's criterion with the small-sample term, infinite below four readings."""
        spare = self.n - 3
        return inf if spare <= 0 else 4 - 2 * self.log_likelihood + 12 / spare

    def quantile(self, share: float) -> float:
        """The strength that a share of all specimens stays below."""
        return self._back(self.location + self.scale * _standard_quantile(self.family, share))

    @property
    def median(self) -> float:
        """Half break below it."""
        return self.quantile(0.5)

    def bounds(self, share: float, confidence: float = 0.95) -> tuple[float, float]:
        """Two-sided interval of a quantile, equal tails; see :meth:`bound`."""
        tail = (1 - confidence) / 2
        return self.bound(share, tail), self.bound(share, 1 - tail)

    def bound(self, share: float, probability: float) -> float:
        """The value the quantile of ``share`` stays below with ``probability``.

        From the likelihood with the weight 1/σ for location and scale (the right Haar prior). Of
        complete samples of a location–scale family this is the exact conditional bound: of a normal
        one the t interval of the mean and the noncentral-t tolerance limit; with held specimens it
        is close (simulated, docs/verify.md).
        Source: J. F. Lawless, Statistical Models and Methods for Lifetime Data, app. E (recalled);
        checked against scipy's t and noncentral t.
        """
        values, weights = self._posterior
        z = _standard_quantile(self.family, share)
        places = self.location + self.scale * (values[0] + values[1] * z)
        order = np.argsort(places, axis=None)
        ordered = weights.ravel()[order]
        total = np.cumsum(ordered)
        at = float(np.interp(probability, (total - ordered / 2) / total[-1], places.ravel()[order]))
        return self._back(at)

    def _back(self, value: float) -> float:
        return exp(min(value, 700.0)) if self.readings.log_scale else value

    @cached_property
    def _posterior(self) -> tuple[Any, Any]:
        """A grid over location and scale in units of the fit, with its weights."""
        told = max(self.n - self._one_sided, 1)
        top = 1.5 + 26.0 / max(told - 1, 1)
        logs = np.linspace(-1.2 - 4.5 / sqrt(told), top, 260)
        reach = 9.0 / sqrt(told) + 30.0 * min(self._one_sided, 1) / told
        steps = np.linspace(-reach, reach, 301)
        s = np.exp(logs)[:, None]
        u = steps[None, :] * s
        level = _log_likelihood(
            self.readings, self.family, self.location + self.scale * u, self.scale * s
        )
        # The step in u is one of steps·s: its width is s, which the weight 1/σ and dσ = σ·dlogσ leave.
        density = np.exp(level - np.max(level)) * s
        return (u, np.broadcast_to(s, u.shape)), density

    @property
    def _one_sided(self) -> int:
        r = self.readings
        return int(r.count[~np.isfinite(r.low) | ~np.isfinite(r.high)].sum())


def readings_of(observations: Sequence[Observation], log_scale: bool) -> Readings:
    """Observations as arrays; on a log scale "at most" starts at zero.

    Raises :class:`InputError` for a reading at or below zero where logarithms are asked for.
    """
    low = np.array([-inf if o.lower is None else o.lower for o in observations])
    high = np.array([inf if o.upper is None else o.upper for o in observations])
    if log_scale:
        if np.any(high <= 0) or np.any(low[low == high] <= 0):
            raise InputError("Logarithms need readings above zero.", "value")
        with np.errstate(divide="ignore", invalid="ignore"):
            low, high = np.log(np.maximum(low, 0.0)), np.log(high)
    pairs, count = np.unique(np.column_stack([low, high]), axis=0, return_counts=True)
    low, high = pairs[:, 0], pairs[:, 1]
    return Readings(low, high, low == high, count, log_scale)


def fit_family(observations: Sequence[Observation], family: str = NORMAL) -> Fit:
    """Fit one family by maximum likelihood.

    Parameters: observations in any one unit; ``family`` of :data:`FAMILIES`. Exact readings enter by
    their density, one-sided ones by the probability beyond their bound, those between two values by
    the probability between.
    Raises :class:`InputError` for an unknown family, fewer than two readings, values without any
    variation, and where the likelihood has no proper greatest value (too few broke).
    Source: W. Q. Meeker & L. A. Escobar, Statistical Methods for Reliability Data, ch. 8 (recalled);
    checked against scipy's ``CensoredData`` fits and lifelines.

    >>> f = fit_family([Observation.exact(v) for v in (3, 5, 7, 18, 43, 85, 91, 98, 100, 130, 230, 487)], "weibull")
    >>> {k: round(v, 4) for k, v in f.parameters.items()}
    {'shape': 0.7939, 'scale': 94.9649}
    """
    if family not in FAMILIES:
        raise InputError(
            f"“{family}” is not an available distribution; there are {', '.join(FAMILIES)}.",
            "distribution",
        )
    if len(observations) < 2:
        raise InputError("A distribution needs two readings or more.", "value")
    data = readings_of(observations, family != NORMAL)
    told = np.concatenate([data.low[np.isfinite(data.low)], data.high[np.isfinite(data.high)]])
    if len(np.unique(told)) < 2:
        raise InputError("All readings are equal: there is no variation to fit.", "value")
    bounded = np.isfinite(data.low) & np.isfinite(data.high)
    if np.count_nonzero(bounded) == 0:
        raise InputError("Only bounds: too few failed to fit a distribution.", "value")
    centre, width = float(np.median(told)), float(told.std())
    scaled = replace(data, low=(data.low - centre) / width, high=(data.high - centre) / width)
    m, log_s = _maximum(scaled, family)
    location, scale = centre + width * m, width * exp(log_s)
    level = float(_log_likelihood(data, family, np.array([[location]]), np.array([[scale]]))[0, 0])
    if data.log_scale:
        level -= float(np.sum(data.low[data.exact] * data.count[data.exact]))
    return Fit(family, location, scale, level, data)


def _maximum(data: Readings, family: str) -> tuple[float, float]:
    """Location and log scale of the greatest likelihood, of readings of about unit width."""

    def loss(point: Any) -> float:
        value = _log_likelihood(
            data, family, np.array([[point[0]]]), np.array([[exp(min(point[1], 300.0))]])
        )[0, 0]
        return -float(value) if isfinite(value) else 1e12

    best = min(
        (
            scipy.optimize.minimize(
                loss, start, method="Nelder-Mead", options={"xatol": 1e-9, "fatol": 1e-11}
            )
            for start in ((0.0, -0.3), (0.5, 0.5))
        ),
        key=lambda r: r.fun,
    )
    again = scipy.optimize.minimize(
        loss, best.x, method="Nelder-Mead", options={"xatol": 1e-10, "fatol": 1e-12}
    )
    m, log_s = (float(v) for v in again.x)
    if abs(log_s) > _STEEP / 2 or abs(m) > 1e6:
        raise InputError(
            "Too few failed to fit a distribution: its standard deviation has no value.", "value"
        )
    return m, log_s


def _log_likelihood(data: Readings, family: str, location: Any, scale: Any) -> Any:
    """On a grid of (rows, columns): the sum over readings, of the fitted scale's own density."""
    total = np.zeros(np.broadcast_shapes(location.shape, scale.shape))
    for low, high, times in zip(data.low, data.high, data.count, strict=True):
        a, b = (low - location) / scale, (high - location) / scale
        if low == high:
            level = _log_density(family, a) - np.log(scale)
        elif not isfinite(high):
            level = _log_above(family, a)
        elif not isfinite(low):
            level = _log_below(family, b)
        else:
            level = _log_between(family, a, b)
        total = total + times * level
    return total


def _log_density(family: str, z: Any) -> Any:
    if family == WEIBULL:
        return z - np.exp(np.minimum(z, 700.0))
    return -0.5 * z * z - 0.9189385332046727


def _log_above(family: str, z: Any) -> Any:
    return -np.exp(np.minimum(z, 700.0)) if family == WEIBULL else scipy.special.log_ndtr(-z)


def _log_below(family: str, z: Any) -> Any:
    if family == WEIBULL:
        return np.log(-np.expm1(-np.exp(np.clip(z, -700.0, 700.0))))
    return scipy.special.log_ndtr(z)


def _log_between(family: str, a: Any, b: Any) -> Any:
    """log(F(b) − F(a)), from the side where it keeps its figures."""
    if family == WEIBULL:
        upper, lower = _log_above(family, a), _log_above(family, b)
    else:
        flip = a + b < 0
        upper = np.where(flip, scipy.special.log_ndtr(b), scipy.special.log_ndtr(-a))
        lower = np.where(flip, scipy.special.log_ndtr(a), scipy.special.log_ndtr(-b))
    with np.errstate(divide="ignore"):
        return upper + np.log1p(-np.exp(np.minimum(lower - upper, -1e-300)))


def _standard_quantile(family: str, share: float) -> float:
    if not 0 < share < 1:
        raise InputError("A share lies between 0 and 1.", "coverage")
    return log(-log(1 - share)) if family == WEIBULL else float(scipy.special.ndtri(share))


def best_fit(observations: Sequence[Observation]) -> Fit:
    """The family that fits best by a stated criterion: the normal, unless another's likelihood is at
    least e times greater (two points of Akaike's criterion; all have two parameters).

    Raises :class:`InputError` as :func:`fit_family` does where not even the normal can be fitted.

    >>> best_fit([Observation.exact(v) for v in (1.0, 1.1, 1.3, 2.0, 3.5, 7.0, 21.0, 40.0)]).family
    'lognormal'
    """
    normal = fit_family(observations, NORMAL)
    others = []
    for family in (LOGNORMAL, WEIBULL):
        try:
            others.append(fit_family(observations, family))
        except InputError:
            continue
    best = max(others, key=lambda f: f.log_likelihood, default=normal)
    return best if best.log_likelihood > normal.log_likelihood + _BETTER_BY else normal


@dataclass(frozen=True)
class Surviving:
    """Steps of the share that holds: (value, share above it), with its median, where it falls so far."""

    steps: tuple[tuple[float, float], ...]
    median: float | None


def surviving(observations: Sequence[Observation]) -> Surviving:
    """The share of specimens that hold a load, without any distribution.

    Of exact and "at least" readings the product-limit estimate of Kaplan and Meier; with "at most"
    and "between" the self-consistent estimate of Turnbull, its mass at the upper ends. The median is
    the first value that half or fewer outlive; of exact readings alone the usual one, the middle of
    the middle two where their number is even.
    Raises :class:`InputError` for no readings.
    Source: Kaplan & Meier, J. Am. Stat. Assoc. 53 (1958) 457; B. W. Turnbull, J. R. Stat. Soc. B 38
    (1976) 290; checked against scipy's ``ecdf`` and lifelines.

    >>> O = Observation
    >>> surviving([O.exact(9), O.exact(13), O.at_least(13), O.exact(18)]).steps
    ((9, 0.75), (13, 0.5), (18, 0.0))
    """
    if not observations:
        raise InputError("There are no readings.", "value")
    if all(o.is_exact or o.upper is None for o in observations):
        values = np.array([float(o.lower or 0.0) for o in observations])
        exact = np.array([o.is_exact for o in observations])
        data = scipy.stats.CensoredData(uncensored=values[exact], right=values[~exact])
        found = scipy.stats.ecdf(data).sf
        broke = np.isin(found.quantiles, values[exact])
        pairs = zip(found.quantiles[broke], found.probabilities[broke], strict=True)
        steps = tuple((_tidy(v), round(float(p), 12)) for v, p in pairs)
    else:
        steps = _turnbull(observations)
    if all(o.is_exact for o in observations):
        return Surviving(steps, _tidy(np.median([o.anchor for o in observations])))
    return Surviving(steps, next((v for v, p in steps if p <= 0.5 + 1e-9), None))


def _tidy(value: Any) -> float:
    number = float(value)
    return int(number) if number.is_integer() else number


def _turnbull(observations: Sequence[Observation]) -> tuple[tuple[float, float], ...]:
    low = np.array([-inf if o.lower is None else float(o.lower) for o in observations])
    high = np.array([inf if o.upper is None else float(o.upper) for o in observations])
    ends = np.unique(np.append(high[np.isfinite(high)], inf))
    inside = (ends[None, :] <= high[:, None]) & (ends[None, :] > low[:, None])
    inside |= (low == high)[:, None] & (ends[None, :] == high[:, None])
    mass = np.full(len(ends), 1 / len(ends))
    for _ in range(5000):
        share = inside * mass
        new = (share / share.sum(axis=1, keepdims=True)).mean(axis=0)
        if np.max(np.abs(new - mass)) < 1e-12:
            break
        mass = new
    above = 1 - np.cumsum(mass)
    return tuple(
        (_tidy(v), round(float(max(p, 0.0)), 9))
        for v, p, m in zip(ends, above, mass, strict=True)
        if isfinite(v) and m > 1e-9
    )
