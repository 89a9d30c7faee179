"""Which specimen of a group is strange, by Grubbs' test."""

from brunt_core.statistics.outliers import Flag, grubbs
from brunt_web.campaigns.models import Turn
from brunt_web.testing.queries import siblings_of


def flag_of(turn: Turn) -> Flag | None:
    """What Grubbs' test says of this specimen among its siblings; ``None`` unless it is strange."""
    key = turn.procedure.ranked_property.key
    own = next((r for r in turn.results.all() if r.property_key == key), None)
    if own is None or own.lower is None or own.lower != own.upper:
        return None
    values = [o.anchor for _, o in siblings_of(turn, turn.test.outcome) if o.is_exact]
    flag = grubbs([*values, own.lower], uncertainty=own.uncertainty or 0.0)
    return flag if flag and flag.strange and flag.index == len(values) else None
