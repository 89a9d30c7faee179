"""Where the variation comes from: variance components of lot, plate, day, operator, rig; drift over order."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import exp, log, pi, sqrt
from typing import Any

import numpy as np
import scipy

from brunt_core.errors import InputError
from brunt_core.statistics.summaries import t_quantile

_MOST = 1500


@dataclass(frozen=True)
class Component:
    """One source: its standard deviation, its share of the whole variance, its levels, and p that there
    is none of it (``None`` where that cannot be judged)."""

    name: str
    sd: float
    share: float
    levels: int
    p: float | None


@dataclass(frozen=True)
class Components:
    """The parts of the variation within conditions. ``rest`` is what no named source explains."""

    parts: tuple[Component, ...]
    rest: Component
    n: int
    excluded: Mapping[str, str]

    @property
    def sd(self) -> float:
        """The variation of one specimen, all sources together."""
        return sqrt(sum(p.sd**2 for p in (*self.parts, self.rest)))


def components(
    values: Sequence[float],
    conditions: Sequence[str],
    sources: Mapping[str, Sequence[str]],
) -> Components:
    """Variance components by restricted maximum likelihood, the conditions' means taken out.

    Parameters: a value for each specimen, in one unit; its condition; and by source a level for each
    (sources may be nested or crossed). Sources with one level, with a level for each specimen, or
    that run along with the conditions or with one another are excluded, with the reason.
    p is that of the likelihood ratio against none of it, half χ² with one degree of freedom (the
    variance cannot be below zero).
    Raises :class:`InputError` for unlike lengths, fewer than four values, more than 1500, or one value in
    each condition.
    Source: H. D. Patterson & R. Thompson, Biometrika 58 (1971) 545–554; S. G. Self & K.-Y. Liang, J. Am. Stat. Assoc. 82
    (1987) 605–610; checked against statsmodels' mixed model and published fits of the rail and
    paste-strength data.

    >>> y = [54., 53., 55., 26., 37., 32., 78., 91., 85.]
    >>> c = components(y, ["all"] * 9, {"rail": ["1"] * 3 + ["2"] * 3 + ["3"] * 3})
    >>> round(c.parts[0].sd, 1), round(c.rest.sd, 1)
    (26.5, 5.0)
    """
    y = np.array(values, float)
    fixed = _indicators(conditions)
    _check(y, fixed, (conditions, *sources.values()))
    kept, excluded = _usable(fixed, sources, len(y))
    names = list(kept)
    scale = float(y.std()) or 1.0
    y = y / scale
    loss = _restricted(y, fixed, [kept[n] for n in names])
    best = _least(loss, len(names))
    variances = _variances(loss, best)
    level = -loss(best)[0]
    parts = []
    total = float(sum(variances))
    for i, name in enumerate(names):
        others = [kept[n] for n in names if n != name]
        without = _restricted(y, fixed, others)
        gone = 2 * (level + without(_least(without, len(others)))[0])
        p = float(0.5 * scipy.special.chdtrc(1, gone)) if gone > 1e-9 else 1.0
        parts.append(
            Component(
                name,
                sqrt(variances[i]) * scale,
                variances[i] / total if total else 0.0,
                kept[name].shape[1],
                min(p, 1.0),
            )
        )
    rest = variances[-1]
    return Components(
        tuple(sorted(parts, key=lambda c: -c.sd)),
        Component(
            "specimen to specimen", sqrt(rest) * scale, rest / total if total else 0.0, len(y), None
        ),
        n=len(y),
        excluded=excluded,
    )


def _check(y: Any, fixed: Any, words: Sequence[Sequence[str]]) -> None:
    """Refuse what variance components cannot be worked out from."""
    if any(len(s) != len(y) for s in words):
        raise InputError("Each value has one level of each source.", "source")
    if len(y) < 4 or not np.all(np.isfinite(y)):
        raise InputError("Variance components need four numbers or more.", "value")
    if len(y) > _MOST:
        raise InputError(f"More than {_MOST} values at once are too many.", "value")
    if len(y) == np.linalg.matrix_rank(fixed):
        raise InputError("Each condition has one value: there is no variation to analyse.", "value")


def _indicators(words: Sequence[str]) -> Any:
    levels = list(dict.fromkeys(words))
    return (np.array(words, object)[:, None] == np.array(levels, object)[None, :]).astype(float)


def _usable(
    fixed: Any, sources: Mapping[str, Sequence[str]], n: int
) -> tuple[dict[str, Any], dict[str, str]]:
    kept: dict[str, Any] = {}
    excluded: dict[str, str] = {}
    for name, words in sources.items():
        z = _indicators(words)
        if z.shape[1] < 2:
            excluded[name] = "one only"
        elif z.shape[1] == n:
            excluded[name] = "different for each specimen"
        elif np.linalg.matrix_rank(np.column_stack([fixed, z])) == np.linalg.matrix_rank(fixed):
            excluded[name] = "confounded with the conditions"
        elif same := next((k for k, other in kept.items() if _alike(z, other)), None):
            excluded[name] = f"confounded with {same}"
        else:
            kept[name] = z
    return kept, excluded


def _alike(one: Any, other: Any) -> bool:
    return one.shape == other.shape and bool(np.all((one.T @ other > 0).sum(axis=1) == 1))


def _restricted(y: Any, fixed: Any, sources: Sequence[Any]) -> Any:
    """Minus the restricted log-likelihood of log variance ratios, residual variance profiled out."""
    n, rank = len(y), int(np.linalg.matrix_rank(fixed))
    z = np.column_stack([np.zeros((n, 0)), *sources])
    sizes = [s.shape[1] for s in sources]
    both = np.column_stack([fixed, y])
    zz, zb, bb = z.T @ z, z.T @ both, both.T @ both

    def loss(point: Any) -> tuple[float, float]:
        # V = I + ZGZ' through the levels alone (Woodbury): log|V| = log|I + √G Z'Z √G|.
        root = np.repeat(np.exp(np.clip(np.asarray(point, float), -40.0, 40.0) / 2), sizes)
        inner = np.eye(len(root)) + root[:, None] * zz * root[None, :]
        lower = np.linalg.cholesky(inner) if len(root) else inner
        half = np.linalg.solve(lower, root[:, None] * zb) if len(root) else zb
        left = bb - half.T @ half
        xx, xy, yy = left[:-1, :-1], left[:-1, -1], left[-1, -1]
        weights = np.linalg.lstsq(xx, xy, rcond=None)[0]
        sigma2 = max(float(yy - xy @ weights) / (n - rank), 1e-300)
        log_v = 2 * float(np.sum(np.log(np.diag(lower)))) if len(root) else 0.0
        log_x = float(np.sum(np.log(np.linalg.eigvalsh(xx)[-rank:])))
        level = (n - rank) * (log(2 * pi * sigma2) + 1) + log_v + log_x
        return level / 2, sigma2

    return loss


def _least(loss: Any, count: int) -> Any:
    """Log ratios of the greatest likelihood, one of the starts at no variance at all."""
    if count == 0:
        return np.array([])
    starts = [np.full(count, s) for s in (-1.5, 1.0)]
    starts += [np.where(np.arange(count) == i, 0.5, -12.0) for i in range(count)]
    starts.append(np.full(count, -30.0))
    found = [
        scipy.optimize.minimize(
            lambda p: loss(p)[0], s, method="Nelder-Mead", options={"xatol": 1e-6, "fatol": 1e-9}
        )
        for s in starts[: 2 + count]
    ]
    best = min(found, key=lambda f: f.fun).x
    return best if loss(best)[0] <= loss(starts[-1])[0] else starts[-1]


def _variances(loss: Any, best: Any) -> list[float]:
    _, sigma2 = loss(best)
    ratios = [exp(min(max(g, -40.0), 40.0)) for g in best]
    return [sigma2 * (r if r > 1e-8 else 0.0) for r in ratios] + [sigma2]


@dataclass(frozen=True)
class Drift:
    """A slope over the order of tests, or over a place, in the unit of the values, conditions taken out."""

    slope: float
    low: float
    high: float
    p: float
    over_all: float

    @property
    def told(self) -> bool:
        """Whether it is significant."""
        return not self.low <= 0 <= self.high


def drift(
    values: Sequence[float],
    conditions: Sequence[str],
    order: Sequence[float],
    confidence: float = 0.95,
) -> Drift | None:
    """The straight change along an order (of tests, or of places), beside the conditions' means.

    Parameters: values in one unit, their conditions, and a number each for the order. ``over_all`` is
    the change from the first to the last. ``None`` where nothing is left to judge by.
    Source: least squares; checked against scipy's ``linregress``.

    >>> d = drift([10., 11., 12., 13., 14.2], ["a"] * 5, [1, 2, 3, 4, 5])
    >>> round(d.slope, 2), d.told
    (1.04, True)
    """
    y, x = np.array(values, float), np.array(order, float)
    fixed = _indicators(conditions)
    spare = len(y) - int(np.linalg.matrix_rank(fixed)) - 1
    if spare < 1:
        return None
    q, _ = np.linalg.qr(fixed)
    own, about = x - q @ (q.T @ x), y - q @ (q.T @ y)
    spread = float(own @ own)
    if spread < 1e-12 * max(float(x @ x), 1.0):
        return None
    slope = float(own @ about) / spread
    rest = about - slope * own
    error = sqrt(max(float(rest @ rest), 0.0) / spare / spread)
    reach = t_quantile((1 + confidence) / 2, spare) * error
    p = float(2 * scipy.special.stdtr(spare, -abs(slope) / error)) if error else float(slope == 0)
    return Drift(slope, slope - reach, slope + reach, p, over_all=slope * float(np.ptp(x)))


@dataclass(frozen=True)
class Plane:
    """A tilt over the plate: change for each of its two units of length, and p that there is none."""

    along: float
    across: float
    p: float

    @property
    def told(self) -> bool:
        """Whether it is significant at 5 %."""
        return self.p < 0.05


def plane(
    values: Sequence[float], conditions: Sequence[str], places: Sequence[tuple[float, float]]
) -> Plane | None:
    """Whether the values tilt over the plate, the conditions' means taken out: both slopes at once.

    Parameters: values in one unit, their conditions, their places (x, y) in one unit of length.
    F test with 2 degrees of freedom against no tilt. ``None`` where nothing is left to judge by, or
    the places do not span a plane beside the conditions.
    Source: least squares; checked against statsmodels' ``compare_f_test``.

    >>> at = [(0, 0), (0, 1), (1, 0), (1, 1), (2, 0), (2, 1)]
    >>> plane([1.0, 1.1, 2.0, 2.1, 3.0, 3.2], ["a"] * 6, at).told
    True
    """
    if len(values) < 4:
        return None
    y, xy = np.array(values, float), np.array(places, float).reshape(-1, 2)
    fixed = _indicators(conditions)
    rank = int(np.linalg.matrix_rank(fixed))
    both = np.column_stack([fixed, (xy - xy.mean(axis=0)) / (float(np.ptp(xy)) or 1.0)])
    spare = len(y) - rank - 2
    if spare < 1 or int(np.linalg.matrix_rank(both)) < rank + 2:
        return None
    weights = np.linalg.lstsq(both, y, rcond=None)[0]
    rest = y - both @ weights
    before = y - fixed @ np.linalg.lstsq(fixed, y, rcond=None)[0]
    left, gone = float(rest @ rest), float(before @ before)
    if left <= 1e-24 * max(gone, 1e-300):
        return None
    f = max(gone - left, 0.0) / 2 / (left / spare)
    scale = float(np.ptp(xy)) or 1.0
    return Plane(
        float(weights[-2]) / scale,
        float(weights[-1]) / scale,
        p=float(scipy.special.fdtrc(2, spare, f)),
    )


def components_in_words(found: Components) -> str:
    """Where most of it comes from, in a sentence.

    >>> components_in_words(Components((Component("rig", 1.0, 0.33, 2, 0.01),), Component("specimen to specimen", 1.4, 0.67, 20, None), 20, {}))
    'The rig is a third of the variance; the rest is between specimens.'
    """
    told = [c for c in found.parts if c.p is not None and c.p < 0.05 and c.share >= 0.05]
    if not found.parts:
        return "Nothing was varied that could explain the variation."
    if not told:
        return "No named source contributes detectably; the variation is between specimens."
    said = ", ".join(f"the {c.name} is {_part(c.share)}" for c in told)
    return f"{said[0].upper()}{said[1:]} of the variance; the rest is between specimens."


def _part(share: float) -> str:
    words = (
        (0.2, "a fifth"), (0.25, "a quarter"), (1 / 3, "a third"), (0.5, "half"), (2 / 3, "two thirds"),
        (0.75, "three quarters"),
    )  # fmt: skip
    near = min(words, key=lambda w: abs(w[0] - share))
    return near[1] if abs(near[0] - share) < 0.035 else f"{share:.0%}".replace("%", " %")
