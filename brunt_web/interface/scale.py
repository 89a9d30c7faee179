"""A scale with round ticks, for every drawing with an axis."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil, floor, log10


@dataclass(frozen=True)
class Scale:
    """From values to drawing units, with its ticks (x, label)."""

    low: float
    high: float
    width: float
    pad: float
    ticks: tuple[tuple[float, str], ...] = ()

    def x(self, value: float) -> float:
        """The place of a value, kept inside the drawing."""
        part = (value - self.low) / (self.high - self.low)
        return round(self.pad + (self.width - 2 * self.pad) * min(max(part, 0.0), 1.0), 2)


def scale_for(
    values: Sequence[float], width: float = 560, pad: float = 16, steps: int = 6
) -> Scale:
    """A scale over the values with about so many round steps."""
    low, high = (min(values), max(values)) if values else (0.0, 1.0)
    margin = (high - low) * 0.06 or abs(high) * 0.1 or 1.0
    low, high = (low if low == 0 else low - margin), high + margin
    raw = (high - low) / steps
    power = 10.0 ** floor(log10(raw))
    step = next(m * power for m in (1, 2, 5, 10) if m * power >= raw)
    draft = Scale(low, high, width, pad)
    places = max(0, -floor(log10(step)))
    marks = [step * k for k in range(ceil(low / step - 1e-9), floor(high / step + 1e-9) + 1)]
    return Scale(
        low,
        high,
        width,
        pad,
        tuple((draft.x(v), f"{v:.{places}f}".replace("-", "−")) for v in marks),
    )
