"""Which specimen of a group is a suspected outlier."""

from dataclasses import dataclass
from statistics import fmean

from brunt_core.statistics.outliers import Flag, odd_one
from brunt_web.campaigns.models import Turn
from brunt_web.results.reading import of_turn
from brunt_web.testing.queries import siblings_of


def flag_of(turn: Turn) -> Flag | None:
    """What is said of this specimen among its siblings; ``None`` unless it is a suspected outlier."""
    key = turn.procedure.ranked_property.key
    own = of_turn(turn, key)
    if own is None or own.lower is None or own.lower != own.upper:
        return None
    values = [o.anchor for _, o in siblings_of(turn, turn.test.outcome) if o.is_exact]
    usual = turn.procedure.method.cv
    flag = odd_one([*values, own.lower], own.uncertainty or 0.0, usual)
    return flag if flag and flag.index == len(values) else None


@dataclass(frozen=True)
class Beside:
    """The mean of all, the mean without outliers one, and the worst of all; SI."""

    everything: float
    without: float
    worst: float


def outlier_effect(turn: Turn) -> Beside | None:
    """What a suspected outlier does to its group; ``None`` where it has no exact result."""
    prop = turn.procedure.ranked_property
    own = of_turn(turn, prop.key)
    values = [o.anchor for _, o in siblings_of(turn, turn.test.outcome) if o.is_exact]
    if own is None or own.lower is None or not values:
        return None
    every = [*values, own.lower]
    worst = max(every) if prop.better == "lower" else min(every)
    return Beside(fmean(every), fmean(values), worst)
