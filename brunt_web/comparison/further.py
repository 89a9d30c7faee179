"""What else is known of one condition: its median, its worst, its distribution, what most will hold."""

from collections.abc import Sequence
from statistics import fmean, median

from brunt_core.errors import InputError
from brunt_core.observations import Observation
from brunt_core.quantities.rendering import figures, number
from brunt_core.statistics.distributions import (
    LOGNORMAL,
    NORMAL,
    WEIBULL,
    Fit,
    best_fit,
    fit_family,
    surviving,
)
from brunt_core.statistics.tolerance import A_BASIS, B_BASIS, lower_bound
from brunt_web.comparison.queries import ComparedGroup

_WORDS = {NORMAL: "normal", LOGNORMAL: "log-normal", WEIBULL: "Weibull"}
FAMILIES = {"": "by likelihood", **_WORDS, "none": "non-parametric"}


def further_of(
    observations: Sequence[Observation], group: ComparedGroup, family: str = ""
) -> list[tuple[str, str]]:
    """Rows for the working: what it is called, and the figures with how they came about.

    ``family`` is the reader's choice of distribution, ``none`` for no distribution at all; without a
    choice the likelihood chooses.
    """
    found = [_ordered(observations, group.lower_is_better)]
    if family == "none" or not all(o.is_exact for o in observations):
        found.append(_free_median(observations))
    if len(observations) < 2:
        return found
    if family == "none":
        return found if group.lower_is_better else [*found, *_free_bounds(observations)]
    try:
        best = fit_family(observations, family) if family in _WORDS else best_fit(observations)
        low, high = best.bounds(0.5)
    except InputError as error:
        return [*found, ("distribution", error.sentence)]
    name = _WORDS.get(best.family, "normal")
    how = (
        "as chosen"
        if family in _WORDS
        else "family chosen by likelihood, normal unless another is e times as likely"
    )
    words = f"{figures(best.median)}, {figures(low)} to {figures(high)} at 95 %; {how}"
    found.append((f"median, {name}", words))
    found += _weibull(observations)
    if not group.lower_is_better:
        found += _bounds(observations, best)
    return found


def _free_median(observations: Sequence[Observation]) -> tuple[str, str]:
    known = surviving(observations)
    words = "not reached" if known.median is None else figures(known.median)
    return "median, non-parametric", f"{words} (Kaplan–Meier, Turnbull)"


def _free_bounds(observations: Sequence[Observation]) -> list[tuple[str, str]]:
    """Lower bounds by order alone: what the smallest of so many promises, or how many it takes."""
    rows = []
    for share in (B_BASIS, A_BASIS):
        name = f"{share * 100:.0f} % reach at least"
        try:
            bound = lower_bound(observations, share, 0.95, NORMAL)
        except InputError as error:
            rows.append((name, error.sentence))
            continue
        said = f"it takes {bound.needed} to state that at 95 % confidence"
        rows.append(
            (name, said if bound.free is None else f"{figures(bound.free)} (by order, 95 %)")
        )
    return rows


def _ordered(observations: Sequence[Observation], lower: bool) -> tuple[str, str]:
    """Median and trimmed mean of what broke, with the worst of all."""
    values = sorted(o.anchor for o in observations)
    worst = values[-1] if lower else values[0]
    said = (
        f"median {figures(median(values))}, {'greatest' if lower else 'smallest'} {figures(worst)}"
    )
    if len(values) >= 5:
        said += f", mean without the ends {figures(fmean(values[1:-1]))}"
    return "in order", said + ("; those that did not fail at their load" if len(values) != sum(o.is_exact for o in observations) else "")  # fmt: skip


def _weibull(observations: Sequence[Observation]) -> list[tuple[str, str]]:
    try:
        found: Fit = fit_family(observations, WEIBULL)
    except InputError:
        return []
    told = found.parameters
    return [
        (
            "Weibull",
            f"modulus {figures(told['shape'])}, characteristic strength {figures(told['scale'])}",
        )
    ]


def _bounds(observations: Sequence[Observation], best: Fit) -> list[tuple[str, str]]:
    """Lower tolerance bounds; no basis values, which ask for batches and numbers besides."""
    rows = []
    for share, name in ((B_BASIS, "90 % reach at least"), (A_BASIS, "99 % reach at least")):
        try:
            bound = lower_bound(observations, share, 0.95, best.family)
        except InputError as error:
            rows.append((name, error.sentence))
            continue
        how = f"k {number(bound.k, '.3g')}, " if bound.k else ""
        free = "" if bound.free is None else f"; without a distribution {figures(bound.free)}"
        need = f"; without a distribution it takes {bound.needed}" if bound.free is None else free
        value = figures(bound.lower) if bound.lower > 0 else "no bound can be stated"
        rows.append((name, f"{value} ({how}tolerance bound, 95 %{need})"))
    return rows
