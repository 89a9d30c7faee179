"""``rank``, ``fit``, ``tolerance``, ``trend`` and ``effects``: tables of results without the web."""

import argparse
import json
import sys
from collections.abc import Callable
from math import sqrt
from typing import Any

from brunt_command import tables
from brunt_command.files import dispatch, spoken
from brunt_core.errors import InputError
from brunt_core.quantities.numbers import read_number
from brunt_core.statistics.comparisons import Pair
from brunt_core.statistics.distributions import FAMILIES, NORMAL, fit_family, surviving
from brunt_core.statistics.effects import Term, effects
from brunt_core.statistics.equivalence import within
from brunt_core.statistics.ranking import Ranking, rank
from brunt_core.statistics.ratios import ratio_of_means
from brunt_core.statistics.response import respond, response_in_words
from brunt_core.statistics.tolerance import lower_bound

# Beyond so many groups no pair is told one by one; the command would print millions.
_PAIRS = 400


def _parser(name: str, about: str | None, value: bool = True) -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog=f"./brunt {name}", description=about)
    parser.add_argument("file", help="CSV; cells may be 61.2, >58, <3 or 6..8")
    parser.add_argument("--value", required=value, metavar="COLUMN")
    parser.add_argument("--json", action="store_true")
    return parser


def _share(text: str, name: str, percent: bool = False) -> float:
    try:
        number = read_number(text.strip().removesuffix("%"))
    except InputError as error:
        raise error.at(name) from None
    number /= 100 if percent or text.strip().endswith("%") else 1
    if not 0 < number < 1:
        raise InputError(f"The {name} lies between 0 and {'100 %' if percent else '1'}.", name)
    return number


def run_rank(arguments: list[str]) -> int:
    """Rank groups in a CSV file by mean of a column."""
    parser = _parser("rank", run_rank.__doc__)
    parser.add_argument("--group", required=True, metavar="COLUMN")
    parser.add_argument("--reference", metavar="NAME")
    parser.add_argument("--confidence", default="0.95")
    parser.add_argument("--better", choices=("higher", "lower"), default="higher")
    parser.add_argument("--lower-is-better", action="store_true")
    parser.add_argument("--equivalence", metavar="PERCENT", help="alike within so many per cent")
    parser.add_argument("--step", help="the step the instrument shows, in the column's unit")
    chosen = parser.parse_args(arguments)
    better = "lower" if chosen.lower_is_better else chosen.better
    limit = _share(chosen.equivalence, "equivalence", percent=True) if chosen.equivalence else None
    groups = tables.grouped_observations(chosen.file, chosen.group, chosen.value)
    rounding = _step(chosen.step) / sqrt(12) if chosen.step else 0.0
    confidence = _share(chosen.confidence, "confidence")
    ranking = rank(
        groups, chosen.reference, better, confidence, {name: rounding for name in groups}
    )
    rows = rank_records(ranking, limit)
    print(json.dumps(rows, ensure_ascii=False, indent=1) if chosen.json else _table(rows))
    return 0


def _step(text: str) -> float:
    try:
        step = read_number(text)
    except InputError as error:
        raise error.at("step") from None
    if step < 0:
        raise InputError("The step cannot be less than zero.", "step")
    return step


def rank_records(ranking: Ranking, limit: float | None = None) -> list[dict]:
    """A ranking as plain data, best first; percentages are of the means, ``pairs`` those of each row.

    ``limit`` the share within which two are called alike; ``None`` where it was not asked.
    """
    few = len(ranking.rows) <= _PAIRS
    return [
        {
            "group": r.name,
            "n": r.summary.n,
            "mean": _number(r.summary.mean),
            "sd": r.summary.sd,
            "cv_percent": None if r.summary.cv is None else 100 * r.summary.cv,
            "ci_low": r.summary.low,
            "ci_high": r.summary.high,
            "percent_of_best": None if r.of_best is None else 100 * r.of_best.value,
            "percent_of_reference": None if r.of_reference is None else 100 * r.of_reference.value,
            "letters": r.letters,
            "estimate": r.summary.estimate,
            "n_bounded": r.summary.n_bounded,
            "median": surviving(r.observations).median,
            "pairs": [
                _pair(ranking, i, j, limit) for j in range(len(ranking.rows)) if few and j != i
            ],
        }
        for i, r in enumerate(ranking.rows)
    ]


