"""A gauge study: how far a rig repeats itself, how far rigs and operators agree."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import hypot

from brunt_core.errors import InputError
from brunt_core.statistics.components import components


@dataclass(frozen=True)
class Gauge:
    """Standard deviations in the unit of the readings.

    ``repeatability`` of one operator on one rig, ``reproducibility`` between rigs and operators, by source in
    ``parts``; ``combined`` both; ``excluded`` sources that could not be judged, with the reason.
    """

    repeatability: float
    reproducibility: float
    parts: dict[str, float]
    levels: dict[str, int]
    n: int
    excluded: dict[str, str]

    @property
    def combined(self) -> float:
        """Both together: what one reading on any rig by anybody is uncertain by."""
        return hypot(self.repeatability, self.reproducibility)

    @property
    def share(self) -> float:
        """Reproducibility's share of the combined variance."""
        return (self.reproducibility / self.combined) ** 2 if self.combined else 0.0

    @property
    def limit(self) -> float:
        """Reproducibility limit R = 2.8·s_R: two readings on two rigs differ by more only once in twenty."""
        return 2.8 * self.combined


def gauge(
    values: Sequence[float],
    parts: Sequence[str],
    rigs: Sequence[str],
    hands: Sequence[str] | None = None,
) -> Gauge:
    """Repeatability and reproducibility from readings of the same parts on several rigs, or by several hands.

    Parameters: a reading each, in one unit; the part it is of (where a test destroys the specimen, the
    condition: specimens of one condition stand for one part, and their own variation lies in the
    repeatability, which the words that show it must say); its rig; who read it.
    The parts' means are taken out; rigs and operators are random; variances by restricted maximum
    likelihood, which for as many readings in each cell equal those of the analysis of variance
    without interaction.
    Raises :class:`InputError` for fewer than four readings or only one rig and one operator.
    Source: the method of components is named in :func:`components`; the terms are those of ISO 5725-2
    and of the measurement systems handbooks; checked against the worked example of ten parts, three
    appraisers, three trials.

    >>> g = gauge([1.0, 1.2, 2.0, 2.2, 1.5, 1.7, 2.5, 2.7], list("aabbaabb"), list("xxxxyyyy"))
    >>> round(g.repeatability, 2), round(g.reproducibility, 2)
    (0.13, 0.35)
    """
    sources = {"rig": list(rigs), **({"hand": list(hands)} if hands else {})}
    told = {k: v for k, v in sources.items() if len(set(v)) > 1}
    if not told:
        raise InputError(
            "All readings are from one rig and one operator: there is nothing to compare."
        )
    found = components(values, parts, told)
    by_source = {p.name: p.sd for p in found.parts}
    between = hypot(*by_source.values()) if by_source else 0.0
    levels = {k: len(set(v)) for k, v in told.items()}
    return Gauge(
        found.rest.sd, between, by_source, levels=levels, n=found.n, excluded=dict(found.excluded)
    )
