"""The comparability guard: whatever differs and is not a factor, planned, printed and tested."""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from django.contrib.postgres.aggregates import ArrayAgg
from django.db.models.fields.json import KT
from django.db.models.functions import TruncWeek

from brunt_core.planning.confounders import Confounder, Value, find_confounders
from brunt_core.planning.deviations import speed_words
from brunt_core.printing.plates import alone_on_plates
from brunt_core.printing.recipes import FIELDS
from brunt_core.printing.resolved import setting_text
from brunt_web.campaigns.models import Campaign, Condition, Specimen, Turn, geometry_asked
from brunt_web.campaigns.queries import conditions_made, procedures_of
from brunt_web.campaigns.recorded import MadeAs, RecordedDeviation
from brunt_web.campaigns.resolved import Recipes
from brunt_web.library.models import Procedure

SPREAD = ("operator", "week", "rig", "printer", "lot", "colour")
_EXPLAINED = {"lot": "material", "colour": "lot"}
Facts = dict[int, dict[str, Value]]


@dataclass(frozen=True)
class PlanRemark:
    """One thing for the tester to mend or accept: its key, what it says, what to do."""

    key: str
    sentence: str
    remedy: str


def campaign_confounders(
    campaign: Campaign,
    known: Sequence[Condition] | None = None,
    procedures: Sequence[Procedure] | None = None,
) -> list[PlanRemark]:
    """What differs between the campaign's conditions and is not a factor, as things stand now.

    Recipes, lots, printers and geometry as planned, and as really made where they exist; rigs,
    speeds, states, operators and weeks of the tests; plates that stand for a condition; and every
    specimen that was not made or tested as planned. A fixed number of queries.
    """
    conditions = list(conditions_made(campaign) if known is None else known)
    names = {c.pk: str(c) for c in conditions}
    varied = _varied(campaign)
    procedures = procedures_of(campaign) if procedures is None else procedures
    made, away = _made(campaign)
    found: dict[str, PlanRemark] = {}
    for one in _planned_or_made(campaign, conditions, procedures, made, varied, names):
        found.setdefault(one.key, _finding(one))
    for one in _tested(campaign, procedures, varied, names):
        found.setdefault(one.key, _finding(one))
    for finding in [*_plates(made, names), *_deviations(away, names)]:
        found.setdefault(finding.key, finding)
    return list(found.values())


def _finding(one: Confounder) -> PlanRemark:
    return PlanRemark(one.key, one.sentence, one.remedy)


def _varied(campaign: Campaign) -> list[str]:
    """Everything that is varied on purpose, by every name it goes by."""
    rows = [(f.name, f.kind, f.setting) for f in campaign.factors.all()]
    found = [n.lower() for n, _, _ in rows] + [k for _, k, _ in rows]
    for _, kind, setting in rows:
        found += [f[setting].label.lower() for f in FIELDS.values() if setting in f]
        found += _STANDS_FOR.get(kind, ())
    return found


_STANDS_FOR = {
    "rate": ("speed",),
    "condition": ("state",),
    "treatment": ("state",),
    "age": ("week", "state"),
    "orientation": ("orientation", "plate"),
    "design": ("specimen type",),
    "lot": ("lot", "colour"),
}


Made = tuple[int, int, MadeAs]
Away = tuple[int, tuple[RecordedDeviation, ...], list[str]]


def _made(campaign: Campaign) -> tuple[list[Made], list[Away]]:
    """What is made, alike ones once: (condition, procedure, made as); and what departs from its plan:
    (condition, deviations, IDs). One query."""
    rows = (
        Specimen.objects.filter(campaign=campaign)
        .exclude(made="planned")
        .order_by()
        .values("condition_id", "procedure_id", "made", "made_as", "deviations")
        .annotate(codes=ArrayAgg("code"))
    )
    found = list(rows)
    made = [
        (r["condition_id"], r["procedure_id"], r["made_as"]) for r in found if r["made"] == "made"
    ]
    away = [(r["condition_id"], r["deviations"], r["codes"]) for r in found if r["deviations"]]
    return made, away


def _planned_or_made(
    campaign: Campaign,
    conditions: Sequence[Condition],
    procedures: Sequence[Procedure],
    made: Sequence[Made],
    varied: Sequence[str],
    names: Mapping[int, str],
) -> Iterable[Confounder]:
    recipes = Recipes.of(campaign)
    really = _real_settings(made)
    for procedure in procedures:
        facts: Facts = {}
        for c in conditions:
            plan = recipes.resolved(c, procedure)
            made_with = really.get((c.pk, procedure.pk), {})
            facts[c.pk] = {
                label: value
                for k, label in _LABELS[plan.kind]
                if (value := made_with.get(k) or setting_text(plan.settings, k))
            }
            facts[c.pk]["specimen type"] = geometry_asked(c, procedure).name
            facts[c.pk]["orientation"] = c.requirements.orientation or procedure.orientation
            if c.lot:
                facts[c.pk]["colour"] = c.lot.colour
        for condition, of, row in made:
            if of == procedure.pk and condition in facts:
                _note_made(facts[condition], row)
        yield from _of_comparison(facts, varied, names)
        yield from _of_materials(facts, conditions, varied, names)


