"""What else Compare claims: optima, effects, tolerance bounds, equivalence, stopping when it says enough."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import exp, log
from typing import Any

import numpy as np
import scipy

from brunt_core.observations import Observation
from brunt_core.statistics.effects import effects
from brunt_core.statistics.enough import enough
from brunt_core.statistics.equivalence import within
from brunt_core.statistics.response import respond
from brunt_core.statistics.summaries import summarise
from brunt_core.statistics.tolerance import lower_bound


@dataclass(frozen=True)
class Claim:
    """One claim: its words, what is claimed in words, what was seen as a share or a number."""

    words: str
    claimed: str
    seen: float
    runs: int


def claims(runs: int, seed: int) -> Iterator[Claim]:
    """Every further claim, simulated."""
    yield from _optima(runs, np.random.default_rng(seed))
    yield from _interactions(runs, np.random.default_rng(seed))
    yield from _tolerances(max(runs // 2, 1), np.random.default_rng(seed))
    yield from _alike(runs, np.random.default_rng(seed))
    yield from _stopping(runs, np.random.default_rng(seed))


def _optima(runs: int, random: Any) -> Iterator[Claim]:
    x: Any = np.repeat([1.0, 2.0, 3.0, 4.0, 5.0], 4)
    covered = told = false = 0
    for _ in range(runs):
        false += respond(x, random.normal(50, 3, 20)).model != "none"
        found = respond(x, 50 - 2 * (x - 3.3) ** 2 + random.normal(0, 2.5, 20)).optimum
        if found and not found.at_edge:
            low = -1e9 if found.low is None else found.low
            high = 1e9 if found.high is None else found.high
            told, covered = told + 1, covered + (low <= 3.3 <= high)
    yield Claim("trend: interval of the optimum, five levels of four", "95 %", covered / max(told, 1), told)  # fmt: skip
    yield Claim("trend: told although the setting does nothing", "at most 5 %", false / runs, runs)


def _interactions(runs: int, random: Any) -> Iterator[Claim]:
    for unequal in (False, True):
        false = 0
        for _ in range(runs):
            rows = [
                ({"A": a, "B": b}, 50 + 5 * (a == "2") + 3 * (b == "y") + random.normal(0, 2))
                for a in "12"
                for b in "xyz"
                for _ in range(4 - (unequal and a == "1" and b == "x") * 2)
            ]
            term = effects(rows, ["A", "B"]).term("A", "B")
            false += bool(term and term.p is not None and term.p < 0.05)
        words = "unequal numbers" if unequal else "four of each"
        yield Claim(f"effects: interaction told where there is none, {words}", "5 %", false / runs, runs)  # fmt: skip


def _tolerances(runs: int, random: Any) -> Iterator[Claim]:
    draws: Mapping[str, tuple[Callable[[], Any], float]] = {
        "normal": (lambda: random.normal(50, 4, 6), 50 + 4 * float(scipy.special.ndtri(0.1))),
        "lognormal": (
            lambda: np.exp(random.normal(4, 0.1, 6)),
            exp(4 + 0.1 * float(scipy.special.ndtri(0.1))),
        ),
        "weibull": (lambda: 50 * random.weibull(12, 6), 50 * (-log(0.9)) ** (1 / 12)),
    }
    for family, (draw, true) in draws.items():
        for held in (False, True):
            kept = 0
            for _ in range(runs):
                values = draw()
                cut = sorted(values)[3] if held else np.inf
                data = [Observation.exact(v) if v <= cut else Observation.at_least(cut) for v in values]  # fmt: skip
                kept += lower_bound(data, 0.90, 0.95, family).lower <= true
            words = "two of six held" if held else "six broke"
            yield Claim(f"tolerance: 90 % bound, {family}, {words}", "95 %", kept / runs, runs)


def _alike(runs: int, random: Any) -> Iterator[Claim]:
    said = 0
    for _ in range(runs * 4):
        a, b = (_summary(random.normal(m, 1, 6)) for m in (55, 50))
        said += bool(within(a, b, 0.10)[0])
    yield Claim("equivalence: alike within 10 % said at a true 10 %", "at most 5 %", said / runs / 4, runs * 4)  # fmt: skip


def _summary(values: Sequence[float]) -> Any:
    return summarise([Observation.exact(float(v)) for v in values])


def _stopping(runs: int, random: Any) -> Iterator[Claim]:
    for cv, words in (((1, 1), "alike"), ((1, 3), "threefold")):
        for shape in ("normal", "log-normal"):
            false = sum(_stopped(random, 0.0, cv, shape)[0] for _ in range(runs * 2))
            yield Claim(
                f"enough: significantly different at any look although equal, variation {words}, {shape}",
                "at most 5 %",
                false / runs / 2,
                runs * 2,
            )
    for gap in (2.0, 3.0, 5.0):
        found = [_stopped(random, gap, (1, 1), "normal") for _ in range(runs)]
        used = float(np.mean([n for _, n in found]))
        told = float(np.mean([t for t, _ in found]))
        words = f"enough: {gap:g} sd apart, ten of each planned"
        yield Claim(f"{words}: share told", "–", told, runs)
        yield Claim(f"{words}: share of the breaks that are saved", "–", 1 - used / 10, runs)


def _stopped(random: Any, gap: float, cv: tuple[int, int], shape: str) -> tuple[bool, int]:
    """Whether two are significantly different at any look, and after how many of each."""
    z = random.normal(size=(2, 10))
    if shape == "log-normal":
        z = (np.exp(0.2 * z) - exp(0.02)) / 0.2
    groups = {
        "A": [Observation.exact(50 + gap + cv[0] * v) for v in z[0]],
        "B": [Observation.exact(50 + cv[1] * v) for v in z[1]],
    }
    verdict = enough(groups, {"A": 10, "B": 10}, of=[]).verdicts[0]
    return verdict.state == "apart", verdict.round