def _pair(ranking: Ranking, i: int, j: int, limit: float | None) -> dict[str, Any]:
    """Two rows, the difference first − second, its simultaneous interval, whether apart, whether alike."""
    one, other = ranking.rows[i], ranking.rows[j]
    pair: Pair = ranking.pair(i, j)
    turn = 1 if pair.first == i else -1
    low, high = sorted(turn * e for e in pair.interval(ranking.confidence))
    judged = bool(pair.standard_error)
    ratio = None
    if other.summary.mean and other.summary.mean == other.summary.mean:
        ratio = _number(ratio_of_means(one.summary, other.summary).value)
    alike = None
    if limit is not None:
        alike, _ = within(one.summary, other.summary, limit, ranking.confidence, pair.family)
    return {
        "a": one.name,
        "b": other.name,
        "difference": _number(turn * pair.difference),
        "low": low if judged else None,
        "high": high if judged else None,
        "ratio": ratio,
        "p": None if pair.basis == "none" else pair.p,
        "significant": ranking.apart(i, j),
        "equivalent": alike,
    }


def _number(value: float) -> float | None:
    return value if value == value and abs(value) != float("inf") else None


def _table(rows: list[dict]) -> str:
    def cell(value: object) -> str:
        return "–" if value is None else f"{value:.4g}" if isinstance(value, float) else str(value)

    heads = (
        *("group", "n", "mean", "sd", "cv_percent", "ci_low", "ci_high"),
        *("percent_of_best", "percent_of_reference", "letters"),
    )
    body = [list(heads)] + [[cell(row[h]) for h in heads] for row in rows]
    widths = [max(len(line[i]) for line in body) for i in range(len(heads))]
    return "\n".join(
        "  ".join(
            c.ljust(w) if i == 0 else c.rjust(w)
            for i, (c, w) in enumerate(zip(line, widths, strict=True))
        )
        for line in body
    )


def run_fit(arguments: list[str]) -> int:
    """Fit a distribution to a column of readings, bounds included."""
    parser = _parser("fit", run_fit.__doc__)
    parser.add_argument("--distribution", choices=FAMILIES, default=NORMAL)
    parser.add_argument("--confidence", default="0.95")
    chosen = parser.parse_args(arguments)
    confidence = _share(chosen.confidence, "confidence")
    found = fit_family(tables.observations(chosen.file, chosen.value), chosen.distribution)
    low, high = found.bounds(0.5, confidence)
    record = {
        "distribution": found.family,
        "parameters": found.parameters,
        "median": found.median,
        "median_low": low,
        "median_high": high,
        "n": found.n,
        "n_bounded": found.n_bounded,
        "log_likelihood": found.log_likelihood,
    }
    return _say(record, chosen.json)


def run_tolerance(arguments: list[str]) -> int:
    """The one-sided lower bound that a share of all specimens exceeds."""
    parser = _parser("tolerance", run_tolerance.__doc__)
    parser.add_argument("--coverage", default="0.99")
    parser.add_argument("--confidence", default="0.95")
    parser.add_argument("--distribution", choices=FAMILIES, default=NORMAL)
    chosen = parser.parse_args(arguments)
    found = lower_bound(
        tables.observations(chosen.file, chosen.value),
        _share(chosen.coverage, "coverage"),
        _share(chosen.confidence, "confidence"),
        chosen.distribution,
    )
    record = {
        "distribution": found.family,
        "k": found.k,
        "lower": found.lower,
        "n": found.n,
        "n_bounded": found.n_bounded,
        "needed": found.needed,
        "distribution_free": found.free,
    }
    return _say(record, chosen.json)


