"""What is there against what is needed: the bound, each loss that was measured, what was never tested."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import exp, log, sqrt
from statistics import fmean

from brunt_core.errors import InputError
from brunt_core.observations import Observation
from brunt_core.statistics.tolerance import lower_bound

HOLDS, OPEN, OUT, NOTHING = "holds", "open", "out", "nothing"
ENOUGH = 5
_ONE_SIDED = 1.6448536269514722


@dataclass(frozen=True)
class Basis:
    """What one may count on before losses: a bound, the smallest of few, or one; and how it came about."""

    kind: str
    value: float
    n: int
    mean: float
    words: str


def basis_of(observations: Sequence[Observation], coverage: float = 0.9) -> Basis | None:
    """What one may count on of a group of strengths, in their unit; ``None`` for none above zero.

    With five specimens or more the lower tolerance bound that ``coverage`` of all exceed at 95 %
    confidence, where it is above zero; with fewer, or where the variation leaves no such bound, the
    smallest. One that held counts at its load; "at most" at nothing.
    Source: ISO 16269-6 by :func:`lower_bound`; the smallest of few is common practice, no source.

    >>> O = Observation.exact
    >>> basis_of([O(70.), O(72.), O(68.)]).kind, basis_of([O(70.), O(72.), O(68.)]).value
    ('smallest', 68.0)
    >>> b = basis_of([O(70.), O(72.), O(68.), O(71.), O(69.)])
    >>> b.kind, round(b.value, 2)
    ('bound', 64.61)
    """
    told = [o for o in observations if o.lower is not None]
    values = [o.lower for o in told if o.lower is not None]
    if not values or min(values) <= 0 or len(told) < len(observations):
        return None
    n, mean = len(values), fmean(o.anchor for o in told)
    if n == 1:
        return Basis("single", values[0], 1, mean, "one specimen")
    if n >= ENOUGH:
        try:
            found = lower_bound(list(observations), coverage, 0.95)
        except InputError:
            found = None
        if found is not None and found.lower > 0:
            words = f"{coverage * 10:.0f} in 10 bear, 95 % sure"
            return Basis("bound", found.lower, n, mean, words)
    return Basis("smallest", min(values), n, mean, f"the smallest of {n}")


@dataclass(frozen=True)
class Loss:
    """A loss that was measured: its ratio with the interval's ends at 95 %, where it was measured.

    ``name`` is what it is a loss by: layers, heat, damp, age, treatment.
    """

    name: str
    ratio: float
    low: float | None
    high: float | None
    words: str


@dataclass(frozen=True)
class Margin:
    """One candidate against what is needed, both in one unit.

    ``there`` is the basis after every measured loss, at the lower end of what the losses leave
    (95 % one-sided); ``plain`` by their ratios alone. ``steps`` what is left after each loss by its
    ratio. ``by`` names what takes it below what is needed, where something does.
    """

    basis: Basis | None
    losses: tuple[Loss, ...]
    missing: tuple[str, ...]
    needed: float
    there: float
    plain: float
    steps: tuple[float, ...]
    verdict: str
    by: str = ""

    @property
    def ratio(self) -> float:
        """How many times what is needed is there."""
        return self.there / self.needed if self.needed else float("inf")

    @property
    def spare(self) -> float | None:
        """The share that what was never tested may leave for it still to hold; ``None`` if it is out."""
        return self.needed / self.there if self.there > self.needed else None


def margin(
    basis: Basis | None, losses: Sequence[Loss], missing: Sequence[str], needed: float
) -> Margin:
    """Judge one candidate.

    Parameters: what one may count on; the losses measured here, multiplied as if each acted by itself;
    what this load case asks for and was never tested, by name; what is needed with the safety factor in it,
    above zero. Without losses the basis is what is there. The losses' errors are carried together in
    the logarithm, and what is there is taken at the lower end of a one-sided 95 % interval.
    It is out when less is there than needed: what is untested is taken to be able only to lower it;
    else open when something was never tested; else it holds.
    Raises :class:`InputError` for a need that is not above zero or a ratio below zero.
    Source: propagation of error, JCGM 100 5.1; the product of single losses is common practice, no source.

    >>> b = Basis("bound", 60.0, 8, 70.0, "")
    >>> m = margin(b, [Loss("heat", 0.8, 0.75, 0.85, "")], ["creep"], 20.0)
    >>> m.verdict, round(m.plain, 1), round(m.there, 2), round(m.spare, 3)
    ('open', 48.0, 45.54, 0.439)
    """
    if not 0 < needed < float("inf"):
        raise InputError("What is needed must be above zero.", "load")
    if any(not 0 <= loss.ratio < float("inf") for loss in losses):
        raise InputError("A loss is a ratio of zero or more.", "loss")
    told = tuple(losses)
    if basis is None:
        return Margin(
            None,
            told,
            missing=tuple(missing),
            needed=needed,
            there=0.0,
            plain=0.0,
            steps=(),
            verdict=NOTHING,
        )
    steps, left = [], basis.value
    for loss in told:
        left *= loss.ratio
        steps.append(left)
    there = left * exp(-_ONE_SIDED * sqrt(sum(_relative(x) ** 2 for x in told)))
    by = ""
    if there < needed:
        below = [x.name for x, s in zip(told, steps, strict=True) if s < needed]
        by = "strength" if basis.value < needed else below[0] if below else "untested losses"
    verdict = OUT if by else OPEN if missing else HOLDS
    return Margin(
        basis,
        told,
        missing=tuple(missing),
        needed=needed,
        there=there,
        plain=left,
        steps=tuple(steps),
        verdict=verdict,
        by=by,
    )


def _relative(loss: Loss) -> float:
    """Standard error of the logarithm of a ratio, from its interval; none where there is none."""
    if not loss.low or loss.high is None or loss.low <= 0 or loss.high <= loss.low:
        return 0.0
    return (log(loss.high) - log(loss.low)) / (2 * 1.959963984540054)
