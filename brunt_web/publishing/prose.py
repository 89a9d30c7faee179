"""What was written by hand around a campaign and goes out with its report: shown before a link is made."""

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass

from django.db.models import Q

from brunt_web.campaigns.models import AcceptedConfounder, BaseRecipe, Campaign, Specimen, Turn
from brunt_web.library.models import Lot, Material, Recipe
from brunt_web.people.nameless import Nameless
from brunt_web.printing.models import Grade, Print, PrintAttempt
from brunt_web.publishing.actions.reports import report_of
from brunt_web.testing.models import Photo, Test
from brunt_web.treatments.models import Inside, Run


@dataclass(frozen=True)
class PublishedText:
    """A sentence: where it stands, as it goes out, and whether a name in it was replaced."""

    where: str
    text: str
    replaced: bool


def prose_of(campaign: Campaign, money: bool, hidden: Nameless) -> list[PublishedText]:
    """Every sentence written by hand that a link would tell, as it would be told; the same one once."""
    found: dict[tuple[str, str], PublishedText] = {}
    for where, text in _written(campaign, money):
        if text.strip():
            told = hidden.text(text)
            found.setdefault((where, told), PublishedText(where, told, told != text))
    return list(found.values())


def prose_fingerprint(said: list[PublishedText]) -> str:
    """What stands for these sentences, so that others that came meanwhile are noticed."""
    return hashlib.sha256("\n".join(f"{s.where}: {s.text}" for s in said).encode()).hexdigest()[:20]


def _written(campaign: Campaign, money: bool) -> Iterator[tuple[str, str]]:
    yield "the question", campaign.question
    yield "your own words", report_of(campaign).summary
    mine = {"campaign": campaign}
    rows = Specimen.objects.filter(**mine).exclude(note="").order_by("code")
    yield from ((f"note on {code}", text) for code, text in rows.values_list("code", "note"))
    tests = Test.objects.filter(turn__campaign=campaign).order_by("turn__specimen__code")
    for code, *texts in tests.values_list("turn__specimen__code", "reason", "note"):
        yield from ((f"test of {code}", text) for text in texts)
    turns = Turn.objects.filter(Q(excluded=True) | ~Q(untimely=""), **mine)
    for turn in turns.select_related("specimen").order_by("specimen__code"):
        yield f"excluded: {turn.code}", turn.excluded_because
        yield f"tested all the same: {turn.code}", turn.untimely
    for sentence, reason in AcceptedConfounder.objects.filter(**mine).values_list(
        "sentence", "reason"
    ):
        yield f"accepted: {sentence}", reason
    photos = (
        Photo.objects.filter(pk__in=report_of(campaign).chosen.values("photo"))
        if report_of(campaign).pk
        else []
    )
    yield from ((f"photo of {p.specimen.code}", p.caption) for p in photos)
    yield from _of_making(campaign)
    if money:
        yield from _of_purchases(campaign)


def _of_making(campaign: Campaign) -> Iterator[tuple[str, str]]:
    for code, text in Print.objects.filter(plate__batch__campaign=campaign).values_list(
        "specimen__code", "note"
    ):
        yield f"print of {code}", text
    for text in PrintAttempt.objects.filter(plate__batch__campaign=campaign).values_list(
        "note", flat=True
    ):
        yield "a failed print", text
    for text in Grade.objects.filter(batch__campaign=campaign).values_list("note", flat=True):
        yield "printability", text
    inside = Inside.objects.filter(specimen__campaign=campaign)
    for code, text in inside.values_list("specimen__code", "reason"):
        yield f"taken out: {code}", text
    for run in Run.objects.filter(pk__in=inside.values("run")):
        yield f"treatment {run.number}", run.note
        yield f"treatment {run.number}, run although", run.accepted
    recipes = Recipe.objects.filter(
        Q(pk__in=campaign.conditions.values("recipe"))
        | Q(pk__in=BaseRecipe.objects.filter(campaign=campaign).values("recipe"))
    )
    yield from ((f"recipe {r}", r.reason) for r in recipes)


def _of_purchases(campaign: Campaign) -> Iterator[tuple[str, str]]:
    for material in Material.objects.filter(pk__in=campaign.conditions.values("material")):
        yield f"material {material}", material.note
    for lot in Lot.objects.filter(pk__in=campaign.conditions.values("lot")):
        yield f"lot {lot}", lot.note
