"""Rows of a test: measurements, readings, results."""

from collections.abc import Iterable

import brunt_core
from brunt_core.computation import Computation
from brunt_core.computation.reading import ParsedReading as CoreReading
from brunt_web.campaigns.models import Turn
from brunt_web.testing.models import Reading, Result, Test


def store_readings(test: Test, readings: Iterable[CoreReading], elapsed: float | None) -> None:
    """What was read at the test, as typed and in SI."""
    Reading.objects.bulk_create(_reading(test, r, elapsed) for r in readings)


def _reading(test: Test, reading: CoreReading, elapsed: float | None) -> Reading:
    last = reading.typed.parts[-1] if reading.typed.parts else None
    return Reading(
        test=test,
        key=reading.input.key,
        text=reading.typed.text,
        unit=last.unit_label if last else "",
        unit_assumed=bool(last and last.assumed),
        lower=reading.observation.lower if reading.plain else None,
        upper=reading.observation.upper if reading.plain else None,
        uncertainty=reading.uncertainty,
        elapsed=elapsed if reading.input.timed else None,
    )


def store_results(turn: Turn, done: Computation, elapsed: float | None) -> None:
    """Every property computed, with its bounds and its working."""
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
