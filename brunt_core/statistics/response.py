"""A property over a setting: none, straight, curved or levelling off; its optimum, its odd level."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from math import inf, log, sqrt
from typing import Any

import numpy as np
import scipy

from brunt_core.errors import InputError
from brunt_core.quantities.rendering import number, p_value
from brunt_core.statistics.summaries import t_quantile

NONE, STRAIGHT, CURVED, PLATEAU = "none", "straight", "curved", "plateau"


@dataclass(frozen=True)
class Optimum:
    """The best setting with its interval; an open end is ``None``. ``at_edge`` where it is the last tried."""

    value: float
    low: float | None
    high: float | None
    at_edge: bool


@dataclass(frozen=True)
class OddLevel:
    """A level off the curve by more than its own variation explains. ``alone`` when one specimen makes it."""

    level: float
    mean: float
    expected: float
    p: float
    alone: bool


@dataclass(frozen=True)
class Response:
    """A fitted curve.

    ``coefficients`` by powers of the setting (a plateau: start, slope, setting where it levels off);
    ``p_none`` of the F test against no trend, corrected for three curves tried; ``lack_of_fit_p``
    of the levels' means about the curve against the variation within levels, ``None`` without
    replicates or spare levels.
    """

    model: str
    coefficients: tuple[float, ...]
    n: int
    levels: int
    residual_sd: float
    p_none: float | None
    lack_of_fit_p: float | None
    optimum: Optimum | None
    odd: tuple[OddLevel, ...]
    tried: tuple[str, ...]
    design: Callable[[Any], Any]
    covariance: Any
    freedom: int

    def at(self, setting: float) -> float:
        """The curve at a setting."""
        return float(self.design(np.array([setting]))[0] @ np.array(self._weights))

    @property
    def _weights(self) -> tuple[float, ...]:
        return self.coefficients[:2] if self.model == PLATEAU else self.coefficients

    def band(self, setting: float, confidence: float = 0.95) -> tuple[float, float] | None:
        """The curve's simultaneous band there, ŷ ± √(p·F)·u (Working and Hotelling).

        ``None`` where there is nothing left to judge variation by.
        """
        if self.freedom < 1:
            return None
        row = self.design(np.array([setting]))[0]
        p = len(row)
        reach = sqrt(
            p
            * float(scipy.special.fdtri(p, self.freedom, confidence))
            * max(row @ self.covariance @ row, 0.0)
        )
        return self.at(setting) - reach, self.at(setting) + reach


def respond(
    settings: Sequence[float],
    values: Sequence[float],
    better: str = "higher",
    confidence: float = 0.95,
) -> Response:
    """Choose and fit a curve of a property over one setting.

    Parameters: one setting and one value a specimen, any units; ``better`` higher or lower.
    None, straight, curved (second degree, from three levels on) and a plateau (straight, then level,
    from four levels on) are fitted by least squares; the simplest within two points of the least
    AICc wins where its F test against none, at 1 − ``confidence`` shared by the curves tried
    (Bonferroni), tells it; else none: a curve is reported only where it is significant. The optimum of a curve
    is its vertex with Fieller's interval, of a plateau where it levels off with its likelihood
    interval, else the edge. Lack of fit by the usual F test; a level is odd when its mean lies off the
    curve through the others by more than t at Bonferroni's level.
    Raises :class:`InputError` for fewer than three values or two levels, or numbers that are none.
    Source: N. R. Draper & H. Smith, Applied Regression Analysis, ch. 1, 2, 8 (recalled); C. M.
    Hurvich & C.-L. Tsai, Biometrika 76 (1989) 297; checked against statsmodels and NIST's Norris.

    >>> r = respond([180, 180, 200, 200, 220, 220, 240, 240], [30, 31, 38, 39, 40, 39, 33, 34])
    >>> r.model, round(r.optimum.value, 1), r.optimum.at_edge
    ('curved', 212.9, False)
    """
    x, y, levels = _arrays(settings, values)
    fits = _fits(x, y, levels, better)
    flat = fits[NONE]
    tried = [m for m in fits if m != NONE]
    best = _simplest_good(fits, len(x))
    if best.model == NONE and len(tried) > 0:
        p = None
    else:
        p = min(_against(flat, best, len(x)) * len(tried), 1.0)
        if p >= 1 - confidence:
            best, p = flat, p
    freedom = len(x) - best.parameters
    sigma2 = best.squares / freedom if freedom > 0 else 0.0
    design = best.design
    rows = design(x)
    covariance = sigma2 * np.linalg.pinv(rows.T @ rows)
    return Response(
        best.model,
        best.coefficients,
        n=len(x),
        levels=len(levels),
        residual_sd=sqrt(sigma2),
        p_none=p,
        lack_of_fit_p=_lack_of_fit(x, y, levels, best),
        optimum=_optimum(
            x,
            y,
            levels,
            fit=best,
            covariance=covariance,
            freedom=freedom,
            better=better,
            confidence=confidence,
        ),
        odd=_odd(x, y, levels, best, confidence),
        tried=tuple(tried),
        design=design,
        covariance=covariance,
        freedom=freedom,
    )


def _arrays(settings: Sequence[float], values: Sequence[float]) -> tuple[Any, Any, Any]:
    x, y = np.array(settings, float), np.array(values, float)
    if len(x) != len(y):
        raise InputError("Each value has one setting.", "setting")
    if not (np.all(np.isfinite(x)) and np.all(np.isfinite(y))):
        raise InputError("A trend needs numbers.", "value")
    levels = np.unique(x)
    if len(x) < 3 or len(levels) < 2:
        raise InputError("A trend needs three values at two settings or more.", "setting")
    return x, y, levels


def _simplest_good(fits: dict[str, "_Fit"], n: int) -> "_Fit":
    """The one of fewest parameters within two points of the least AICc."""
    least = min(f.aicc(n) for f in fits.values())
    good = [f for f in fits.values() if f.aicc(n) <= least + 2]
    return min(good, key=lambda f: (f.parameters, f.aicc(n)))


@dataclass(frozen=True)
class _Fit:
    model: str
    coefficients: tuple[float, ...]
    squares: float
    parameters: int
    design: Callable[[Any], Any]

    def aicc(self, n: int) -> float:
        k = self.parameters + 1
        if n - k - 1 <= 0:
            return inf if self.model != NONE else 1e300
        return n * log(max(self.squares, 1e-300) / n) + 2 * k + 2 * k * (k + 1) / (n - k - 1)


def _powers(degree: int) -> Callable[[Any], Any]:
    return lambda x: np.vander(np.asarray(x, float), degree + 1, increasing=True)


def _least_squares(rows: Any, y: Any) -> tuple[Any, float]:
    scale = np.maximum(np.max(np.abs(rows), axis=0), 1e-300)
    found, *_ = np.linalg.lstsq(rows / scale, y, rcond=None)
    left = y - (rows / scale) @ found
    return found / scale, float(left @ left)


def _fits(x: Any, y: Any, levels: Any, better: str) -> dict[str, _Fit]:
    found = {}
    for model, degree, least in ((NONE, 0, 1), (STRAIGHT, 1, 2), (CURVED, 2, 3)):
        if len(levels) < least or len(x) <= degree + 1:
            continue
        design = _polynomial(degree, float(levels.mean()))
        weights, squares = _least_squares(design(x), y)
        found[model] = _Fit(model, tuple(map(float, weights)), squares, degree + 1, design)
    if len(levels) >= 4 and len(x) > 4:
        found[PLATEAU] = _plateau(x, y, levels)
    return {
        k: _in_powers(f, float(levels.mean())) if k in (STRAIGHT, CURVED) else f
        for k, f in found.items()
    }


def _polynomial(degree: int, centre: float) -> Callable[[Any], Any]:
    return lambda x: np.vander(np.asarray(x, float) - centre, degree + 1, increasing=True)


def _in_powers(fit: _Fit, centre: float) -> _Fit:
    """Coefficients of the setting itself, from those about the levels' middle."""
    a, b, *rest = fit.coefficients
    c = rest[0] if rest else 0.0
    plain = (a - b * centre + c * centre**2, b - 2 * c * centre, c)
    return _Fit(
        fit.model,
        plain[: len(fit.coefficients)],
        fit.squares,
        fit.parameters,
        _powers(len(fit.coefficients) - 1),
    )


