"""Store a previewed file: all of it, or its good rows where that is asked for, or nothing."""

from dataclasses import dataclass, field
from datetime import datetime

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Max

from brunt_core.errors import InputError
from brunt_web.campaigns import history
from brunt_web.campaigns.actions.plan_campaign import add_specimens, next_replicate
from brunt_web.campaigns.models import Campaign, Condition, Specimen, Turn
from brunt_web.campaigns.queries import procedures_of
from brunt_web.campaigns.recorded import MadeAs
from brunt_web.exchange.columns import column_part
from brunt_web.exchange.models import DataImport, DataImportRow, HeadingMeaning
from brunt_web.exchange.preview import preview
from brunt_web.exchange.rows import Asked, ImportRow, Preview
from brunt_web.jobs.progress import step
from brunt_web.library.models import Material
from brunt_web.results.storing import store_stated
from brunt_web.testing.actions.change_test import exclude
from brunt_web.testing.actions.record_test import Entry, record_test
from brunt_web.testing.models import Test
from brunt_web.testing.statistics import look_again_at


@dataclass
class _Made:
    """What an import makes besides tests."""

    brought: DataImport
    conditions: dict[str, Condition] = field(default_factory=dict)
    rows: list[DataImportRow] = field(default_factory=list)


@transaction.atomic
def import_data(
    campaign: Campaign, by: User, asked: Asked, at: datetime, name: str = ""
) -> DataImport:
    """Read the file again and store every row; returns the import, which can be undone.

    Raises :class:`InputError` when any row is refused, unless only the good ones are asked for, and
    while a question about its numbers has no answer: nothing is stored then.
    """
    Campaign.objects.select_for_update(no_key=True).get(pk=campaign.pk)
    seen = preview(campaign, asked)
    if seen.problem:
        raise InputError(seen.problem, "file")
    if seen.refused and not asked.good_only:
        first = seen.refused[0]
        raise InputError(f"Line {first.line}: {first.refused} Nothing was saved.", "file")
    if seen.open:
        raise InputError(f"{seen.open[0].sentence} Answer this first. Nothing was saved.", "file")
    if not seen.good:
        raise InputError("There is no row that can be imported.", "file")
    made = _Made(
        DataImport.objects.create(
            campaign=campaign, name=name[:160], by=by, at=at, count=len(seen.good)
        )
    )
    turns = _turns_for(campaign, by, seen.good, made, at)
    for i, (row, turn) in enumerate(zip(seen.good, turns, strict=True)):
        step(i, len(turns), "rows imported")
        look_again_at(i)
        _store(by, row, turn, at)
    DataImportRow.objects.bulk_create(made.rows)
    made.brought.save()
    _remember(campaign, seen, asked)
    return made.brought


def _remember(campaign: Campaign, seen: Preview, asked: Asked) -> None:
    """What headings were said to mean, where that is not what they say themselves."""
    methods = [p.method for p in procedures_of(campaign)]
    for used in seen.columns:
        if used.index in asked.mapping and used.column.name:
            known = column_part(used.column, methods) or ""
            shop, heading = campaign.workshop, used.column.name[:120]
            if used.part == known:
                HeadingMeaning.objects.filter(workshop=shop, heading=heading).delete()
            else:
                HeadingMeaning.objects.update_or_create(
                    workshop=shop, heading=heading, defaults={"part": used.part}
                )


def _store(by: User, row: ImportRow, turn: Turn, at: datetime) -> None:
    """One row's test; its specimen is made and has its name."""
    test: Test | None
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
            answers=tuple(row.answers),
            untimely=_untimely(turn, row, at),
        )
        test = record_test(turn, by, entry).test
    if test and row.excluded:
        exclude(test, row.excluded, by, at)


def _untimely(turn: Turn, row: ImportRow, at: datetime) -> str:
    """Why it was tested anyway: as the file says, or that a file brought it."""
    said = row.texts.get("untimely", "")[:300]
    return said or ("imported from a file" if history.outstanding_words(turn, at) else "")


