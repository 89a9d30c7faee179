"""How many attempts a print took, as a grade beside strength."""

from collections.abc import Sequence
from dataclasses import dataclass

# The mean attempts a plate up to which each grade goes; own scale, common practice, no source.
_STEPS = ((1.0, 5), (1.25, 4), (1.7, 3), (2.5, 2))


@dataclass(frozen=True)
class Ease:
    """So many plates, the mean of attempts a plate, the share printed at the first, a grade from 1 to 5."""

    plates: int
    mean: float
    first: float
    grade: int


def ease(attempts: Sequence[tuple[int, bool]]) -> Ease | None:
    """Grade a material's prints.

    Parameters: for each plate the attempts made, and whether one succeeded. A plate that never did is
    counted with one attempt more than were made: it took that many at least. ``None`` without a plate.

    >>> ease([(1, True), (1, True), (3, True)])
    Ease(plates=3, mean=1.6666666666666667, first=0.6666666666666666, grade=3)
    >>> ease([(2, False)]).grade
    1
    """
    counted = [n if done else n + 1 for n, done in attempts if n > 0]
    if not counted:
        return None
    mean = sum(counted) / len(counted)
    grade = next((g for most, g in _STEPS if mean <= most + 1e-9), 1)
    return Ease(len(counted), mean, sum(n == 1 for n in counted) / len(counted), grade)