def _real_settings(
    made: Sequence[Made],
) -> dict[tuple[int, int], dict[str, Value]]:
    """Settings really printed with, as sets of text, by condition and procedure."""
    found: dict[tuple[int, int], dict[str, set[str]]] = defaultdict(lambda: defaultdict(set))
    for condition, procedure, row in made:
        for key in row.settings:
            if said := setting_text(row.settings, key):
                found[condition, procedure][key].add(said)
    return {pair: {k: frozenset(v) for k, v in row.items()} for pair, row in found.items()}


def _note_made(facts: dict[str, Value], row: MadeAs) -> None:
    for key, said in (("printer", row.printer), ("lot", row.lot), ("colour", row.colour)):
        if said:
            known = facts.get(key, frozenset())
            known = frozenset() if isinstance(known, str) else known
            facts[key] = known | {said}


_LABELS = {
    kind: [(key, field.label.lower()) for key, field in fields.items()]
    for kind, fields in FIELDS.items()
}
_MATERIAL_LABELS = frozenset(
    f.label.lower() for fields in FIELDS.values() for f in fields.values() if f.of_material
)


def _of_comparison(
    facts: Facts, varied: Sequence[str], names: Mapping[int, str]
) -> list[Confounder]:
    """What must be alike in all conditions."""
    rows = {
        names[pk]: {k: v for k, v in row.items() if k not in _MATERIAL_LABELS}
        for pk, row in facts.items()
    }
    return find_confounders(rows, varied, _EXPLAINED, ())


def _of_materials(
    facts: Facts, conditions: Sequence[Condition], varied: Sequence[str], names: Mapping[int, str]
) -> list[Confounder]:
    """What belongs to the material must be alike in all conditions of one material."""
    found = []
    by_material: dict[int | None, list[Condition]] = defaultdict(list)
    for c in conditions:
        by_material[c.material_id].append(c)
    for group in by_material.values():
        rows = {
            names[c.pk]: {k: v for k, v in facts[c.pk].items() if k in _MATERIAL_LABELS}
            for c in group
        }
        found += find_confounders(rows, varied)
    return found


def _tested(
    campaign: Campaign,
    procedures: Sequence[Procedure],
    varied: Sequence[str],
    names: Mapping[int, str],
) -> list[Confounder]:
    """Rig, speed, state, operator and week of the tests, procedure by procedure."""
    rows = (
        Turn.objects.filter(campaign=campaign, tested_at__isnull=False)
        .exclude(state="void")
        .annotate(
            tested_on=KT("tested_as__rig"),
            operator=KT("tested_as__operator"),
            really=KT("tested_as__speed"),
            week=TruncWeek("tested_at"),
        )
        .order_by()
        .values_list(
            "procedure_id",
            "condition_id",
            "tested_on",
            "operator",
            "really",
            "speed",
            "conditioning",
            "week",
        )
        .distinct()
    )
    facts: dict[int, dict[str, dict[str, set[str]]]] = {
        p.pk: defaultdict(lambda: defaultdict(set)) for p in procedures
    }
    for procedure, condition, rig, operator, really, speed, state, week in rows:
        row = facts[procedure][names.get(condition, "")]
        speed = float(really) if really else speed
        said = {
            "rig": rig,
            "operator": operator,
            "speed": speed_words(speed) if speed else "",
            "state": state,
            "week": f"week of {week:%d %b %Y}" if week else "",
        }
        for key, value in said.items():
            if value:
                row[key].add(value)
    found = []
    for of in facts.values():
        sets = {c: {k: frozenset(v) for k, v in row.items()} for c, row in of.items() if c}
        found += find_confounders(sets, varied, None, SPREAD)
    return found


def _plates(made: Sequence[Made], names: Mapping[int, str]) -> list[PlanRemark]:
    """Conditions that are confounded with their plate."""
    on: dict[str, list[str]] = defaultdict(list)
    for condition, _, row in made:
        if row.plate:
            on[names.get(condition, "")].append(row.plate)
    alone = alone_on_plates({c: sorted(set(p)) for c, p in on.items()})
    if not alone:
        return []
    where = "; ".join(f"{c}: {on[c][0]}" for c in alone)
    return [
        PlanRemark(
            "plate",
            f"Plate and condition are confounded ({where}).",
            "Print two plates of each, so that a bad plate is not mistaken for a bad condition.",
        )
    ]


def _deviations(away: Sequence[Away], names: Mapping[int, str]) -> list[PlanRemark]:
    """Specimens that were not made or tested as planned, alike ones together."""
    found: dict[tuple[int, str], list[str]] = defaultdict(list)
    for condition, deviations, codes in away:
        for deviation in deviations:
            found[condition, deviation.says] += codes
    return [
        PlanRemark(
            f"away {condition} {says}"[:160],
            f"{names.get(condition, '')}: {says} ({_codes(codes)}).",
            "Fix it (print or test again as planned), or accept it with a reason.",
        )
        for (condition, says), codes in found.items()
    ]


def _codes(codes: Sequence[str]) -> str:
    shown_codes = sorted(set(codes))
    more = len(shown_codes) - 4
    return ", ".join(shown_codes[:4]) + (f" and {more} more" if more > 0 else "")