def _new_condition(campaign: Campaign, name: str, made: _Made) -> Condition:
    if name.lower() not in made.conditions:
        material = Material.objects.filter(workshop=campaign.workshop, name__iexact=name).first()
        if material is None:
            material = Material.objects.create(
                workshop=campaign.workshop, name=name, family="other"
            )
            made.brought.materials.append(material.pk)
        position = campaign.conditions.aggregate(last=Max("position"))["last"] or 0
        condition = Condition.objects.create(
            campaign=campaign, position=position + 1, label=material.name, material=material
        )
        made.brought.conditions.append(condition.pk)
        made.conditions[name.lower()] = condition
    return made.conditions[name.lower()]


def _turns_for(
    campaign: Campaign, by: User, rows: list[ImportRow], made: _Made, at: datetime
) -> list[Turn]:
    """Each row's turn: its specimen's, a free one of its condition, or that of a new specimen."""
    wanted: dict[tuple[int, int], list[ImportRow]] = {}
    found: dict[int, Turn] = {row.line: row.turn for row in rows if row.turn is not None}
    conditions: dict[int, Condition] = {}
    for row in rows:
        if row.turn is None:
            assert row.procedure is not None
            condition = row.condition or _new_condition(campaign, row.new_condition, made)
            conditions[condition.pk] = condition
            wanted.setdefault((condition.pk, row.procedure.pk), []).append(row)
    new: set[int] = set()
    for i, ((condition_pk, _), members) in enumerate(wanted.items()):
        step(i, len(wanted), "conditions filled")
        claimed = {t.pk for t in found.values()}
        turns, fresh = _free_turns(conditions[condition_pk], members, claimed, by=by, at=at)
        found |= {row.line: turn for row, turn in zip(members, turns, strict=True)}
        new |= fresh
    turns = [found[row.line] for row in rows]
    planned = [t.specimen for t in turns if t.specimen.made == "planned"]
    facts = {s.pk: MadeAs(note="imported from a file") for s in planned}
    was_planned = set(facts)
    if planned:
        history.made(planned, by, at, "not printed here", facts)
    for i, (row, turn) in enumerate(zip(rows, turns, strict=True)):
        step(i, len(turns), "specimens made")
        named = bool(row.own_id) and turn.specimen.own_id != row.own_id
        made.rows.append(
            DataImportRow(
                data_import=made.brought,
                turn=turn,
                entry_key=row.key,
                line=row.line,
                new_specimen=turn.specimen_id in new,
                made_here=turn.specimen_id in was_planned,
                named_here=named and not turn.specimen.own_id,
            )
        )
        if named:
            history.called(turn.specimen, row.own_id, by, at)
    return turns


def _free_turns(
    condition: Condition, rows: list[ImportRow], claimed: set[int], *, by: User, at: datetime
) -> tuple[list[Turn], set[int]]:
    """Turns of one condition for rows of one procedure, and which specimens are new for them.

    Those that other rows of the file name (``claimed``) are theirs; rows with own IDs take none that
    has another.
    """
    procedure = rows[0].procedure
    assert procedure is not None
    mine = Turn.objects.filter(condition=condition, procedure=procedure).select_related(
        "specimen", "condition__material", "procedure__rig", "procedure__variant", "campaign"
    )
    free = mine.filter(state="waiting", open=True).exclude(specimen__made="failed")
    if any(r.own_id for r in rows):
        free = free.filter(specimen__own_id="")
    pool = list(free.exclude(pk__in=claimed).order_by("specimen__replicate"))
    short = len(rows) - len(pool)
    made: list[Specimen] = []
    if short > 0:
        head = mine.first()
        first = head.specimen.procedure if head else procedure
        start = next_replicate(condition, first)
        wanted = [(condition, start + i) for i in range(short)]
        made = add_specimens(condition.campaign, first, wanted, by, at)
        pool += mine.filter(specimen__in=made).order_by("specimen__replicate")
    return pool[: len(rows)], {s.pk for s in made}


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
        answers=row.answers,
        stated=True,
        by=by,
        at=at,
    )
    store_stated(turn, prop.key, row.stated, row.texts["stated"])
    words = f"{turn.procedure.name}: {prop.name.lower()} stated as {row.texts['stated']}"
    history.tested(
        turn,
        by,
        history.Tested(outcome=row.outcome, at=at, place=test.place, words=words, stated=True),
    )
    return test
