"""Stand-ins that speak the line protocol: load cell, torque adapter, pendulum, thermometer, scale, dial.

What they read is invented. They answer to the lines ``pull`` (begin a test) and ``zero``.
"""

from collections.abc import Callable
from math import cos, exp, pi
from random import Random


class Standin:
    """One instrument: ``rate`` lines a second; :meth:`line` is what it says at a time, :meth:`told` what it hears."""

    rate = 20.0
    name = ""

    def __init__(self, seed: int = 1) -> None:
        self.random, self.breaks = Random(seed), 0.0
        self.begun: float | None = None

    def told(self, said: str, now: float) -> None:
        """A line sent to it."""
        if said == "pull":
            self.begun, self.breaks = now, self.random.uniform(420, 640)
        elif said == "zero":
            self.begun = None

    def line(self, now: float) -> str:
        """What it says."""
        raise NotImplementedError

    def _noise(self, width: float) -> float:
        return self.random.gauss(0, width)


class LoadCell(Standin):
    """A crane scale's load cell with a travel encoder: pulled at 5 mm/min, it breaks somewhere past 420 N."""

    rate, name = 100.0, "load cell"

    def line(self, now: float) -> str:
        """Time, load, travel."""
        load = travel = 0.0
        if self.begun is not None:
            passed = now - self.begun
            travel = passed / 2
            load = self._pulled(travel)
            if passed > 60:
                self.begun = None
        return f"{now:.3f} s; {load + self._noise(0.15):.2f} N; {travel:.4f} mm"

    def _pulled(self, travel: float) -> float:
        """A toe, a straight rise, a bend, a break."""
        load = 260 * travel * (1 - exp(-travel / 0.08)) / (1 + travel / 9)
        return load if load < self.breaks else 0.4


class TorqueAdapter(Standin):
    """A torque adapter on a wrench: 2.5 to 4 N·m, then the bar shears."""

    rate, name = 50.0, "torque adapter"

    def line(self, now: float) -> str:
        """Time, torque, angle."""
        torque = angle = 0.0
        if self.begun is not None:
            angle = (now - self.begun) * 15
            torque = angle * 0.045 / (1 + angle / 150)
            if torque > self.breaks / 160:
                torque = 0.02
            if now - self.begun > 30:
                self.begun = None
        return f"{now:.3f} s; {torque + self._noise(0.004):.3f} N·m; {angle:.1f} °"


class Pendulum(Standin):
    """A pendulum's encoder: released at 140°, it swings on to some 95°."""

    rate, name = 100.0, "pendulum"

    def line(self, now: float) -> str:
        """Time, angle."""
        angle = 0.0
        if self.begun is not None:
            passed, far = now - self.begun, 60 + self.breaks / 14
            if passed < 0.8:
                angle = -140 * cos(pi * passed / 1.6)
            else:
                angle = far * abs(cos(pi * (passed - 1.6) / 1.6)) * exp(-max(passed - 1.6, 0) / 8)
            if passed > 20:
                self.begun = None
        return f"{now:.3f} s; {max(angle, 0.0) + self._noise(0.05):.2f} °"


class Thermometer(Standin):
    """A probe in an oven that warms at 2 °C a minute."""

    rate, name = 2.0, "thermometer"

    def line(self, now: float) -> str:
        """Time, temperature."""
        warm = 23.0 if self.begun is None else min(23 + (now - self.begun) / 30, 90)
        return f"{now:.2f} s; {warm + self._noise(0.03):.2f} °C"


class SimulatedScale(Standin):
    """A balance with some grams on it."""

    rate, name = 5.0, "scale"

    def line(self, now: float) -> str:
        """The mass alone."""
        return f"{(0 if self.begun is None else self.breaks / 125) + self._noise(0.0006):.3f} g"


class Dial(Standin):
    """A dial gauge under a loaded bar: it creeps with the logarithm of time."""

    rate, name = 10.0, "dial"

    def line(self, now: float) -> str:
        """Time, length."""
        passed = 0.0 if self.begun is None else now - self.begun
        crept = 0.0 if self.begun is None else 1.1 + 0.12 * (1 - exp(-passed / 40))
        return f"{now:.2f} s; {crept + self._noise(0.002):.3f} mm"


STANDINS: dict[str, Callable[..., Standin]] = {
    "load-cell": LoadCell,
    "torque-adapter": TorqueAdapter,
    "pendulum": Pendulum,
    "thermometer": Thermometer,
    "scale": SimulatedScale,
    "dial": Dial,
}
