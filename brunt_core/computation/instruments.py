"""Instruments: what resolution and calibration add to the uncertainty of a reading."""

from dataclasses import dataclass
from math import hypot, sqrt


@dataclass(frozen=True)
class Instrument:
    """What limits a reading.

    ``resolution`` is the step of the display and ``absolute`` the limit of error, both in SI;
    ``relative`` is the limit of error as a fraction of the reading. Limits are taken as rectangular.
    """

    name: str
    resolution: float = 0.0
    absolute: float = 0.0
    relative: float = 0.0

    def uncertainty(self, value: float, repeats: int = 1, spread: float = 0.0) -> float:
        """Standard uncertainty of a reading, or of the mean of several.

        u² = (resolution/√12)² + (absolute/√3)² + (relative·value/√3)² + (s/√n)²

        Parameters: ``value`` in SI; ``repeats`` n readings with sample standard deviation
        ``spread`` s in SI. Returns SI.
        Source: JCGM 100:2008 (GUM) 4.2.3 for the repeats and 4.3.7 for rectangular limits.

        >>> round(Instrument("dial", resolution=0.01e-3).uncertainty(4e-3) * 1e6, 4)
        2.8868
        """
        standard_error = spread / sqrt(repeats) if repeats > 1 else 0.0
        return hypot(
            self.rounding(),
            self.absolute / sqrt(3),
            self.relative * abs(value) / sqrt(3),
            standard_error,
        )

    def rounding(self) -> float:
        """The part of it that the step of the display gives each reading by itself, resolution/√12.

        The rest, the limits of error, is common to all that is read with the instrument. SI.
        Source: JCGM 100:2008 (GUM) F.2.2.1.

        >>> round(Instrument("dial", resolution=0.01e-3).rounding() * 1e6, 4)
        2.8868
        """
        return self.resolution / sqrt(12)


_STANDARD = {
    "length": Instrument("digital calipers", resolution=0.01e-3, absolute=0.02e-3),
    "force": Instrument("load cell, 1 % of reading", relative=0.01),
    "mass": Instrument("bench scale", resolution=0.01e-3, absolute=0.01e-3),
    "torque": Instrument("torque adapter, 2 % of reading", relative=0.02),
    "angle": Instrument(
        "protractor or pointer, half a degree", absolute=0.5 * 0.017453292519943295
    ),
    "temperature": Instrument("thermocouple, one degree", absolute=1.0),
    "time": Instrument("stopwatch, by hand", absolute=0.3),
    "number": Instrument("as read"),
}


def standard_instrument(dimension: str) -> Instrument:
    """The instrument assumed when no rig is named: common practice, no source.

    >>> standard_instrument("length").name
    'digital calipers'
    """
    return _STANDARD.get(dimension, Instrument("1 % of reading", relative=0.01))
