"""A check standard's chart in small: its days and limits, for a list."""

from dataclasses import dataclass

from brunt_web.checks.chart import chart_of
from brunt_web.checks.queries import WatchedCheck

_ACROSS, _DOWN = 300.0, 64.0


@dataclass(frozen=True)
class Spark:
    """Days as (x, y, out of limits), the fields of limits as (x, y, width, height)."""

    days: list[tuple[float, float, bool]]
    fields: list[tuple[float, float, float, float]]


def spark_of(found: WatchedCheck, wide: float = 1100.0, high: float = 300.0) -> Spark:
    """The large chart made small."""
    chart = chart_of(found)
    kx, ky = _ACROSS / wide, _DOWN / high
    return Spark(
        [(round(d.x * kx, 1), round(d.y * ky, 1), d.hot) for d in chart.days],
        [
            (
                round(f.x * kx, 1),
                round(f.edges[0] * ky, 1),
                round(f.width * kx, 1),
                round((f.edges[1] - f.edges[0]) * ky, 1),
            )
            for f in chart.fields
        ],
    )
