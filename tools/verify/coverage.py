"""``verify``: does what Brunt claims hold? Simulates, and prints coverage and false alarms.

Ten conditions of one true strength: how often an interval holds the truth, and how often any two are
significantly different that are equal. For the headline ten of rising strength: in what share of runs it names no
lead whose interval misses the truth. Nothing is stored; the seed is fixed.
"""

import argparse
import json
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import product
from math import log, sqrt
from typing import Any

import numpy as np
import scipy

from brunt_core.observations import Observation
from brunt_core.statistics.comparisons import different_pairs
from brunt_core.statistics.ranking import Ranking, rank
from brunt_core.statistics.ratios import ratio_of_means
from tools.verify.claims import claims

CONDITIONS, MEAN, CV, RISE = 10, 50.0, 3.0, 0.12
SIZES = (2, 3, 5, 10)
COLUMNS = ("mean", "ratio", "% of best", "headline", "false alarm")


@dataclass(frozen=True)
class SimulatedCase:
    """One way the world may be: readings a condition, variation, shape, share that held, rounding."""

    n: int
    spread: str
    shape: str
    held: float
    rounded: bool

    @property
    def words(self) -> str:
        """The case on one line."""
        step = "rounded to sd/2" if self.rounded else "as read"
        return f"n {self.n:>2}, {self.spread} variation, {self.shape}, {self.held:.0%} held, {step}"


def cases() -> Iterator[SimulatedCase]:
    """Every case of the table."""
    shapes = ("normal", "log-normal")
    for spread, shape, held, rounded, n in product(
        ("equal", "unequal"), shapes, (0.0, 0.2, 0.4), (False, True), SIZES
    ):
        yield SimulatedCase(n, spread, shape, held, rounded)


def draw(case: SimulatedCase, random: Any, rise: float = 0.0) -> dict[str, list[Observation]]:
    """Readings of ten conditions, each so much stronger than the last; those above the cut did not fail at it."""
    sds = CV * np.where(np.arange(CONDITIONS) < 7, 1.0, 3.0 if case.spread == "unequal" else 1.0)
    z = random.normal(size=(CONDITIONS, case.n))
    cut = scipy.special.ndtri(1 - case.held) if case.held else np.inf
    groups = {}
    for i, sd in enumerate(sds):
        centre = MEAN * (1 + rise * i)
        values = _shaped(z[i], centre, sd, case.shape)
        limit = float(_shaped(np.array([cut]), centre, sd, case.shape)[0]) if case.held else np.inf
        step = CV / 2 if case.rounded else 0.0
        groups[str(i)] = [
            Observation.at_least(limit)
            if value > limit
            else Observation.exact(float(round(value / step) * step if step else value))
            for value in values
        ]
    return groups


def _shaped(z: Any, mean: float, sd: float, shape: str) -> Any:
    """Standard normal values as strengths of this mean and variation."""
    if shape == "normal":
        return mean + sd * z
    width = sqrt(log(1 + (sd / mean) ** 2))
    return np.exp(log(mean) - width**2 / 2 + width * z)


def tally(case: SimulatedCase, runs: int, seed: int) -> dict[str, float | None]:
    """Shares over so many runs; ``None`` where nothing was claimed."""
    random, hits, claims = np.random.default_rng(seed), Counter[str](), Counter[str]()
    rounding = {str(i): CV / 2 / sqrt(12) for i in range(CONDITIONS)} if case.rounded else {}
    alarms = 0
    for _ in range(runs):
        ranking = rank(draw(case, random), rounding=rounding)
        alarms += bool(different_pairs(ranking.pairs))
        risen = rank(draw(case, random, RISE), rounding=rounding)
        for column, low, high, truth in (*_claimed(ranking), *_headline(risen)):
            claims[column] += 1
            hits[column] += low <= truth <= high
    shares: dict[str, float | None] = {
        c: hits[c] / claims[c] if claims[c] else None for c in COLUMNS[:-1]
    }
    # A lead is named in some runs only, and those are picked by luck too: wrong ones count among all.
    if claims["headline"]:
        shares["headline"] = 1 - (claims["headline"] - hits["headline"]) / runs
    return {**shares, "false alarm": alarms / runs}


def _claimed(ranking: Ranking) -> Iterator[tuple[str, float, float, float]]:
    """Every interval that the screen would show, with the truth: (column, low, high, truth)."""
    by_name = {r.name: r for r in ranking.rows}
    first = by_name["0"].summary
    if first.low is not None and first.high is not None:
        yield "mean", first.low, first.high, MEAN
    a, b = by_name["1"].summary, by_name["2"].summary
    if a.standard_error and b.standard_error:
        ratio = ratio_of_means(a, b)
        if ratio.low is not None and ratio.high is not None:
            yield "ratio", ratio.low, ratio.high, 1.0
    picked = ranking.rows[-1].of_best
    if picked and picked.low is not None and picked.high is not None:
        yield "% of best", picked.low, picked.high, 1.0


def _headline(ranking: Ranking) -> Iterator[tuple[str, float, float, float]]:
    """The lead that the headline names, where it names one."""
    top, second = ranking.rows[0], ranking.rows[1]
    if set(top.letters) & set(second.letters) or second.of_best is None:
        return
    low, high = second.of_best.low, second.of_best.high
    if low is not None and high is not None:
        true = [1 + RISE * int(row.name) for row in (top, second)]
        yield "headline", low, high, true[1] / true[0]


def main() -> int:
    """Run the simulation and print its table."""
    parser = argparse.ArgumentParser(prog="./brunt verify", description=main.__doc__)
    parser.add_argument("--runs", type=int, default=200, help="runs of each case")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument(
        "--only", default="", help="cases with these words; “further” for what comes after them"
    )
    parser.add_argument("--json", action="store_true")
    chosen = parser.parse_args()
    if chosen.runs < 1:
        parser.error("--runs must be one or more")
    rows = []
    if not chosen.json:
        print(
            f"{'in per cent; 95 claimed, 5 for false alarms':<62}", *(f"{c:>12}" for c in COLUMNS)
        )
    for case in cases():
        if chosen.only not in case.words:
            continue
        found = tally(case, chosen.runs, chosen.seed)
        rows.append({"case": case.words, **found})
        if not chosen.json:
            cells = ("–" if v is None else f"{v * 100:.1f}" for v in found.values())
            print(f"{case.words:<62}", *(f"{c:>12}" for c in cells), flush=True)
    further = []
    if not chosen.only or chosen.only == "further":
        for claim in claims(chosen.runs, chosen.seed):
            further.append(vars(claim))
            if not chosen.json:
                print(f"{claim.words:<78} {claim.claimed:>12} {claim.seen * 100:>8.1f}", flush=True)
    if chosen.json:
        record = {"runs": chosen.runs, "rows": rows, "further": further}
        print(json.dumps(record, indent=1, ensure_ascii=False))
    else:
        error = 100 * sqrt(0.95 * 0.05 / chosen.runs)
        print(f"\n{chosen.runs} runs a case: each figure is good to about ± {2 * error:.1f}.")
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
