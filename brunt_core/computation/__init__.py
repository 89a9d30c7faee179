"""From readings to results: validation, uncertainty, bounds and the working shown."""

from brunt_core.computation.compute import Computation, Reading, Result, compute
from brunt_core.computation.instruments import Instrument, standard_instrument

__all__ = ["Computation", "Instrument", "Reading", "Result", "compute", "standard_instrument"]
