"""What a reading can be: exact, at least, at most, or between two values."""

from collections.abc import Callable
from dataclasses import dataclass

from brunt_core.errors import InputError


@dataclass(frozen=True)
class Observation:
    """A value known exactly or only by its bounds; ``None`` means no bound on that side.

    >>> Observation.at_least(40.0).kind
    'at_least'
    >>> Observation.between(6.0, 8.0).scaled(10.0)
    Observation(lower=60.0, upper=80.0)
    """

    lower: float | None
    upper: float | None

    def __post_init__(self) -> None:
        if self.lower is None and self.upper is None:
            raise InputError("A reading needs a value or at least one bound.")
        if self.lower is not None and self.upper is not None and self.lower > self.upper:
            raise InputError(
                f"The lower bound ({self.lower:g}) is above the upper ({self.upper:g})."
            )

    @classmethod
    def exact(cls, value: float) -> "Observation":
        """It broke at *value*."""
        return cls(value, value)

    @classmethod
    def at_least(cls, value: float) -> "Observation":
        """It did not break at *value*: right-censored."""
        return cls(value, None)

    @classmethod
    def at_most(cls, value: float) -> "Observation":
        """It had broken before *value*: left-censored."""
        return cls(None, value)

    @classmethod
    def between(cls, lower: float, upper: float) -> "Observation":
        """It held *lower* and failed by *upper*: interval-censored."""
        return cls(lower, upper)

    @property
    def kind(self) -> str:
        """``exact``, ``at_least``, ``at_most`` or ``between``."""
        if self.lower is None:
            return "at_most"
        if self.upper is None:
            return "at_least"
        return "exact" if self.lower == self.upper else "between"

    @property
    def is_exact(self) -> bool:
        """Whether the value itself is known."""
        return self.lower is not None and self.lower == self.upper

    @property
    def anchor(self) -> float:
        """One number to draw it at: the value, the only bound, or the middle of the bounds."""
        if self.lower is None or self.upper is None:
            return self.upper if self.lower is None else self.lower  # type: ignore[return-value]
        return (self.lower + self.upper) / 2

    def through(self, function: Callable[[float], float]) -> "Observation":
        """The observation of ``function(value)`` for a monotonic function of either direction."""
        low = None if self.lower is None else function(self.lower)
        high = None if self.upper is None else function(self.upper)
        if low is not None and high is not None:
            return Observation(min(low, high), max(low, high))
        probe = self.anchor
        rising = function(probe + max(abs(probe) * 1e-3, 1e-9)) >= function(probe)
        return Observation(low, high) if rising else Observation(high, low)

    def scaled(self, factor: float) -> "Observation":
        """Multiplied by a positive factor."""
        return self.through(lambda value: value * factor)
