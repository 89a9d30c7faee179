"""What a series of weighings says of the water in a part."""

from collections.abc import Sequence
from dataclasses import dataclass

from brunt_core.errors import InputError
from brunt_core.quantities.rendering import render, time_words
from brunt_core.treatments.diffusion import (
    LEAST,
    OVER,
    RATE,
    Settled,
    Uptake,
    Weighing,
    fit_uptake,
    settled,
    settles_at,
)

_BELOW_DRY = 1e-3


@dataclass(frozen=True)
class Moisture:
    """The weighings judged: settled or not, the fitted curve, and what its figures come to.

    Shares are of ``reference`` (the dry mass, or the first where none is given), 0.01 being 1 %.
    """

    weighings: tuple[Weighing, ...]
    reference: float
    settled: Settled
    fit: Uptake | None
    thickness: float | None
    remarks: tuple[str, ...] = ()
    settles: float | None = None

    def share(self, mass: float) -> float:
        """A mass as a share above the reference.

        >>> m = moisture([Weighing(0.0, 0.0100), Weighing(3600.0, 0.0101)])
        >>> round(m.share(0.0102), 4)
        0.02
        """
        return mass / self.reference - 1

    @property
    def equilibrium(self) -> tuple[float, float | None, float | None] | None:
        """The final share with its bounds; ``None`` where nothing was fitted."""
        f = self.fit
        if f is None:
            return None
        low, high = (None if m is None else self.share(m) for m in (f.end_low, f.end_high))
        return self.share(f.end), low, high

    @property
    def diffusivity(self) -> float | None:
        """D in m²/s; ``None`` without a thickness or a fit."""
        return self.fit.diffusivity(self.thickness) if self.fit and self.thickness else None


def moisture(
    weighings: Sequence[Weighing],
    dry: float | None = None,
    thickness: float | None = None,
    rate: float = RATE,
    over: float = OVER,
) -> Moisture:
    """Judge weighings of one part, in order of time.

    Parameters: masses in kg, times in s; ``dry`` the mass dry in kg; ``thickness`` of the plate in m;
    ``rate`` (share per s) and ``over`` (s) of :func:`settled`.

    Raises :class:`InputError` for fewer than two weighings, a mass that is not above zero, or one
    below the dry mass by more than 0.1 %: then one of the two is wrong.
    The fit is :func:`fit_uptake`; it is of a plate that meets its new surroundings at the first
    weighing, wet or dry through.

    >>> m = moisture([Weighing(0.0, 0.0100), Weighing(3600.0, 0.0101)])
    >>> m.settled.settled, m.fit, len(m.remarks)
    (False, None, 1)
    """
    rows = sorted(weighings, key=lambda w: w.time)
    if len(rows) < 2:
        raise InputError("One weighing cannot show a change: weigh again.", "mass")
    for w in rows:
        if w.mass <= 0:
            raise InputError("A mass must be more than zero.", "mass")
        if dry and w.mass < dry * (1 - _BELOW_DRY):
            raise InputError(
                f"{render(w.mass, 'mass', 'g', 5)} at {time_words(w.time, 3)} is below the dry mass of "
                f"{render(dry, 'mass', 'g', 5)}: one of the two is wrong.",
                "mass",
            )
    fit = fit_uptake(rows)
    reference = dry or rows[0].mass
    judged = settled(rows, rate, over, reference, fit.sd if fit else 0.0)
    remarks = list(_remarks(rows, fit, judged, over))
    settles = settles_at(fit, rate, reference) if fit else None
    return Moisture(
        weighings=tuple(rows),
        reference=reference,
        settled=judged,
        fit=fit,
        thickness=thickness,
        remarks=tuple(remarks),
        settles=settles,
    )


def _remarks(
    rows: Sequence[Weighing], fit: Uptake | None, judged: Settled, over: float
) -> list[str]:
    said = []
    if fit is None:
        few = len(rows) < LEAST
        said.append(
            f"{len(rows)} weighings are too few to predict the end value; at least {LEAST} are needed."
            if few
            else "The mass does not change by more than its variation: nothing to predict."
        )
    elif fit.end_low is None or fit.end_high is None:
        said.append("The curve has not bent yet: the end value is bounded on one side only.")
    if rows[-1].time - rows[0].time < over:
        said.append(
            f"Weighed over {time_words(rows[-1].time - rows[0].time, 3)}; whether it is settled is judged "
            f"over {time_words(over, 3)}."
        )
        said = said[:1] if fit is None else said
    if judged.coarse and judged.settled:
        said.append("Constant mass within the resolution of this scale.")
    return said
