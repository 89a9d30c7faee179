"""What a certificate's figures say of a rig: its errors of indication, its class, its limit of error."""

from collections.abc import Sequence
from dataclasses import dataclass

from brunt_core.errors import InputError

# Greatest relative error of indication of each class, as a share: ISO 7500-1:2018, table 2, from memory.
CLASSES = ((0.5, 0.005), (1, 0.01), (2, 0.02), (3, 0.03))


@dataclass(frozen=True)
class CalibrationPoint:
    """One figure of a certificate in one unit: what was applied, what was read, the expanded uncertainty (k = 2)."""

    applied: float
    read: float
    expanded: float = 0.0

    @property
    def error(self) -> float:
        """The relative error of indication, (read − applied) / applied."""
        return (self.read - self.applied) / self.applied

    @property
    def reach(self) -> float:
        """How far off it may be, as a share: the error's size with the certificate's own uncertainty added."""
        return abs(self.error) + self.expanded / abs(self.applied)


@dataclass(frozen=True)
class CalibrationVerdict:
    """Of all figures: the greatest relative error, the limit of error they bear out, the class by
    indication alone (``None`` where it is none), from and to where it was looked at."""

    worst: float
    limit: float
    grade: float | None
    low: float
    high: float


def verdict(points: Sequence[CalibrationPoint]) -> CalibrationVerdict:
    """What a certificate's figures come to.

    Parameters: one point or more in one unit, none applied at zero.
    q = (F_i − F)/F of each; the limit of error is the greatest size of q with its expanded uncertainty
    added linearly, so that a reading is off by no more wherever it was looked at. The class is by
    error of indication alone; repeatability, reversibility and zero are not in a certificate's two
    columns.
    Raises :class:`InputError` for no point, one at zero, a negative uncertainty.
    Source: ISO 7500-1:2018, 6.5 and table 2 (from memory).

    >>> v = verdict([CalibrationPoint(100.0, 100.4, 0.2), CalibrationPoint(500.0, 497.0, 1.0)])
    >>> round(v.worst, 4), round(v.limit, 4), v.grade, v.low, v.high
    (0.006, 0.008, 1, 100.0, 500.0)
    """
    if not points:
        raise InputError("Give at least one figure of the certificate.", "figures")
    if any(p.applied == 0 for p in points):
        raise InputError("A reading at zero load gives no relative error.", "figures")
    if any(p.expanded < 0 for p in points):
        raise InputError("An uncertainty cannot be below nothing.", "figures")
    worst = max(abs(p.error) for p in points)
    grade = next((name for name, limit in CLASSES if worst <= limit * (1 + 1e-9)), None)
    span = [abs(p.applied) for p in points]
    return CalibrationVerdict(worst, max(p.reach for p in points), grade, min(span), high=max(span))