def run_trend(arguments: list[str]) -> int:
    """A property over a setting: none, straight, curved or levelling off, its optimum, odd levels."""
    parser = _parser("trend", run_trend.__doc__)
    parser.add_argument("--setting", required=True, metavar="COLUMN")
    parser.add_argument("--better", choices=("higher", "lower"), default="higher")
    parser.add_argument("--confidence", default="0.95")
    chosen = parser.parse_args(arguments)
    settings, values, bounded = tables.settings(chosen.file, chosen.setting, chosen.value)
    found = respond(settings, values, chosen.better, _share(chosen.confidence, "confidence"))
    best = found.optimum
    record = {
        "model": found.model,
        "coefficients": list(found.coefficients),
        "optimum": None
        if best is None
        else {"value": best.value, "low": best.low, "high": best.high, "at_edge": best.at_edge},
        "lack_of_fit_p": found.lack_of_fit_p,
        "odd": [o.level for o in found.odd],
        "p_none": found.p_none,
        "residual_sd": found.residual_sd,
        "n": found.n,
        "n_bounded": bounded,
        "remarks": [*response_in_words(found, chosen.setting), *_at_their_bound(bounded)],
    }
    return _say(record, chosen.json)


def run_effects(arguments: list[str]) -> int:
    """Main effects and interactions of two factors or more, type II."""
    parser = _parser("effects", run_effects.__doc__)
    parser.add_argument("--factor", action="append", default=[], metavar="COLUMN")
    parser.add_argument("--covariate", action="append", default=[], metavar="COLUMN", help="a number beside the factors: mass, temperature")  # fmt: skip
    parser.add_argument("--confidence", default="0.95")
    chosen = parser.parse_args(arguments)
    if len(chosen.factor) < 2:
        raise InputError("--factor is given twice or more.", "--factor")
    rows, bounded, beside = tables.factors(
        chosen.file, chosen.factor, chosen.value, chosen.covariate
    )
    found = effects(rows, chosen.factor, _share(chosen.confidence, "confidence"), beside)
    record = {
        "terms": [
            {
                "term": ":".join(t.factors),
                "df": t.df,
                "F": None if t.f is None else _number(t.f),
                "p": t.p,
                "levels": [
                    {"level": v.level, "mean": v.mean, "low": v.low, "high": v.high}
                    for v in t.levels
                ],
                **_slope(t),
            }
            for t in found.terms
        ],
        "residual_sd": found.residual_sd,
        "residual_df": found.residual_df,
        "method": found.method,
        "aliases": list(found.aliases),
        "n_bounded": bounded,
        "remarks": _at_their_bound(bounded),
    }
    return _say(record, chosen.json)


def _slope(term: Term) -> dict[str, float | None]:
    """A covariate's slope with its interval; nothing for a factor."""
    return dict(zip(("slope", "low", "high"), term.slope, strict=True)) if term.slope else {}


def _at_their_bound(count: int) -> list[str]:
    """What is said of values of which only a bound is known, where a mean is fitted."""
    if count == 1:
        return ["One value is only a bound and counts at it."]
    return [f"{count} values are bounds and are used at their bound."] if count else []


def _term_words(term: dict[str, Any]) -> str:
    """One effect on a line, its levels' means behind it."""
    judged = "not judged" if term["p"] is None else f"F {term['F']:.4g}, p {term['p']:.3g}"
    means = ", ".join(
        f"{v['level']} {v['mean']:.4g}" for v in term["levels"] if v["mean"] is not None
    )
    slope = f"; slope {term['slope']:.4g}" if "slope" in term else ""
    return f"{term['term']}: {judged}, {term['df']} df{f'; means {means}' if means else ''}{slope}"


def _say(record: dict[str, Any], as_json: bool) -> int:
    if as_json:
        print(json.dumps(record, ensure_ascii=False, indent=1))
    else:
        terms = record.get("terms", [])
        for line in map(_term_words, terms):
            print(line)
        rest = {k: v for k, v in record.items() if k != "terms"}
        print(spoken({"remarks": [], **rest}))
    return 0


COMMANDS: dict[str, Callable[[list[str]], int]] = {
    "rank": run_rank,
    "fit": run_fit,
    "tolerance": run_tolerance,
    "trend": run_trend,
    "effects": run_effects,
}


def main() -> int:
    """Entry point: ``python -m brunt_command.compare rank|fit|tolerance|trend|effects …``."""
    return dispatch(COMMANDS)


if __name__ == "__main__":
    sys.exit(main())
