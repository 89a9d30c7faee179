"""The profile: conditions down, properties across, every specimen on strips that line up; right is better."""

from collections.abc import Sequence
from dataclasses import dataclass, field

from brunt_core.plausibility.bands import FAMILIES
from brunt_core.quantities.rendering import figures, number
from brunt_core.statistics.enough import Enough
from brunt_core.statistics.ratios import Ratio, ratio_of_means, widened
from brunt_core.statistics.summaries import Summary
from brunt_web.campaigns.models import Condition
from brunt_web.comparison.strips import Mark, Strip, strip_marks
from brunt_web.interface.scale import Scale

PAD, LEAST, MOST, ROOM = 12.0, 150.0, 460.0, 1020.0
APART = {"fibre": "fibre", "family": "family", "nothing": "nothing"}


@dataclass
class ProfileCell:
    """One condition in one property: its marks, its mean with interval, what it is to the chosen one."""

    marks: list[Mark]
    bar: tuple[float, float] | None
    mean: float | None
    value: str
    against: str
    leads: bool
    alike: bool
    note: str = ""
    plumb: float | None = None
    title: str = ""
    frame: tuple[float, float] = (0.0, 0.0)

    @property
    def under(self) -> str:
        """What stands under the strip, cut to its room."""
        said = " · ".join(t for t in (self.against, self.note) if t)
        return said if len(said) <= 26 else f"{said[:25]}…"

    @property
    def spoken(self) -> str:
        """All of it for a reader who does not see it."""
        return ", ".join(m.title for m in self.marks)


@dataclass
class ProfileHead:
    """One property: which is best, by how much, whether it is settled, what to test next."""

    strip: Strip
    number: int
    leader: str
    lead: str
    scale: Scale
    ticks: list[tuple[float, str]]
    plumb: float | None
    state: str = ""
    change: str = ""
    url: str = ""


@dataclass
class Shown:
    """One condition with its cells."""

    condition: Condition
    name: str
    chosen: bool
    lit: bool
    cells: list[ProfileCell]
    tally: str = ""
    url: str = ""
    key: str = ""


@dataclass
class Band:
    """Conditions grouped under one heading."""

    title: str
    rows: list[Shown] = field(default_factory=list)


@dataclass
class Profile:
    """The whole view."""

    heads: list[ProfileHead]
    bands: list[Band]
    sentence: tuple[str, str]
    next: str
    chosen: Condition | None


def profile_of(
    strips: Sequence[Strip],
    conditions: Sequence[Condition],
    chosen: int | None,
    sort: int,
    apart: str,
    lit: set[int],
    only_alike: bool = False,
) -> Profile:
    """Lay the strips out. ``sort`` is the property to sort by, ``chosen`` the plumb line's condition."""
    known = {c.pk: c for c in conditions}
    sort = sort if 0 <= sort < len(strips) else 0
    if chosen not in known:
        best = strips[sort].ranking.rows if strips else ()
        chosen = int(best[0].name) if best else None
    wide = width_of(len(strips))
    heads = [_head(s, i, chosen, wide) for i, s in enumerate(strips)]
    order = _order(strips[sort], conditions) if strips else list(conditions)
    if only_alike and chosen and strips:
        order = [c for c in order if strips[sort].alike(chosen, c.pk)]
    bands: dict[str, Band] = {}
    for c in order:
        title = _band(c, apart)
        cells = [_cell(h, c.pk, chosen) for h in heads]
        tally = _tally(strips, c.pk, chosen, known) if c.pk in lit or c.pk == chosen else ""
        row = Shown(c, _name(strips, c), c.pk == chosen, c.pk in lit, cells, tally)
        bands.setdefault(title, Band(title)).rows.append(row)
    return Profile(
        heads,
        list(bands.values()),
        _sentence(strips, known, chosen),
        _next(strips),
        known.get(chosen) if chosen else None,
    )


def _name(strips: Sequence[Strip], condition: Condition) -> str:
    return strips[0].names.get(condition.pk, str(condition)) if strips else str(condition)


def _order(strip: Strip, conditions: Sequence[Condition]) -> list[Condition]:
    last = len(strip.places)
    return sorted(conditions, key=lambda c: (strip.places.get(c.pk, last), c.position))


def _band(condition: Condition, apart: str) -> str:
    """The heading a condition stands under; nothing where nothing is grouped."""
    material = condition.material
    if apart == "nothing" or material is None:
        return ""
    if apart == "family":
        return FAMILIES[material.family].name if material.family in FAMILIES else material.family
    if material.form == "resin":
        return "Resin"
    return "Filled" if material.filler or material.family.endswith("-cf") else "Plain"


