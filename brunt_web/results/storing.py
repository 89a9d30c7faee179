"""Results written and removed: computed from readings, or as a source stated them."""

from collections.abc import Iterable

import brunt_core
from brunt_core.computation import Computation
from brunt_core.observations import Observation
from brunt_web.campaigns.models import Turn
from brunt_web.results.models import Result


def store_computed(turn: Turn, done: Computation, elapsed: float | None) -> None:
    """Every property computed, with its bounds and its working; ``elapsed`` where a reading has no time."""
    Result.objects.bulk_create(
        Result(
            turn=turn,
            property_key=r.property.key,
            lower=r.observation.lower,
            upper=r.observation.upper,
            uncertainty=r.uncertainty,
            rounding=r.rounding,
            formula=r.formula[:200],
            source=r.source[:300],
            steps=[[s.formula, s.numbers, s.value] for s in r.steps],
            at_time=r.at_time if r.at_time is not None else elapsed,
            computed_by_version=brunt_core.__version__,
        )
        for r in done.results
    )


def store_stated(turn: Turn, prop: str, stated: Observation, text: str) -> None:
    """A result that a file states without its readings."""
    Result.objects.create(
        turn=turn,
        property_key=prop,
        lower=stated.lower,
        upper=stated.upper,
        formula=f"stated as {text}",
        source="imported from a file without readings",
        computed_by_version=brunt_core.__version__,
    )


def remove_results(turns: Iterable[int]) -> None:
    """Remove every result of these turns."""
    Result.objects.filter(turn__in=turns).delete()
