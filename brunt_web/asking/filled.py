"""The Ask form filled beforehand: with what a question's shape proposes, or with a campaign's plan."""

from collections.abc import Sequence

from django.http import QueryDict

from brunt_core.errors import InputError
from brunt_core.planning.shapes import Shape
from brunt_web.asking.forms import AskForm
from brunt_web.campaigns.models import Campaign
from brunt_web.library.models import Procedure


def typed_from_shape(shape: Shape, procedures: Sequence[Procedure], seed: int) -> QueryDict:
    """A form filled with what a question's shape proposes."""
    typed = QueryDict(mutable=True)
    typed.update(
        {
            "shape": shape.key,
            "replicates": str(shape.replicates),
            "seed": str(seed),
            "power": "80",
            "confidence": "95",
        }
    )
    typed.setlist(
        "procedures", [str(p.pk) for p in procedures if p.orientation in shape.orientations]
    )
    rows = [f for f in shape.factors if f.kind not in ("material", "lot")]
    for i, factor in enumerate(rows):
        typed.update(_factor_fields(i, factor.kind, factor.name, factor.setting, factor.levels))
    return typed


_OVER = ("question", "f-0-kind", "f-0-name", "f-0-levels")


def filled_over(typed: QueryDict, asked: QueryDict) -> None:
    """What an address asks for over what the shape proposes: question, first factor, what is tested."""
    for key in _OVER:
        if asked.get(key):
            typed[key] = str(asked[key])
    for key in ("materials", "procedures"):
        if asked.getlist(key):
            typed.setlist(key, [pk for pk in asked.getlist(key) if pk.isdecimal()])


def _factor_fields(
    n: int, kind: str, name: str, setting: str, levels: Sequence[str]
) -> dict[str, str]:
    return {
        f"f-{n}-kind": kind,
        f"f-{n}-name": name,
        f"f-{n}-setting": setting,
        f"f-{n}-levels": "; ".join(levels),
    }


def typed_from_campaign(campaign: Campaign) -> QueryDict:
    """A form filled with a campaign's plan."""
    typed = QueryDict(mutable=True)
    typed.update(
        {
            "question": campaign.question,
            "shape": campaign.shape,
            "design": campaign.design,
            "replicates": str(campaign.replicates),
            "power": f"{campaign.power * 100:g}",
            "confidence": f"{campaign.confidence * 100:g}",
            "loss": f"{campaign.loss * 100:g}",
            "cv": f"{campaign.cv * 100:g}" if campaign.cv else "",
            "wanted": f"{campaign.wanted * 100:g}" if campaign.wanted else "",
            "recipe": str(campaign.recipe_id or ""),
            "printer": str(campaign.printer_id or ""),
            "control": str(campaign.reference or ""),
        }
    )
    typed.setlist("procedures", [str(p.pk) for p in campaign.procedures.all()])
    for column in campaign.campaignprocedure_set.select_related("after"):
        if column.after:
            typed[f"after-{column.procedure_id}"] = str(column.after.procedure_id)
    for row in campaign.base_recipes.all():
        key = f"base-m{row.material_id}" if row.material_id else f"base-p{row.procedure_id}"
        typed[key] = str(row.recipe_id)
    _factors_into(typed, campaign)
    return typed


def _factors_into(typed: QueryDict, campaign: Campaign) -> None:
    others = 0
    for factor in campaign.factors.prefetch_related("levels"):
        levels = list(factor.levels.all())
        if factor.kind == "material":
            typed.setlist("materials", [str(x.material_id) for x in levels])
        elif factor.kind == "lot":
            typed.setlist("lots", [str(x.lot_id) for x in levels])
        else:
            labels = [x.label for x in levels]
            typed.update(_factor_fields(others, factor.kind, factor.name, factor.setting, labels))
            others += 1
    if not typed.getlist("materials"):
        held = {str(c.material_id) for c in campaign.conditions.all() if c.material_id}
        typed.setlist("materials", list(held))
    _dropped_into(typed, campaign)


def _dropped_into(typed: QueryDict, campaign: Campaign) -> None:
    """Combinations that the plan excluded stay excluded when it is looked at again."""
    made = {str(c) for c in campaign.conditions.all()}
    try:
        every = AskForm(campaign.workshop, typed, campaign).draft().every
    except InputError:
        return
    typed.setlist("drop", [c.name for c in every if c.name not in made])