def width_of(strips: int) -> float:
    """How wide each strip is drawn, so that few of them fill the page."""
    return round(min(max(ROOM / max(strips, 1) - 2, LEAST), MOST))


def _head(strip: Strip, number: int, chosen: int | None, wide: float) -> ProfileHead:
    scale = strip.scale(wide, PAD, max(int(wide / 55), 3))
    leader, lead = _leader(strip)
    summary = strip.summary(chosen) if chosen else None
    plumb = _x(strip, scale, summary.mean) if summary and summary.mean == summary.mean else None
    ticks = [(_turned(strip, scale, x), label) for x, label in scale.ticks]
    head = ProfileHead(strip, number + 1, leader, lead=lead, scale=scale, ticks=ticks, plumb=plumb)
    head.state, head.change = _settled(strip.enough, strip)
    return head


def _turned(strip: Strip, scale: Scale, x: float) -> float:
    return round(scale.width - x, 1) if strip.lower else x


def _x(strip: Strip, scale: Scale, value: float) -> float:
    """Right is better everywhere."""
    return _turned(strip, scale, scale.x(value))


def _leader(strip: Strip) -> tuple[str, str]:
    rows = strip.ranking.rows
    if not rows:
        return "nothing yet", "no result"
    leaders = strip.leaders
    name = strip.names.get(int(rows[0].name), "")
    if len(rows) == 1:
        return name, "the only one tested"
    if len(leaders) == len(rows):
        return "no difference", "no significant differences"
    if len(leaders) > 1:
        others = [strip.names.get(pk, "") for pk in leaders]
        if len(others) == 2 and sum(map(len, others)) < 26:
            return " = ".join(others), "no significant difference"
        return f"{len(leaders)} share the lead", "no significant difference"
    if rows[0].summary.sign:
        return name, "did not break"
    if strip.prop.ordinal or strip.prop.dimension == "temperature":
        return name, "best of all"
    each, unlike = strip.ranking.each, strip.rigs.of_difference(rows[0].name, rows[1].name)
    ratio = widened(ratio_of_means(rows[0].summary, rows[1].summary, each), unlike, each)
    return name, _by(ratio, strip.lower)


def _by(ratio: Ratio, lower: bool) -> str:
    if ratio.low is None or ratio.high is None:
        return "best of all"
    low, high = (1 - ratio.high, 1 - ratio.low) if lower else (ratio.low - 1, ratio.high - 1)
    if high >= 1:
        return f"{number(ratio.low, '.1f')} to {number(ratio.high, '.1f')} times the next"
    return f"by {max(low, 0) * 100:.0f} – {high * 100:.0f} %"


def _cell(head: ProfileHead, condition: int, chosen: int | None) -> ProfileCell:
    strip, scale = head.strip, head.scale
    group = strip.groups.get(condition) or strip.aside[condition]
    marks = strip_marks(group, lambda v: _x(strip, scale, v))
    row = strip.row(condition)
    if row is None:
        note = "" if group.values else _unread(group)
        if group.values:
            label = strip.procedure.method.outcome(group.outcomes[0])
            note = f"{label.label if label else 'otherwise'}: not ranked here"
        return ProfileCell(marks, None, None, "", "", leads=False, alike=False, note=note)
    s = row.summary
    bar = None
    if s.low is not None and s.high is not None:
        a, b = sorted((_x(strip, scale, s.low), _x(strip, scale, s.high)))
        bar = (a, max(round(b - a, 1), 1.0))
    known = s.mean == s.mean
    return ProfileCell(
        marks,
        bar,
        _x(strip, scale, s.mean) if known else None,
        f"{s.sign} {figures(s.mean)}".strip() if known else "–",
        _against(strip, condition, chosen),
        leads=condition in strip.leaders and len(strip.leaders) < len(strip.places),
        alike=bool(chosen) and chosen != condition and strip.alike(chosen or 0, condition),
        note=f"{group.waiting} waiting" if group.waiting else "",
    )


def _unread(group: object) -> str:
    waiting = getattr(group, "waiting", 0)
    return f"{waiting} waiting" if waiting else "not tested"


