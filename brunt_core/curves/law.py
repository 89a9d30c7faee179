"""The Ramberg–Osgood law with a toe, fitted to a whole rise up to its peak."""

from dataclasses import dataclass

import numpy as np

from brunt_core.curves.rise import Rise, smoothed, thinned, window_of
from brunt_core.curves.spikes import noise_of

# Bounds of the five parameters: ln of slope, F_s and exponent, toe and its reach.
_LEAST = np.array([-0.7, -2.0, 0.7, -5.0, 1e-6])
_MOST = np.array([0.7, 2.0, 4.5, 5.0, 5.0])
# ln of the exponent that is leaned on, and the standard deviation of the leaning.
_USUAL, _LOOSE = 2.3, 0.42
_TURNS = 60
_STILL = 1e-7


@dataclass(frozen=True)
class Law:
    """A rise that the Ramberg–Osgood law explains up to its peak.

    Displacement from the compensated zero is F/m + s (F/F_s)ⁿ, before it a parabolic toe: ``rise``
    has slope, toe and the ends of what is straight within 1 %; ``scale`` is F_s in N, ``exponent`` n
    and ``reference`` s in m.
    """

    rise: Rise
    scale: float
    exponent: float
    reference: float

    def offset_load(self, shift: float) -> float:
        """The load at which the permanent part is ``shift`` (m): yield by offset, in N.

        >>> Law(Rise(1e6, 0, 0, 0, 0, 0), 900.0, 10.0, 1e-4).offset_load(1e-4)
        900.0
        """
        return float(self.scale * (shift / self.reference) ** (1 / self.exponent))


def law_of(x: np.ndarray, force: np.ndarray, first: Rise) -> Law | None:
    """The Ramberg–Osgood law with a toe, fitted to all readings up to the peak, or None.

    It uses the bend as well, so it varies less than the straight part alone; but it is taken
    only where its residuals are no larger than the noise of the readings (mean square within 4.5
    standard errors of the noise's, or root mean square under 0.2 % of the peak), and where the
    bend lies within the readings. The exponent leans weakly on 10 (a factor of 1.5 either way
    costs as much as one standard deviation of one reading). Parameters as in
    :func:`~brunt_core.curves.rise.straight_part`, whose result it begins from.
    Source: Ramberg & Osgood, NACA Technical Note 902 (1943); the least squares by K. Levenberg,
    Quart. Appl. Math. 2 (1944) 164 and D. W. Marquardt, J. SIAM 11 (1963) 431 (all from memory).

    >>> F = np.linspace(0, 1000, 300); x = F / 1e6 + 1e-4 * (F / 900) ** 10
    >>> from brunt_core.curves.rise import straight_part
    >>> law = law_of(x, F, straight_part(x, F))
    >>> round(law.rise.slope / 1e6, 3), round(law.offset_load(1e-4))
    (1.0, 900)
    """
    even = smoothed(force, window_of(len(force)))
    peak = int(np.argmax(even))
    a, f = thinned(x[: peak + 1], force[: peak + 1])
    top = float(even[peak])
    if len(a) < 12 or a[-1] - first.toe < 1.05 * top / first.slope:
        return None
    noise = max(noise_of(force[: peak + 1]) / np.sqrt((peak + 1) / len(a)), 1e-9 * top)
    model = _Model(a, f, first.slope, top, first.toe, noise)
    lead = max(max(first.low - first.toe, 0.0) / model.reference, 0.02)
    free = len(a) - 5
    best: _Fit | None = None
    for power, reach in ((2.0, lead), (2.7, lead), (2.3, 0.02)):
        tried = _least_squares(model, np.array([0.0, -0.1, power, 0.0, reach]))
        if best is None or tried.cost < best.cost:
            best = tried
        # What is explained as well as noise allows is not explained better from elsewhere.
        if best.squares < free + np.sqrt(2 * free):
            break
    assert best is not None
    explained = best.squares < free + 4.5 * np.sqrt(2 * free)
    if not explained and noise * np.sqrt(best.squares / len(a)) > 0.002 * top:
        return None
    return _law(model, best, best.squares / free, first.noise)


@dataclass(frozen=True)
class _Fit:
    """Parameters with their cost, of which ``squares`` come from the readings, and what it bends by."""

    p: np.ndarray
    cost: float
    squares: float
    rest: np.ndarray
    jacobian: np.ndarray


