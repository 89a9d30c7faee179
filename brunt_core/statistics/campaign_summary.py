"""The finding in words: which is best, by how much, how certain; which do not differ significantly."""

from dataclasses import dataclass

from brunt_core.quantities.rendering import number
from brunt_core.statistics.ranking import Ranking, Row
from brunt_core.statistics.ratios import Ratio, ratio_of_means
from brunt_core.statistics.summaries import LOWER_BOUND, NOTHING, SINGLE, t_quantile


@dataclass(frozen=True)
class Finding:
    """One sentence; ``strong`` is the part to set bold."""

    strong: str
    rest: str

    def __str__(self) -> str:
        return f"{self.strong} {self.rest}".strip()


def campaign_summary(
    ranking: Ranking, comparable: bool = True, ordinal: bool = False
) -> list[Finding]:
    """One to three sentences on a ranking, the answer first.

    ``comparable`` is false when the rows are ratios already, so that "times" is not said of them;
    ``ordinal`` when they are places on a scale of words, of which no ratio is said at all.

    >>> from brunt_core.observations import Observation as O
    >>> from brunt_core.statistics.ranking import rank
    >>> f = campaign_summary(rank({"A": [O.exact(v) for v in (60., 61., 59.)],
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
    lead = _lead(ranking, rows, comparable and not ordinal)
    parts = [lead] if ordinal else [lead, *_middle(ranking, rows)]
    if ordinal:
        parts.append(Finding("", "Compared by rank: an ordinal scale has no distances."))
    if alone:
        parts.append(Finding("", f"One specimen only: {_names(alone)}; no standard deviation."))
    return parts


def _lead(ranking: Ranking, rows: list[Row], comparable: bool) -> Finding:
    tied = [j for j in range(1, len(rows)) if _tied(ranking, 0, j)]
    leaders = next((j for j in range(1, len(rows)) if j not in tied), len(rows))
    sure = f"Family-wise confidence {number(ranking.confidence * 100, 'g')} %."
    if rows[0].summary.estimate == LOWER_BOUND and not tied:
        return Finding(
            f"{rows[0].name} leads: it did not break,",
            f"so it is at least {_least(ranking, rows[0], rows[1])} times {rows[1].name}. {sure}",
        )
    if not tied:
        by = f", ahead of {rows[1].name}"
        if comparable:
            by = f", {span(_ratio(ranking, rows[0], rows[1]))} times {rows[1].name}"
        return Finding(f"{rows[0].name} leads{by}.", sure)
    if len(tied) == len(rows) - 1:
        apart = _some_apart(ranking, rows)
        if apart:
            return Finding(
                f"{rows[0].name} has the highest result, but no significant difference from any other yet.",
                f"{apart} {sure}",
            )
        return Finding(
            "No significant difference yet.",
            f"No significant difference between {_names(rows)}. {sure}",
        )
    wide = [rows[j] for j in tied if j > leaders]
    rest = f"{_too_wide(wide, rows[0])}{sure}"
    if leaders == 1:
        return Finding(f"{rows[0].name} leads {rows[1].name}.", rest)
    return Finding(
        f"{_names(rows[:leaders])} lead, with no significant difference between them.", rest
    )


def _too_wide(wide: list[Row], first: Row) -> str:
    """Those further down that do not differ significantly from the first, in a sentence; empty for none."""
    if not wide:
        return ""
    verb = "varies" if len(wide) == 1 else "vary"
    return f"{_names(wide)} {verb} too much to differ significantly from {first.name}. "


def _some_apart(ranking: Ranking, rows: list[Row]) -> str:
    """What differs significantly further down, in words; empty when nothing can."""
    found = [
        (i, j)
        for i in range(1, len(rows))
        for j in range(i + 1, len(rows))
        if not _tied(ranking, i, j)
    ]
    if not found:
        return ""
    (i, j), more = found[0], len(found) - 1
    others = f", and {more} more pair{'s' if more > 1 else ''} differ significantly" if more else ""
    return f"{rows[i].name} is ahead of {rows[j].name}{others}."


def _ratio(ranking: Ranking, top: Row, bottom: Row) -> Ratio:
    """Of two that were picked for their places: its interval is one of all pairs at once."""
    return ratio_of_means(top.summary, bottom.summary, ranking.each)


def _middle(ranking: Ranking, rows: list[Row]) -> list[Finding]:
    """The last place, when it is clearly behind everything."""
    last = len(rows) - 1
    if last < 2 or any(_tied(ranking, i, last) for i in range(last)):
        return []
    ratio = _ratio(ranking, rows[last], rows[0])
    return [
        Finding(
            "",
            f"{rows[last].name} is behind all the others, at {_percent(ratio)} of {rows[0].name}.",
        )
    ]


def _tied(ranking: Ranking, first: int, second: int) -> bool:
    return not ranking.apart(first, second)


def _least(ranking: Ranking, top: Row, bottom: Row) -> str:
    """How many times at the least: the bound over the upper end of the other's mean."""
    s, high = bottom.summary, bottom.summary.mean
    if s.standard_error is not None:
        high += t_quantile((1 + ranking.each) / 2, s.df or 1) * s.standard_error
    return number(top.summary.mean / high, ".2f")


def span(ratio: Ratio) -> str:
    """``1.21 to 1.30``, or the plain value where there is no interval.

    >>> span(Ratio(1.25, 1.21, 1.3)), span(Ratio(1.25, sign="≥"))
    ('1.21 to 1.30', '≥ 1.25')
    """
    if ratio.low is None or ratio.high is None:
        return f"{ratio.sign} {number(ratio.value, '.2f')}".strip()
    return f"{number(ratio.low, '.2f')} to {number(ratio.high, '.2f')}"


def _percent(ratio: Ratio) -> str:
    if ratio.low is None or ratio.high is None:
        return f"{ratio.sign} {ratio.value * 100:.0f} %".strip()
    return f"{ratio.low * 100:.0f} to {ratio.high * 100:.0f} %"


def _names(rows: list[Row]) -> str:
    names = [r.name for r in rows]
    if len(names) > 4:
        return f"{', '.join(names[:3])} and {len(names) - 3} more"
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
