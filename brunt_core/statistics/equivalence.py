"""Whether two conditions are alike within a stated difference: a question of its own."""

from brunt_core.errors import InputError
from brunt_core.statistics.comparisons import each_of
from brunt_core.statistics.ratios import Ratio, ratio_of_means, widened
from brunt_core.statistics.summaries import Summary


def within(
    first: Summary,
    second: Summary,
    share: float,
    confidence: float = 0.95,
    family: int = 1,
    unlike: float = 0.0,
) -> tuple[bool | None, Ratio]:
    """Whether the means differ by no more than a share of the second, and the interval that says so.

    Two one-sided tests at 1 − ``confidence``: alike where the interval of first ÷ second at
    2·confidence − 1 lies within 1 ± share (Fieller's interval, unequal variation); with ``family``
    pairs judged together each at Šidák's level. ``None`` where either has no variation to judge by.
    The absence of a significant difference does not show equivalence.
    Parameters: summaries in one unit; ``share`` above 0, below 1; ``unlike`` the relative standard
    uncertainty that the calibrations of unlike rigs leave in the ratio
    (:meth:`brunt_core.statistics.rigs.Rigs.of_difference`). Raises :class:`InputError`.
    Source: D. J. Schuirmann, J. Pharmacokinet. Biopharm. 15 (1987) 657–680 (recalled); ISO 16269 uses
    the same intervals; simulated in tests/reference/test_equivalence.py.

    >>> from brunt_core.observations import Observation as O
    >>> from brunt_core.statistics.summaries import summarise
    >>> a, b = (summarise([O.exact(v) for v in g]) for g in ((50., 50.5, 49.5, 50.2), (50.1, 49.8, 50.4, 49.9)))
    >>> within(a, b, 0.05)[0], within(a, b, 0.001)[0]
    (True, False)
    """
    if not 0 < share < 1:
        raise InputError("An equivalence limit lies between 0 and 100 %.", "equivalence")
    if first.standard_error is None or second.standard_error is None or not second.mean:
        return None, Ratio(first.mean / second.mean if second.mean else float("nan"))
    if not first.standard_error and not second.standard_error:
        return None, Ratio(first.mean / second.mean)
    each = each_of(family, confidence)
    ratio = widened(ratio_of_means(first, second, 2 * each - 1), unlike, 2 * each - 1)
    if ratio.low is None or ratio.high is None:
        return False, ratio
    return 1 - share <= ratio.low and ratio.high <= 1 + share, ratio
