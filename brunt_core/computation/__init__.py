"""From readings to results: validation, uncertainty, bounds and the working shown."""

from brunt_core.computation.compute import Computation, Result, compute
from brunt_core.computation.instruments import Instrument, standard_instrument
from brunt_core.computation.reading import Reading, read

__all__ = [
    "Computation",
    "Instrument",
    "Reading",
    "Result",
    "compute",
    "read",
    "standard_instrument",
]
