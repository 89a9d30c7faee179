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


def power_curve(prospect, chosen: int, wanted: float | None) -> dict | None:
    """The curve of detectable difference over n as drawing points, the chosen n marked on it."""
    if prospect is None:
        return None
    top = max(d for _, d in prospect.curve[1:]) * 100
    across = Scale(2, 20, 360, 34)
    down = scale_for([0.0, top], 150, 14, 4)

    def place(n: float, share: float) -> tuple[float, float]:
        return across.x(n), round(150 - down.x(min(share * 100, top)), 1)

    points = [place(n, d) for n, d in prospect.curve]
    return {
        "path": "M" + " L".join(f"{x},{y}" for x, y in points),
        "chosen": place(chosen, prospect.detectable)
        if prospect.detectable and chosen <= 20
        else None,
        "wanted": place(2, wanted)[1] if wanted and wanted * 100 < top else None,
        "xs": [(across.x(n), n) for n in (2, 5, 10, 15, 20)],
        "ys": [(round(150 - y, 1), label) for y, label in down.ticks],
    }
