"""Which specimen of a group is strange."""

from brunt_core.statistics.outliers import Flag, odd_one
from brunt_web.campaigns.models import Turn
from brunt_web.testing.queries import siblings_of


def flag_of(turn: Turn) -> Flag | None:
    """What is said of this specimen among its siblings; ``None`` unless it is strange."""
    key = turn.procedure.ranked_property.key
    own = next((r for r in turn.results.all() if r.property_key == key), None)
    if own is None or own.lower is None or own.lower != own.upper:
        return None
    values = [o.anchor for _, o in siblings_of(turn, turn.test.outcome) if o.is_exact]
    usual = turn.procedure.method.scatter
    flag = odd_one([*values, own.lower], own.uncertainty or 0.0, usual)
    return flag if flag and flag.index == len(values) else None