def _knee(knee: float, rising_first: bool) -> Callable[[Any], Any]:
    """Rows of start and slope: sloped up to the knee and level behind it, or the other way round."""

    def design(x: Any) -> Any:
        x = np.asarray(x, float)
        run = np.minimum(x, knee) - knee if rising_first else np.maximum(x, knee) - knee
        return np.column_stack([np.ones_like(run), run])

    return design


def _plateau(x: Any, y: Any, levels: Any) -> _Fit:
    """Sloped, then level, in either order; the knee where it leaves least, between the second and last
    but one level and not in the outer tenths."""
    tenth = 0.1 * (levels[-1] - levels[0])
    knees = np.linspace(max(levels[1], levels[0] + tenth), min(levels[-2], levels[-1] - tenth), 121)
    squares = {first: _squares_at(x, y, knees, first) for first in (True, False)}
    first = bool(squares[True].min() <= squares[False].min())
    knee = float(knees[int(np.argmin(squares[first]))])
    design = _knee(knee, first)
    weights, least = _least_squares(design(x), y)
    return _Fit(PLATEAU, (float(weights[0]), float(weights[1]), knee), least, 3, design)


def _squares_at(x: Any, y: Any, knees: Any, first: bool) -> Any:
    """What is left of the squares with the knee at each of these places."""
    runs = x[None, :] - knees[:, None]
    runs = np.minimum(runs, 0.0) if first else np.maximum(runs, 0.0)
    runs = runs - runs.mean(axis=1, keepdims=True)
    about = y - y.mean()
    spread = (runs**2).sum(axis=1)
    explained = np.divide((runs @ about) ** 2, spread, out=np.zeros(len(knees)), where=spread > 0)
    return np.maximum(float(about @ about) - explained, 0.0)


