"""Failure modes: in what way, at which place and by which mode the specimens of each condition ended."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from brunt_web.campaigns.models import Condition
from brunt_web.comparison.strips import Strip
from brunt_web.testing.models import Test


@dataclass
class ModeShare:
    """One kind: its share of the bar, its words, how many."""

    x: float
    wide: float
    label: str
    count: int
    tone: int


@dataclass
class FailureModeBar:
    """One condition: its parts along a bar of a hundred."""

    name: str
    total: int
    parts: list[ModeShare]

    @property
    def words(self) -> str:
        """How many ended in each way."""
        return ", ".join(f"{p.count} {p.label}" for p in self.parts)


@dataclass
class KindsOf:
    """One question (way, place, mode) of one procedure, over all conditions."""

    title: str
    legend: list[tuple[int, str]]
    bars: list[FailureModeBar]
    says: str = ""


def kinds_of(strips: Sequence[Strip], conditions: Sequence[Condition]) -> list[KindsOf]:
    """Every question that was answered in more than one way, or at all."""
    rows = Test.objects.filter(
        turn__condition__in=list(conditions), turn__procedure__in=[s.procedure for s in strips]
    ).values_list("turn__procedure_id", "turn__condition_id", "outcome", "place", "mode")
    found = []
    tests = list(rows)
    for strip in strips:
        method = strip.procedure.method
        own = [r for r in tests if r[0] == strip.procedure.pk]
        questions: list[tuple[int, str, dict[str, str]]] = [
            (2, "outcome", {o.key: o.label for o in method.outcomes}),
            (3, "failure location", {p.key: p.label for p in method.places}),
            (4, "failure mode", {}),
        ]
        for column, title, words in questions:
            counts: dict[int, Counter[str]] = {
                c.pk: Counter(str(r[column]) for r in own if r[1] == c.pk and r[column])
                for c in conditions
            }
            order = Counter(k for one in counts.values() for k in one.elements())
            if not order:
                continue
            tones = {k: i for i, (k, _) in enumerate(order.most_common())}
            names = {k: words.get(k, k.replace("-", " ")) for k in tones}
            bars = [
                _bar(strip.names.get(c.pk, str(c)), counts[c.pk], tones, names)
                for c in conditions
                if counts[c.pk]
            ]
            legend = [(min(t, 5), names[k]) for k, t in tones.items()]
            found.append(KindsOf(f"{strip.title}: {title}", legend, bars, _unlike(bars)))
    return found


def _bar(
    name: str, counts: Counter, tones: dict[str, int], names: dict[str, str]
) -> FailureModeBar:
    total, x, parts = sum(counts.values()), 0.0, []
    for key in tones:
        if not counts[key]:
            continue
        wide = 100 * counts[key] / total
        parts.append(
            ModeShare(round(x, 2), round(wide, 2), names[key], counts[key], min(tones[key], 5))
        )
        x += wide
    return FailureModeBar(name, total, parts)


def _unlike(bars: Sequence[FailureModeBar]) -> str:
    """Whether all ended alike, mostly."""
    mains = {max(b.parts, key=lambda p: p.count).label for b in bars}
    if len(mains) == 1:
        return f"All mostly: {next(iter(mains))}."
    return f"Different outcomes: {', '.join(sorted(mains))}. A mean over different failure modes says little."
