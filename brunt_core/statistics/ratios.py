"""Ratio of two means with its interval."""

from dataclasses import dataclass, replace
from math import exp, hypot, log, sqrt

from brunt_core.errors import InputError
from brunt_core.statistics.comparisons import welch_df
from brunt_core.statistics.summaries import Summary, t_quantile


@dataclass(frozen=True)
class Ratio:
    """A ratio of means; ``low`` and ``high`` are ``None`` when it has no bounded interval.

    ``sign`` is ``≥`` or ``≤`` when one of the two is only a bound.
    """

    value: float
    low: float | None = None
    high: float | None = None
    df: float | None = None
    sign: str = ""


def widened(ratio: Ratio, relative: float, confidence: float = 0.95) -> Ratio:
    """A ratio's interval with a relative standard uncertainty more, normal, in quadrature on the logarithm.

    Parameters: ``relative`` as a share of the ratio, such as what two rigs' calibrations leave in it.
    Source: JCGM 100:2008 (GUM) 5.1.6 for the relative uncertainties of a quotient.

    >>> widened(Ratio(2.0, 2.0, 2.0), 0.01).high > 2.03, widened(Ratio(2.0, 1.8, 2.2), 0.0).high
    (True, 2.2)
    """
    if relative <= 0 or ratio.low is None or ratio.high is None or ratio.value <= 0:
        return ratio
    more = t_quantile((1 + confidence) / 2, 1e9) * relative
    low = 0.0 if ratio.low <= 0 else ratio.value * exp(-hypot(log(ratio.value / ratio.low), more))
    high = ratio.value * exp(hypot(log(ratio.high / ratio.value), more))
    return replace(ratio, low=low, high=high)


def ratio_of_means(top: Summary, bottom: Summary, confidence: float = 0.95) -> Ratio:
    """Ratio of two independent means, by Fieller's theorem.

    The interval holds every θ with (a − θb)² ≤ t²(u_a² + θ²u_b²). Degrees of freedom by
    Welch–Satterthwaite at the estimate. When t²u_b² ≥ b² the denominator does not differ significantly from
    zero, the interval is unbounded, and none is given. Where it would reach below zero although
    both means are above, it is taken on the logarithm, θ · exp(± t·√(u_a²/a² + u_b²/b²)).

    Parameters: summaries in one unit, the second with a mean that is not zero.
    Source: E. C. Fieller, J. R. Stat. Soc. B 16 (1954) 175–185; worked number in
    tests/reference/test_ratios.py.

    >>> from brunt_core.observations import Observation as O
    >>> from brunt_core.statistics.summaries import summarise
    >>> z, xy = (summarise([O.exact(v) for v in g]) for g in
    ...          ((28., 30., 26., 31., 25.), (48., 50., 51., 47., 49.)))
    >>> r = ratio_of_means(z, xy)
    >>> round(r.value, 4), round(r.low, 4), round(r.high, 4)
    (0.5714, 0.5087, 0.6358)
    """
    if not bottom.mean:
        raise InputError("A ratio to a mean of zero does not exist.")
    value = top.mean / bottom.mean
    if top.standard_error is None or bottom.standard_error is None:
        return Ratio(value, sign=_sign(top, bottom))
    u, v = top.standard_error, bottom.standard_error
    df = welch_df(u, top.df or 1, value * v, bottom.df or 1)
    t = t_quantile((1 + confidence) / 2, df)
    g = (t * v / bottom.mean) ** 2
    if g >= 1:
        return Ratio(value, df=df)
    reach = t / bottom.mean * sqrt(u * u * (1 - g) + value * value * v * v)
    low, high = sorted(((value - reach) / (1 - g), (value + reach) / (1 - g)))
    if low <= 0 < value:
        factor = exp(min(t * hypot(u / top.mean, v / bottom.mean), 700.0))
        low, high = value / factor, value * factor
    return Ratio(value, low, high, df=df)


def _sign(top: Summary, bottom: Summary) -> str:
    turned = {"≥": "≤", "≤": "≥", "": ""}[bottom.sign]
    if top.sign and turned and top.sign != turned:
        return "?"
    return top.sign or turned
