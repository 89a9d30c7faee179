"""Store a previewed file, all of it or nothing."""

from datetime import datetime

from django.db import transaction
from django.db.models import Max

import brunt_core
from brunt_core.errors import InputError
from brunt_web.campaigns.actions.plan_campaign import add_specimens
from brunt_web.campaigns.models import Campaign, Condition, Specimen
from brunt_web.exchange.preview import ImportRow, preview
from brunt_web.library.models import Material
from brunt_web.testing.actions.record_test import Entry, record_test
from brunt_web.testing.models import Result, Test


@transaction.atomic
def bring_in(campaign: Campaign, by, text: str, create_missing: bool, at: datetime) -> int:
    """Read the file again and store every row; returns how many.

    Raises :class:`InputError` when any row is refused: nothing is stored then.
    """
    Campaign.objects.select_for_update().get(pk=campaign.pk)
    seen = preview(campaign, text, create_missing)
    if seen.refused:
        first = seen.refused[0]
        raise InputError(f"Line {first.line}: {first.refused} Nothing was stored.", "file")
    made: dict[str, Condition] = {}
    for row in seen.rows:
        _store(campaign, by, row, made, at)
    return len(seen.rows)


def _store(
    campaign: Campaign, by, row: ImportRow, made: dict[str, Condition], at: datetime
) -> None:
    condition = row.condition or _new_condition(campaign, row.new_condition, made)
    specimen = row.specimen or _free_specimen(campaign, condition, row)
    if row.stated is not None:
        _store_stated(specimen, by, row, at)
        return
    inputs = {
        i.key: row.texts[i.key] for i in specimen.procedure.method.inputs if i.key in row.texts
    }
    record_test(
        specimen,
        by,
        Entry(
            row.key,
            at,
            inputs,
            row.outcome,
            row.texts.get("place", ""),
            row.texts.get("reason", ""),
            row.texts.get("note", ""),
        ),
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


def _free_specimen(campaign: Campaign, condition: Condition, row: ImportRow) -> Specimen:
    """The first untested specimen of this condition, or a further replicate."""
    mine = Specimen.objects.filter(condition=condition, procedure=row.procedure)
    free = mine.filter(test__isnull=True).order_by("replicate").first()
    if free:
        return free
    last = mine.aggregate(last=Max("replicate"))["last"] or 0
    return add_specimens(campaign, row.procedure, [(condition, last + 1)])[0]


def _store_stated(specimen: Specimen, by, row: ImportRow, at: datetime) -> None:
    """A result that arrives as a figure, without the readings behind it."""
    prop = specimen.procedure.ranked_property
    Test.objects.create(
        specimen=specimen,
        entry_key=row.key,
        outcome=row.outcome,
        place=row.texts.get("place", ""),
        note=row.texts.get("note", ""),
        stated=True,
        by=by,
        at=at,
    )
    Result.objects.create(
        specimen=specimen,
        property_key=prop.key,
        lower=row.stated.lower,
        upper=row.stated.upper,
        procedure=specimen.procedure,
        formula=f"stated as {row.texts['stated']}",
        source="brought in from a file; no readings behind it",
        computed_by_version=brunt_core.__version__,
    )
