"""A campaign's report: everything a reader asks, read from the campaign; fixed numbers of queries."""

import hashlib
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field

from django.utils import timezone

from brunt_core.quantities.rendering import count_of, time_words
from brunt_web.campaigns.models import Campaign, Condition, Turn
from brunt_web.campaigns.queries import conditions_made, procedures_of
from brunt_web.comparison.page import build
from brunt_web.comparison.pages.frame import remarks_on
from brunt_web.comparison.pages.other_pages import campaign_summary_on
from brunt_web.comparison.strips import strips_of
from brunt_web.comparison.summary_view import Sentence
from brunt_web.exchange.export import export_csv
from brunt_web.exchange.records import tested_turns
from brunt_web.library.models import Procedure
from brunt_web.people.nameless import Nameless
from brunt_web.publishing.actions.reports import photos_of
from brunt_web.publishing.making_part import Making, making_of
from brunt_web.publishing.method_part import MethodPart, procedure_part
from brunt_web.publishing.models import Report
from brunt_web.publishing.nameless import without_operators
from brunt_web.testing.marks import latest, marks_at
from brunt_web.testing.models import Photo

_NEVER = (
    ("heat or another state", "state"),
    ("ageing", "age"),
    ("any treatment", "treatments"),
)


@dataclass
class Glance:
    """One thing readers ask for first: the question, its answer, where more stands."""

    asked: str
    answer: str
    where: str


@dataclass
class ReportContent:
    """The whole report."""

    campaign: Campaign
    words: Report
    parts: list[MethodPart]
    making: Making
    campaign_summary: list[tuple[str, list[Sentence]]]
    remarks: list[str]
    deviations: list[tuple[str, str]]
    accepted: list[tuple[str, str]]
    untested: list[str]
    photos: list[Photo]
    counts: dict[str, int]
    glances: list[Glance] = field(default_factory=list)
    tested: str = ""
    digest: str = ""
    cite: str = ""
    hidden: Nameless = field(default_factory=lambda: Nameless({}))


def told_of(campaign: Campaign, words: Report, money: bool, named: bool = True) -> ReportContent:
    """The report of a campaign; ``money`` whether prices may be told, ``named`` whether people are."""
    procedures, conditions = procedures_of(campaign), conditions_made(campaign)
    turns = list(tested_turns(Turn.objects.filter(campaign=campaign)))
    names = {c.pk: str(c) for c in conditions}
    taken = marks_at({t.specimen_id: t.specimen for t in turns}.values())
    marks = {pk: latest(rows) for pk, rows in taken.items()}
    by: dict[int, list[Turn]] = defaultdict(list)
    for t in turns:
        by[t.procedure_id].append(t)
    parts = [
        procedure_part(p, build(campaign, procedures, conditions, {"view": str(p.pk)}),
                by[p.pk], marks, names, campaign.seed)
        for p in procedures
    ]  # fmt: skip
    strips, _ = strips_of(campaign, procedures, conditions)
    campaign_summary = campaign_summary_on(
        campaign, strips, strips[0] if strips else None, conditions
    )
    found = ReportContent(
        campaign, words, parts,
        making=making_of(campaign, conditions, procedures, money),
        campaign_summary=[(title, said) for title, said in campaign_summary if title != "Excluded"],
        remarks=_gist([r for r in remarks_on(campaign, strips) if "Accepted:" not in r]),
        deviations=_deviations(turns),
        accepted=[(a.sentence, a.reason) for a in campaign.accepted.all()],
        untested=_untested(campaign, conditions, procedures, turns),
        photos=photos_of(words),
        counts=_counts(turns),
    )  # fmt: skip
    found.tested = _when(turns)
    found.hidden = Nameless.of_all()
    found.digest = hashlib.sha256(export_csv(campaign, found.hidden, turns).encode()).hexdigest()
    found.glances = _glances(found, turns)
    found.cite = _cite(found)
    return found if named else without_operators(found)


def _gist(remarks: Sequence[str]) -> list[str]:
    """The remarks, with many of those that still run told in one sentence."""
    running = [r for r in remarks if " is running: " in r]
    if len(running) < 4:
        return list(remarks)
    rest = [r for r in remarks if r not in running]
    return [*rest, f"{count_of(len(running), 'specimen')} still running: not in any mean."]


def _counts(turns: Sequence[Turn]) -> dict[str, int]:
    done = [t for t in turns if t.done]
    return {
        "specimens": len({t.specimen_id for t in done}),
        "conditions": len({t.condition_id for t in done}),
        "tests": len(done),
        "held": sum(t.state == "held" for t in done),
        "void": sum(t.state == "void" for t in done),
        "out": sum(t.excluded for t in done),
    }


def _deviations(turns: Sequence[Turn]) -> list[tuple[str, str]]:
    """What was not as planned, by specimen: once where both tests of one say the same."""
    said: dict[tuple[str, str], None] = {}
    for t in turns:
        if t.excluded:
            said[(t.code, f"excluded: {t.excluded_because}")] = None
        test = getattr(t, "test", None)
        if test and t.state == "void":
            said[(t.code, f"void: {test.reason}")] = None
        if t.untimely:
            said[(t.code, f"tested although not ready: {t.untimely}")] = None
        for d in t.specimen.deviations:
            said[(t.code, d.says)] = None
    return list(said)