def _against(flat: _Fit, fit: _Fit, n: int) -> float:
    """p of the F test of a curve against none."""
    more, spare = fit.parameters - 1, n - fit.parameters
    if spare < 1:
        return 1.0
    if fit.squares <= 1e-24 * max(flat.squares, 1e-300):
        return 0.0
    f = (flat.squares - fit.squares) / more / (fit.squares / spare)
    return float(scipy.special.fdtrc(more, spare, max(f, 0.0)))


def _within(x: Any, y: Any, levels: Any) -> tuple[float, int]:
    squares = sum(float(np.sum((y[x == v] - y[x == v].mean()) ** 2)) for v in levels)
    return squares, len(x) - len(levels)


def _lack_of_fit(x: Any, y: Any, levels: Any, fit: _Fit) -> float | None:
    pure, spare = _within(x, y, levels)
    more = len(levels) - fit.parameters
    if more < 1 or spare < 1 or pure <= 0:
        return None
    f = max(fit.squares - pure, 0.0) / more / (pure / spare)
    return float(scipy.special.fdtrc(more, spare, f))


def _optimum(
    x: Any,
    y: Any,
    levels: Any,
    fit: _Fit,
    covariance: Any,
    freedom: int,
    better: str,
    confidence: float,
) -> Optimum | None:
    up = better != "lower"
    if fit.model == NONE:
        return None
    if fit.model == CURVED:
        b, c = fit.coefficients[1:]
        vertex = -b / (2 * c)
        if (c < 0) == up and levels[0] <= vertex <= levels[-1]:
            low, high = _fieller(b, c, covariance, freedom, confidence)
            return Optimum(
                vertex,
                low if low is not None and low >= levels[0] else None,
                high if high is not None and high <= levels[-1] else None,
                False,
            )
    if fit.model == PLATEAU:
        return _where_level(x, y, levels, fit, up, confidence)
    ends = fit.design(np.array([levels[0], levels[-1]])) @ np.array(fit.coefficients)
    edge = (levels[0], levels[-1])[int(np.argmax(ends) if up else np.argmin(ends))]
    return Optimum(float(edge), None, None, True)


def _fieller(
    b: float, c: float, covariance: Any, freedom: int, confidence: float
) -> tuple[float | None, float | None]:
    """Interval of −b/(2c): every v with b + 2cv within t of zero."""
    t2 = t_quantile((1 + confidence) / 2, freedom) ** 2 if freedom > 0 else inf
    vb, vc, vbc = covariance[1, 1], covariance[2, 2], covariance[1, 2]
    a2 = 4 * (c * c - t2 * vc)
    a1 = 4 * (b * c - t2 * vbc)
    a0 = b * b - t2 * vb
    root = a1 * a1 - 4 * a2 * a0
    if not a2 > 0 or root < 0:
        return None, None
    ends = (float((-a1 - sqrt(root)) / (2 * a2)), float((-a1 + sqrt(root)) / (2 * a2)))
    return ends


