"""Store a previewed file, all of it or nothing."""

from datetime import datetime

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Max

import brunt_core
from brunt_core.errors import InputError
from brunt_web.campaigns import life
from brunt_web.campaigns.actions.plan_campaign import one_more
from brunt_web.campaigns.models import Campaign, Condition, Turn
from brunt_web.exchange.preview import ImportRow, preview
from brunt_web.library.models import Material
from brunt_web.testing.actions.change_test import exclude
from brunt_web.testing.actions.record_test import Entry, record_test
from brunt_web.testing.models import Result, Test


@transaction.atomic
def bring_in(campaign: Campaign, by: User, text: str, create_missing: bool, at: datetime) -> int:
    """Read the file again and store every row; returns how many.

    Raises :class:`InputError` when any row is refused: nothing is stored then.
    """
    Campaign.objects.select_for_update().get(pk=campaign.pk)
    seen = preview(campaign, text, create_missing)
    if seen.refused:
        first = seen.refused[0]
        raise InputError(f"Line {first.line}: {first.refused} Nothing was stored.", "file")
    made: dict[str, Condition] = {}
    for row in seen.good:
        _store(campaign, by, row, made, at)
    return len(seen.good)


def _store(
    campaign: Campaign, by: User, row: ImportRow, made: dict[str, Condition], at: datetime
) -> None:
    condition = row.condition or _new_condition(campaign, row.new_condition, made)
    turn = row.turn or _free_turn(condition, row, by, at)
    _as_made(turn, by, at)
    if row.stated is not None:
        test = _store_stated(turn, by, row, at)
    else:
        keys = {i.key for i in turn.procedure.method.inputs}
        entry = Entry(
            key=row.key,
            at=at,
            inputs={k: v for k, v in row.texts.items() if k in keys},
            outcome=row.outcome,
            place=row.texts.get("place", ""),
            mode=row.texts.get("mode", ""),
            reason=row.texts.get("reason", ""),
            note=row.texts.get("note", ""),
            untimely=_untimely(turn, row, at),
        )
        test = record_test(turn, by, entry).test
    if row.left_out:
        exclude(test, row.left_out, by, at)


def _untimely(turn: Turn, row: ImportRow, at: datetime) -> str:
    """Why it was tested all the same: as the file says, or that a file brought it."""
    said = row.texts.get("untimely", "")[:300]
    return said or ("brought in from a file" if life.owed_words(turn, at) else "")


def _as_made(turn: Turn, by: User, at: datetime) -> None:
    """What was tested elsewhere was made elsewhere."""
    if turn.specimen.made == "planned":
        life.made(
            [turn.specimen],
            by,
            at,
            "made otherwise",
            {turn.specimen_id: {"note": "brought in from a file"}},
        )


def _new_condition(campaign: Campaign, name: str, made: dict[str, Condition]) -> Condition:
    if name.lower() not in made:
        material = Material.objects.filter(workshop=campaign.workshop, name__iexact=name).first()
        material = material or Material.objects.create(
            workshop=campaign.workshop, name=name, family="other"
        )
        position = campaign.conditions.aggregate(last=Max("position"))["last"] or 0
        made[name.lower()] = Condition.objects.create(
            campaign=campaign, position=position + 1, label=material.name, material=material
        )
    return made[name.lower()]


def _free_turn(condition: Condition, row: ImportRow, by: User, at: datetime) -> Turn:
    """The first turn of this condition that is not tested, or that of a further replicate."""
    mine = Turn.objects.filter(condition=condition, procedure=row.procedure).select_related(
        "specimen", "condition", "procedure__rig", "campaign"
    )
    free = mine.filter(state="waiting").exclude(specimen__made="failed")
    found = free.order_by("specimen__replicate").first()
    if found:
        return found
    head = mine.first()
    procedure = head.specimen.procedure if head else row.procedure
    assert procedure is not None
    made = one_more(condition, procedure, by, at=at)[0]
    return mine.get(specimen=made)


def _store_stated(turn: Turn, by: User, row: ImportRow, at: datetime) -> Test:
    """A result that arrives as a figure, without the readings behind it."""
    prop = turn.procedure.ranked_property
    assert row.stated is not None
    test = Test.objects.create(
        turn=turn,
        entry_key=row.key,
        outcome=row.outcome,
        place=row.texts.get("place", ""),
        mode=row.texts.get("mode", ""),
        reason=row.texts.get("reason", ""),
        note=row.texts.get("note", ""),
        stated=True,
        by=by,
        at=at,
    )
    Result.objects.create(
        turn=turn,
        property_key=prop.key,
        lower=row.stated.lower,
        upper=row.stated.upper,
        formula=f"stated as {row.texts['stated']}",
        source="brought in from a file; no readings behind it",
        computed_by_version=brunt_core.__version__,
    )
    words = f"{turn.procedure.name}: {prop.name.lower()} stated as {row.texts['stated']}"
    life.tested(
        turn,
        by,
        life.Tested(outcome=row.outcome, at=at, place=test.place, words=words, stated=True),
    )
    return test