def gathered(deviations: Sequence[tuple[str, str]]) -> list[tuple[str, list[str]]]:
    """What was not as planned with all that it happened to.

    >>> gathered([("A", "late"), ("B", "late"), ("A", "void: slipped")])
    [('late', ['A', 'B']), ('void: slipped', ['A'])]
    """
    found: dict[str, list[str]] = {}
    for code, says in deviations:
        found.setdefault(says, []).append(code)
    return list(found.items())


def _untested(
    campaign: Campaign,
    conditions: Sequence[Condition],
    procedures: Sequence[Procedure],
    turns: Sequence[Turn],
) -> list[str]:
    """What the campaign asked and has no answer to, and what it never asked."""
    said = []
    for p in procedures:
        left = [t for t in turns if t.procedure_id == p.pk and t.state in ("waiting", "running") and not t.specimen.spare]  # fmt: skip
        if left:
            said.append(f"{p.name}: {len(left)} {'tests are' if len(left) > 1 else 'test is'} still to come.")  # fmt: skip
        having = {t.condition_id for t in turns if t.procedure_id == p.pk and t.done}
        lacking = [str(c) for c in conditions if c.pk not in having]
        if lacking and having:
            said.append(f"{p.name} was not done on {', '.join(lacking)}.")
    never = [word for word, key in _NEVER if not any(c.requirements.has(key) for c in conditions)]
    ways = {t.orientation for t in turns}
    other = [o for o in ("flat", "upright") if o not in ways]
    if other and ways:
        never.append(f"anything printed {' or '.join(other)}")
    if not any(p.method_key == "creep" for p in procedures):
        never.append("a load that stays")
    if never:
        said.append(f"Not part of this campaign: {', '.join(never)}.")
    return said


def _when(turns: Sequence[Turn]) -> str:
    days = sorted(timezone.localtime(t.tested_at).date() for t in turns if t.tested_at)
    if not days:
        return ""
    first, last = f"{days[0]:%-d %B %Y}", f"{days[-1]:%-d %B %Y}"
    return first if first == last else f"{first} to {last}"


def _glances(told: ReportContent, turns: Sequence[Turn]) -> list[Glance]:
    """How many, how printed, how conditioned, how fast, raw data: readers' first questions."""
    n = told.counts
    many = f"{n['specimens']} specimens of {n['conditions']} conditions"
    each = _each(turns)
    more = [f"{each} of each"] if each else []
    more += [f"{n[k]} {w}" for k, w in (("held", "did not break"), ("void", "void"), ("out", "excluded")) if n[k]]  # fmt: skip
    recipes = ", ".join(told.making.recipes) or "; ".join(w for w, _ in told.making.elsewhere)
    states = list(dict.fromkeys(text for p in told.parts for word, text in p.facts if word == "Conditioning"))  # fmt: skip
    speeds = list(dict.fromkeys(f"{text}" for p in told.parts for word, text in p.facts if word == "Speed"))  # fmt: skip
    return [
        Glance("How many", f"{many}; {', '.join(more)}" if more else many, "results"),
        Glance("How printed", "; ".join(filter(None, [recipes, told.making.printed])) or "not said", "made"),
        Glance("How conditioned", "; ".join(filter(None, ["; ".join(states), _age(turns)])), "conditioned"),
        Glance("How fast", "; ".join(speeds) or "not said", "results"),
        Glance("Raw data", "every reading as typed: tables below, files at the end", "data"),
    ]  # fmt: skip


def _each(turns: Sequence[Turn]) -> str:
    """How many of each condition were tested under each procedure: ``5``, or ``4 to 6``."""
    counted: dict[tuple[int, int], int] = defaultdict(int)
    for t in turns:
        if t.done and t.state != "void":
            counted[(t.condition_id, t.procedure_id)] += 1
    if not counted:
        return ""
    low, high = min(counted.values()), max(counted.values())
    return str(low) if low == high else f"{low} to {high}"


def _age(turns: Sequence[Turn]) -> str:
    """How long after making they were tested."""
    ages = [
        (t.tested_at - t.specimen.made_at).total_seconds()
        for t in turns
        if t.tested_at and t.specimen.made_at and t.tested_at > t.specimen.made_at
    ]
    if not ages or max(ages) < 60:
        return ""
    low, high = time_words(min(ages), 3), time_words(max(ages), 3)
    return f"tested {low if low == high else f'{low} to {high}'} after making"


def _cite(told: ReportContent) -> str:
    campaign = told.campaign
    who = told.words.authors or campaign.workshop.name
    year = told.tested[-4:] or f"{campaign.created_at:%Y}"
    return (
        f"{who} ({year}). {campaign.question.rstrip('.')} Tests of printed specimens, "
        f"n = {told.counts['specimens']}, {told.tested or 'not tested yet'}. Results SHA-256 {told.digest[:16]}."
    )