def _where_level(
    x: Any, y: Any, levels: Any, fit: _Fit, up: bool, confidence: float
) -> Optimum | None:
    """Where nothing more is gained: the knee of a rise that levels off, or of a level that falls."""
    knee, slope = fit.coefficients[2], fit.coefficients[1]
    first = bool(fit.design(np.array([knee + 1.0]))[0, 1] == 0)
    gains_to_the_knee = (slope > 0) == up if first else (slope < 0) == up
    if not gains_to_the_knee:
        edge = levels[0] if first else levels[-1]
        return Optimum(float(edge), None, None, True)
    freedom = len(x) - 3
    limit = fit.squares * (1 + t_quantile((1 + confidence) / 2, freedom) ** 2 / freedom)
    grid = np.linspace(levels[0], levels[-1], 241)
    kept = grid[_squares_at(x, y, grid, first) <= limit]
    low, high = (float(kept[0]), float(kept[-1])) if len(kept) else (knee, knee)
    return Optimum(
        knee,
        low if low > levels[0] else None,
        high if high < levels[-1] else None,
        False,
    )


def _odd(x: Any, y: Any, levels: Any, fit: _Fit, confidence: float) -> tuple[OddLevel, ...]:
    """Levels whose mean lies off the curve through the others, judged by the variation within levels.

    One at a time, the farthest first, so that one odd level does not make its neighbours odd.
    """
    pure, spare = _within(x, y, levels)
    if len(levels) - 1 <= fit.parameters or spare < 2 or pure <= 0:
        return ()
    found: list[OddLevel] = []
    left = np.ones(len(x), bool)
    while len(np.unique(x[left])) - 1 > fit.parameters:
        tried = [
            t
            for v in np.unique(x[left])
            if (t := _off(x[left], y[left], float(v), fit, pure / spare, spare))
        ]
        worst = min(tried, key=lambda o: o.p, default=None)
        if worst is None or worst.p >= (1 - confidence) / len(levels):
            break
        found.append(replace(worst, p=min(worst.p * len(levels), 1.0)))
        left &= x != worst.level
    return tuple(sorted(found, key=lambda o: o.level))


def _off(x: Any, y: Any, level: float, fit: _Fit, sigma2: float, spare: int) -> OddLevel | None:
    """One level beside the curve through the others, with its own p."""
    rest = x != level
    rows = fit.design(x[rest])
    if np.linalg.matrix_rank(rows) < rows.shape[1]:
        return None
    weights, _ = _least_squares(rows, y[rest])
    row = fit.design(np.array([level]))[0]
    own = y[~rest]
    error = sqrt(sigma2 * (1 / len(own) + float(row @ np.linalg.pinv(rows.T @ rows) @ row)))
    mean, expected = float(own.mean()), float(row @ weights)
    p = float(2 * scipy.special.stdtr(spare, -abs(mean - expected) / error))
    return OddLevel(level, mean, expected, p=p, alone=_one_makes_it(own, expected, error))


def _one_makes_it(own: Any, expected: float, error: float) -> bool:
    """Whether the level would be plain without its farthest specimen."""
    if len(own) < 3:
        return False
    rest = np.delete(own, int(np.argmax(np.abs(own - expected))))
    return bool(abs(float(rest.mean()) - expected) < 2 * error)


def response_in_words(found: Response, setting: str, unit: str = "") -> list[str]:
    """What the curve says, a sentence each.

    >>> r = respond([1, 1, 2, 2, 3, 3], [10, 10.4, 10.3, 9.9, 10.1, 10.2])
    >>> response_in_words(r, "Nozzle temperature", "°C")[0]
    'Nozzle temperature has no significant effect.'
    """

    def told(value: float) -> str:
        return f"{number(value, '.4g')} {unit}".strip()

    said = []
    o = found.optimum
    if found.model == NONE or o is None:
        said.append(f"{setting} has no significant effect.")
    elif o.at_edge:
        said.append(f"{setting}: best at {told(o.value)}, the end of the range: test beyond it.")
    else:
        ends = [
            f"from {told(o.low)}" if o.low is not None else "open below",
            f"to {told(o.high)}" if o.high is not None else "open above",
        ]
        kind = "levels off at" if found.model == PLATEAU else "best at"
        said.append(f"{setting}: {kind} {told(o.value)} ({' '.join(ends)}).")
    for odd in found.odd:
        why = (
            "caused by one specimen: check it before trusting the dip"
            if odd.alone
            else f"more than the variation explains ({p_value(odd.p)}): real, and not a smooth curve"
        )
        said.append(f"{told(odd.level)} is off the curve: {why}.")
    p = found.lack_of_fit_p
    if p is not None and p < 0.05 and not found.odd:
        said.append(
            f"The levels deviate from the curve by more than their variation ({p_value(p)})."
        )
    return said
