"""From readings to results: validation, uncertainty, bounds and the working shown."""

from brunt_core.computation.compute import Computation, ComputedResult, compute
from brunt_core.computation.instruments import Instrument, standard_instrument
from brunt_core.computation.reading import ParsedReading, read_input

__all__ = [
    "Computation",
    "Instrument",
    "ParsedReading",
    "ComputedResult",
    "compute",
    "read_input",
    "standard_instrument",
]