def _against(strip: Strip, condition: int, chosen: int | None) -> str:
    """What it is to the chosen condition: ``=``, ``−23 %``, ``× 4.3``."""
    if chosen is None or condition == chosen:
        return ""
    own, other = strip.summary(condition), strip.summary(chosen)
    if own is None or other is None:
        return ""
    if strip.alike(chosen, condition):
        name = strip.names.get(chosen, "")
        return f"= {name}" if len(name) <= 12 else "="
    return gap_words(own, other, strip)


def gap_words(own: Summary, other: Summary, strip: Strip) -> str:
    """One mean beside another, in the field's way: per cent, times, or degrees."""
    if strip.prop.ordinal or own.mean != own.mean or other.mean != other.mean:
        return ""
    if strip.prop.dimension == "temperature":
        return f"{number(own.mean - other.mean, '+.0f')} {strip.prop.unit}".replace("-", "−")
    if other.mean <= 0 or own.mean <= 0:
        return ""
    ratio = own.mean / other.mean
    sign = own.sign or {"≥": "≤", "≤": "≥"}.get(other.sign, "")
    said = (
        f"× {number(ratio, '.1f')}"
        if ratio >= 2
        else f"{number((ratio - 1) * 100, '+.0f')} %".replace("-", "−")
    )
    return f"{sign} {said}".strip()


def _tally(strips: Sequence[Strip], condition: int, chosen: int | None, known: dict) -> str:
    """How often it beats the chosen one, or is not told from it."""
    if chosen is None or condition == chosen:
        return "selected: the vertical lines" if condition == chosen else ""
    both = [s for s in strips if condition in s.places and chosen in s.places]
    alike = sum(s.alike(chosen, condition) for s in both)
    beats = sum(
        not s.alike(chosen, condition) and s.places[condition] < s.places[chosen] for s in both
    )
    name = strips[0].names.get(chosen, "") if strips else ""
    return f"beats {name} in {beats}, = in {alike} of {len(both)}"


def _sentence(
    strips: Sequence[Strip], known: dict[int, Condition], chosen: int | None
) -> tuple[str, str]:
    """What leads over all properties, and what it yields."""
    told = [s for s in strips if len(s.places) > 1]
    if not told:
        return "Nothing to compare yet.", "Readings appear here as they are entered."
    wins = {pk: sum(_wins(s, pk) for s in told) for pk in known}
    best = max(wins, key=lambda pk: wins[pk])
    if not wins[best]:
        return (
            "No property shows a significant difference yet.",
            f"{len(told)} compared, all pairs of each at once.",
        )
    share = [pk for pk in wins if wins[pk] == wins[best]]
    name = strips[0].names
    if len(share) > 1 and len(told) > 1:
        names = ", ".join(name.get(pk, "") for pk in share[:4])
        return (
            f"{names} are best or shared best in {wins[best]} of {len(told)} each.",
            "Which is better depends on what counts.",
        )
    lead = f"{name.get(best, '')} is best or shared best in {wins[best]} of {len(told)}."
    lost = [s for s in told if best in s.places and best not in s.leaders]
    yields = "; ".join(f"{s.title} to {_leader(s)[0]}" for s in lost[:3])
    return lead, f"It yields {yields}." if yields else ""


def _wins(strip: Strip, condition: int) -> bool:
    return condition in strip.leaders and len(strip.leaders) < len(strip.places)


def _settled(found: Enough | None, strip: Strip) -> tuple[str, str]:
    if found is None:
        return "", ""
    if not found.open:
        return "settled", "every comparison is settled"
    if found.settled:
        return "settled", "the remaining tests are unlikely to change it"
    chances = [v.chance for v in found.open if v.chance is not None]
    if not chances:
        return "not settled yet", "too few specimens for a forecast"
    likely = sum(c >= 0.5 for c in chances)
    best = max(chances)
    if likely > 1:
        return "not settled yet", f"{likely} more pairs likely to become significant"
    chance = "over 99" if best > 0.99 else "under 1" if best < 0.01 else f"{best * 100:.0f}"
    return "not settled yet", f"one more pair: {chance} % at best"


def _next(strips: Sequence[Strip]) -> str:
    """What to test next for most gain, over all properties."""
    best = [
        (s.enough.next[0], s) for s in strips if s.enough and not s.enough.settled and s.enough.next
    ]
    if not best:
        return ""
    step, strip = max(best, key=lambda b: b[0].gain)
    name = strip.names.get(int(step.condition), "")
    gain = number(step.gain, ".1f") if step.gain >= 0.05 else "less than 0.1"
    return f"{step.more} more of {name} in {strip.title}: would separate {gain} more pairs on average, at the present standard deviation."