class _Model:
    """Residuals of the readings in units of their noise, then that of the leaning, with derivatives."""

    def __init__(
        self, x: np.ndarray, force: np.ndarray, slope: float, top: float, toe: float, noise: float
    ) -> None:
        self.x, self.force, self.noise = x, force, noise
        self.slope, self.top, self.toe = slope, top, toe
        self.reference = 0.1 * top / slope
        self.loads = np.linspace(0, 1.3 * top, 500)

    def sizes(self, p: np.ndarray) -> tuple[float, float, float, float, float]:
        """Slope in N/m, F_s in N, exponent, toe and its reach in m."""
        slope, scale, power = np.exp(p[:3]).tolist()
        toe, reach = (p[3:] * self.reference).tolist()
        return self.slope * slope, self.top * scale, power, self.toe + toe, reach

    def fit(self, p: np.ndarray) -> _Fit:
        """How well these parameters explain the readings."""
        slope, scale, power, toe, reach = self.sizes(p)
        after = self.x - toe
        travel = self.loads / slope + self.reference * (self.loads / scale) ** power
        load = np.maximum(np.interp(after, travel, self.loads), 1e-12 * self.top)
        # The table leads near to it; one step of Newton's leads there.
        flow = self.reference * (load / scale) ** power
        give = 1 / slope + power * flow / load
        load = np.maximum(load - (load / slope + flow - after) / give, 1e-12 * self.top)
        shares = load / scale
        flow = self.reference * shares**power
        give = 1 / slope + power * flow / load
        by = np.empty((5, len(load)))
        by[0] = load / slope / give
        by[1] = power * flow / give
        by[2] = -by[1] * np.log(shares)
        by[3] = -self.reference / give
        by[4] = 0.0
        begun = np.nonzero(after < reach)[0]
        if len(begun):
            past = np.maximum(after[begun] + reach, 0) / (2 * reach)
            load[begun] = slope * reach * past**2
            by[0, begun] = load[begun]
            by[1:3, begun] = 0.0
            by[3, begun] = -self.reference * slope * past
            by[4, begun] = self.reference * slope * (past - past**2)
        leaning = float(p[2] - _USUAL) / _LOOSE
        rest = np.append((load - self.force) / self.noise, leaning)
        jacobian = np.column_stack([by / self.noise, [0, 0, 1 / _LOOSE, 0, 0]])
        cost = float(rest @ rest)
        return _Fit(p, cost, cost - leaning**2, rest, jacobian)


def _least_squares(model: _Model, start: np.ndarray) -> _Fit:
    """Levenberg's and Marquardt's steps within the bounds, until they gain nothing more."""
    found, damping = model.fit(np.clip(start, _LEAST, _MOST)), 1e-3
    pull, normal = found.jacobian @ found.rest, found.jacobian @ found.jacobian.T
    for _ in range(_TURNS):
        stuck = (found.p <= _LEAST) & (pull > 0) | (found.p >= _MOST) & (pull < 0)
        free = np.nonzero(~stuck)[0]
        part = normal[np.ix_(free, free)]
        size = np.maximum(np.diag(part), 1e-12 * np.trace(normal))
        step = np.zeros(5)
        step[free] = np.linalg.solve(part + damping * np.diag(size), -pull[free])
        tried = model.fit(np.clip(found.p + step, _LEAST, _MOST))
        if not tried.cost < found.cost:
            damping *= 8
            if damping > 1e8:
                break
            continue
        gained = (found.cost - tried.cost) / found.cost
        found, damping = tried, damping / 5
        if gained < _STILL:
            break
        pull, normal = found.jacobian @ found.rest, found.jacobian @ found.jacobian.T
    return found


def _law(model: _Model, best: _Fit, chi: float, noise: float) -> Law:
    slope, scale, power, toe, reach = model.sizes(best.p)
    spread = np.linalg.pinv(best.jacobian @ best.jacobian.T)
    error = float(slope * np.sqrt(max(spread[0, 0], 0) * max(chi, 1.0)))
    straight = scale * (0.01 * scale / (slope * model.reference)) ** (1 / (power - 1))
    rise = Rise(slope, toe, toe + reach, toe + straight / slope, error, noise)
    return Law(rise, scale, power, model.reference)
