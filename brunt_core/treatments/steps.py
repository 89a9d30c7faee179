"""The step that readings were written to."""

from collections.abc import Sequence


def power_of_ten_step(values: Sequence[float], finest: int = 9) -> float:
    """The smallest power of ten that all values are multiples of, in their own unit.

    Down to 10^-``finest``, which is also the answer where there is none to see.

    >>> power_of_ten_step([0.012345, 0.012347, 0.012351])
    1e-06
    >>> power_of_ten_step([296.15, 301.25]), power_of_ten_step([20.0, 45.0])
    (0.01, 1.0)
    """
    for digits in range(finest + 1):
        step = float(f"1e-{digits}")
        if all(abs(v / step - round(v / step)) < 1e-6 for v in values):
            return step
    return float(f"1e-{finest}")
