"""Rows of a test: measurements, readings, results."""

from collections.abc import Iterable

from brunt_core.computation.reading import ParsedReading as CoreReading
from brunt_web.testing.models import Reading, Test


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
