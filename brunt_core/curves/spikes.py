"""Spikes of a load signal: single readings off the curve on both sides at once."""

import numpy as np

_REACH = 5
_TIMES = 8.0
_SHARE = 0.02


def spikes_of(force: np.ndarray) -> np.ndarray:
    """Indices of spikes: readings (one, or two side by side) off their neighbours on both sides.

    A reading is a spike when it departs, in the same direction, from what the five readings before
    it and the five after it each lead one to expect (their median level, carried on by the median
    step), by more than eight times the noise and more than 2 % of the greatest load. A sudden drop
    is none: it lies on the line of one side. The limits are common practice, no source; the robust
    noise is that of Hampel's filter (Davies & Gather, J. Am. Stat. Assoc. 88 (1993) 782, from
    memory).

    >>> force = np.linspace(0, 100, 101); force[40] = 90
    >>> spikes_of(force).tolist(), spikes_of(np.r_[np.linspace(0, 100, 50), np.zeros(50)]).tolist()
    ([40], [])
    """
    n = len(force)
    if n < 2 * _REACH + 3:
        return np.array([], int)
    padded = np.concatenate([_led_in(force), force, _led_in(force[::-1])[::-1]])
    windows = np.lib.stride_tricks.sliding_window_view(padded, _REACH)
    before = _expected(windows[:n], forward=True)
    after = _expected(windows[_REACH + 1 : n + _REACH + 1], forward=False)
    up = np.minimum(force - before, force - after)
    down = np.minimum(before - force, after - force)
    limit = max(_TIMES * noise_of(force), _SHARE * float(np.abs(force).max()))
    return np.nonzero(np.maximum(up, down) > limit)[0]


def _led_in(force: np.ndarray) -> np.ndarray:
    """Readings before the first, on the straight line of the first few."""
    step = float(np.median(np.diff(force[: _REACH + 1])))
    return np.asarray(np.median(force[:3]) - step * np.arange(_REACH + 1, 1, -1))[-_REACH:]


def _expected(windows: np.ndarray, forward: bool) -> np.ndarray:
    """The reading next to each window of five: median level, carried on by the median step."""
    step = np.median(np.diff(windows, axis=1), axis=1)
    reach = (_REACH + 1) / 2
    return np.asarray(np.median(windows, axis=1) + (reach if forward else -reach) * step)


def noise_of(force: np.ndarray) -> float:
    """Standard deviation of the readings about a smooth curve, from second differences (robust).

    >>> steady = np.arange(50.0) ** 1.0
    >>> noise_of(steady)
    0.0
    """
    if len(force) < 3:
        return 0.0
    second = force[:-2] - 2 * force[1:-1] + force[2:]
    return float(np.median(np.abs(second)) / (0.6745 * np.sqrt(6)))
