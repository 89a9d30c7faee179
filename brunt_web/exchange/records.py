"""Every test as a plain record: what JSON, notebooks and other programs read. Values in SI, texts as typed."""

from collections.abc import Sequence
from typing import Any

from django.db.models import QuerySet

from brunt_core.properties import PROPERTIES, Property
from brunt_core.quantities import in_unit
from brunt_core.quantities.dimensions import DIMENSIONS
from brunt_core.quantities.rendering import width_in_unit
from brunt_web.campaigns.models import Campaign, Condition, Turn
from brunt_web.library.models import Procedure
from brunt_web.people.nameless import Nameless
from brunt_web.testing.marks import latest, marks_at

Record = dict[str, Any]


def tested_turns(where: QuerySet[Turn]) -> QuerySet[Turn]:
    """The turns with all that a record of theirs reads; a fixed number of queries."""
    # What many share is fetched once and not made again for each of thousands.
    return where.select_related("specimen", "test").prefetch_related(
        "condition__material",
        "condition__lot",
        "condition__recipe",
        "procedure__variant",
        "procedure__rig",
        "test__by",
        "results",
        "test__readings",
    )


def records_of(turns: Sequence[Turn], hidden: Nameless | None = None) -> list[Record]:
    """A record for each turn; with ``hidden`` who tested goes by number, not yet who is named in texts."""
    marks = marks_at([t.specimen for t in turns])
    return [_record(t, latest(marks[t.specimen_id]), hidden) for t in turns]


def _record(turn: Turn, marks: dict[str, Any], hidden: Nameless | None) -> Record:
    test = getattr(turn, "test", None)
    specimen, condition = turn.specimen, turn.condition
    return {
        "specimen": specimen.code,
        "own_id": specimen.own_id,
        "campaign": turn.campaign_id,
        "condition": str(condition),
        "condition_id": condition.pk,
        "material": str(condition.material or ""),
        "material_id": condition.material_id,
        "procedure": turn.procedure.name,
        "procedure_id": turn.procedure_id,
        "comparability_key": turn.comparability_key,
        "orientation": turn.orientation,
        "replicate": specimen.replicate,
        "order": turn.run_order + 1,
        "state": turn.state,
        "excluded": turn.excluded_because if turn.excluded else None,
        "sizes": {k: {"text": m.text, "value": m.value, "uncertainty": m.uncertainty} for k, m in marks.items()},
        "rig": turn.tested_as.rig,
        "calibration_overdue_since": turn.tested_as.overdue or None,
        "test": _test(test, hidden) if test else None,
        "results": [_result(r, turn.procedure) for r in sorted(turn.results.all(), key=lambda r: r.property_key)],
        "deviations": [d.says for d in specimen.deviations if d.turn in (None, turn.pk)],
    }  # fmt: skip


def _test(test: Any, hidden: Nameless | None) -> Record:
    who = test.by.get_username()
    return {
        "at": test.at.isoformat(),
        "by": hidden.name(who) if hidden else who,
        "outcome": test.outcome,
        "place": test.place,
        "mode": test.mode,
        "reason": test.reason,
        "note": test.note,
        "untimely": test.untimely,
        "speed": test.speed,
        "assumed": test.assumed,
        "readings": [
            {
                "key": r.key,
                "text": r.text,
                "unit": r.unit,
                "lower": r.lower,
                "upper": r.upper,
                "uncertainty": r.uncertainty,
            }
            for r in sorted(test.readings.all(), key=lambda r: r.key)
        ],
    }


def _result(result: Any, procedure: Procedure) -> Record:
    prop = procedure.property_called(result.property_key)
    return {
        "property": result.property_key,
        "lower": result.lower,
        "upper": result.upper,
        "uncertainty": result.uncertainty,
        "kind": result.observation.kind,
        "unit": prop.unit,
        "value": shown_in(result.observation.anchor, prop),
        "uncertainty_in_unit": None
        if result.uncertainty is None
        else width_in_unit(result.uncertainty, prop.dimension, prop.unit),
        "formula": result.formula,
        "source": result.source,
        "computed_by": result.computed_by_version,
    }


def shown_in(value: float, prop: Property) -> float:
    """A value in its property's unit, to ten figures."""
    return float(f"{in_unit(value, prop.dimension, prop.unit):.10g}")


def property_record(prop: Property) -> Record:
    """What a property is."""
    return {
        "key": prop.key,
        "name": prop.name,
        "symbol": prop.symbol,
        "unit": prop.unit,
        "si": DIMENSIONS[prop.dimension].si if prop.dimension in DIMENSIONS else "",
        "better": prop.better,
    }


def condition_record(condition: Condition) -> Record:
    """What a condition is: its material and the levels it asks for."""
    return {
        "id": condition.pk,
        "name": str(condition),
        "material": str(condition.material or ""),
        "levels": {lv.factor.name: lv.label for lv in condition.levels.all()},
    }


def procedure_record(procedure: Procedure) -> Record:
    """What a procedure fixes, SI."""
    return {
        "id": procedure.pk,
        "name": procedure.name,
        "method": procedure.method_key,
        "specimen_type": procedure.geometry.key,
        "orientation": procedure.orientation,
        "rig": str(procedure.rig or ""),
        "speed": procedure.speed,
        "preload": procedure.preload,
        "parameters": procedure.parameters,
        "conditioning": procedure.conditioning,
        "ranked_by": procedure.ranked_property.key,
        "comparability_key": procedure.comparability_key,
    }


def campaign_record(
    campaign: Campaign, money: bool = True, hidden: Nameless | None = None
) -> Record:
    """A whole campaign: question, conditions, procedures, properties, every test."""
    turns = list(
        tested_turns(Turn.objects.filter(campaign=campaign)).order_by(
            "condition__position", "procedure_id", "specimen__replicate", "step"
        )
    )
    procedures = list(campaign.procedures.select_related("rig", "variant"))
    conditions = list(
        campaign.conditions.select_related("material").prefetch_related("levels__factor")
    )
    records = records_of(turns, hidden)
    used = {r["property"] for t in records for r in t["results"]}
    own = [p.ranked_property for p in procedures if p.method.own_property]
    record = {
        "format": "brunt-results",
        "version": 1,
        "campaign": {
            "id": campaign.pk,
            "question": campaign.question,
            "confidence": campaign.confidence,
            "seed": campaign.seed,
            "asked": campaign.created_at.isoformat(),
        },
        "materials": materials_in(conditions, money),
        "conditions": [condition_record(c) for c in conditions],
        "procedures": [procedure_record(p) for p in procedures],
        "properties": [
            property_record(p)
            for p in [*(PROPERTIES[k] for k in sorted(used) if k in PROPERTIES), *own]
        ],
        "tests": records,
        "advice": "On tested specimens only; not for lifting, life-safety or pressure parts.",
    }
    return hidden.document(record) if hidden else record


def materials_in(conditions: Sequence[Condition], money: bool = True) -> list[Record]:
    """The materials of conditions; prices only where money may be told."""
    found = {c.material_id: c.material for c in conditions if c.material}
    return [
        {
            "id": m.pk,
            "name": m.name,
            "family": m.family,
            "form": m.form,
            "filler": m.filler,
            "density": m.density,
            **({"price_per_kg": None if m.price is None else float(m.price)} if money else {}),
        }
        for m in found.values()
    ]
