"""The finding in words: what leads, by how much, how sure; what cannot be told apart."""

from dataclasses import dataclass

from brunt_core.statistics.ranking import Ranking, Row
from brunt_core.statistics.ratios import Ratio, ratio_of_means
from brunt_core.statistics.summaries import LOWER_BOUND, NOTHING, SINGLE


@dataclass(frozen=True)
class Finding:
    """One sentence; ``strong`` is the part to set bold."""

    strong: str
    rest: str

    def __str__(self) -> str:
        return f"{self.strong} {self.rest}".strip()


def findings(ranking: Ranking, comparable: bool = True) -> list[Finding]:
    """One to three sentences on a ranking, the answer first.

    ``comparable`` is false when the rows are ratios already, so that "times" is not said of them.

    >>> from brunt_core.observations import Observation as O
    >>> from brunt_core.statistics.ranking import rank
    >>> f = findings(rank({"A": [O.exact(v) for v in (60., 61., 59.)],
    ...                    "B": [O.exact(v) for v in (40., 41., 39.)]}))
    >>> f[0].strong, f[0].rest
    ('A leads, 1.43 to 1.58 times B.', 'Family-wise confidence 95 %.')
    """
    rows = [r for r in ranking.rows if r.summary.estimate != NOTHING]
    if len(rows) < 2:
        return [
            Finding(
                "Nothing to compare yet.",
                f"{len(rows)} of the two conditions a comparison needs has a result."
                if rows
                else "Readings appear here as they are entered.",
            )
        ]
    alone = [r for r in rows if r.summary.estimate == SINGLE]
    parts = [_lead(ranking, rows, comparable), *_middle(ranking, rows)]
    if alone:
        parts.append(
            Finding("", f"One specimen only: {_names(alone)}; nothing can be said of its scatter.")
        )
    return parts


def _lead(ranking: Ranking, rows: list[Row], comparable: bool) -> Finding:
    tied = [j for j in range(1, len(rows)) if _tied(ranking, 0, j)]
    sure = f"Family-wise confidence {ranking.confidence * 100:g} %."
    if rows[0].summary.estimate == LOWER_BOUND and not tied:
        return Finding(
            f"{rows[0].name} leads: it did not break,",
            f"so it is at least {_least(rows[0], rows[1])} times {rows[1].name}. {sure}",
        )
    if not tied:
        ratio = ratio_of_means(rows[0].summary, rows[1].summary, ranking.confidence)
        by = f", {span(ratio)} times {rows[1].name}" if comparable else f", ahead of {rows[1].name}"
        return Finding(f"{rows[0].name} leads{by}.", sure)
    if len(tied) == len(rows) - 1:
        return Finding(
            "No difference here is real yet.", f"{_names(rows)} cannot be told apart. {sure}"
        )
    together = [rows[0], *(rows[j] for j in tied)]
    return Finding(f"{_names(together)} lead and cannot be told apart.", sure)


def _middle(ranking: Ranking, rows: list[Row]) -> list[Finding]:
    """The last place, when it is clearly behind everything."""
    last = len(rows) - 1
    if last < 2 or any(_tied(ranking, i, last) for i in range(last)):
        return []
    ratio = ratio_of_means(rows[last].summary, rows[0].summary, ranking.confidence)
    return [
        Finding(
            "",
            f"{rows[last].name} is behind all the others, at {_percent(ratio)} of {rows[0].name}.",
        )
    ]


def _tied(ranking: Ranking, first: int, second: int) -> bool:
    return any(first in group and second in group for group in ranking.sets)


def _least(top: Row, bottom: Row) -> str:
    reach = bottom.summary.high or bottom.summary.mean
    return f"{top.summary.mean / reach:.2f}"


def span(ratio: Ratio) -> str:
    """``1.21 to 1.30``, or the plain value where there is no interval.

    >>> span(Ratio(1.25, 1.21, 1.3)), span(Ratio(1.25, sign="≥"))
    ('1.21 to 1.30', '≥ 1.25')
    """
    if ratio.low is None or ratio.high is None:
        return f"{ratio.sign} {ratio.value:.2f}".strip()
    return f"{ratio.low:.2f} to {ratio.high:.2f}"


def _percent(ratio: Ratio) -> str:
    if ratio.low is None or ratio.high is None:
        return f"{ratio.sign} {ratio.value * 100:.0f} %".strip()
    return f"{ratio.low * 100:.0f} to {ratio.high * 100:.0f} %"


def _names(rows: list[Row]) -> str:
    names = [r.name for r in rows]
    if len(names) > 4:
        return f"{', '.join(names[:3])} and {len(names) - 3} more"
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
