"""Values normalised by another section, by mass, volume, price or hours: the facts read, the samples changed."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from django.db.models import Q
from django.http import QueryDict

from brunt_core.errors import InputError
from brunt_core.normalisation import NORMALISERS, Facts, factor
from brunt_core.printing.recipes import volumetric_flow
from brunt_core.printing.resolved import values
from brunt_core.properties import Property
from brunt_core.specimens.solid import solid_share
from brunt_web.campaigns.models import Campaign, Condition, Turn, geometry_asked
from brunt_web.campaigns.resolved import Recipes
from brunt_web.campaigns.resolved_parts import filling_of_settings
from brunt_web.comparison.tabs import address_of
from brunt_web.library.models import Procedure
from brunt_web.results.reading import Sample, rows
from brunt_web.testing.models import Measurement, Reading

_TRAVEL = 1.25


def asked_for(query: Mapping[str, str]) -> str:
    """The normaliser the address names; empty where it names none."""
    by = query.get("by", "")
    return by if by in NORMALISERS else ""


def choices_of(campaign: Campaign, here: str, query: QueryDict) -> list[tuple[str, str, bool]]:
    """(words, address, whether it is on) of each way to normalise."""
    now = asked_for(query)
    ways = [("", "as measured"), *((k, n.choice) for k, n in NORMALISERS.items())]
    return [(word, address_of(campaign, here, query, by=key), key == now) for key, word in ways]


def fits(procedure: Procedure, prop: Property, by: str) -> bool:
    """Whether a property can be normalised so: a load on an area by another area, any number by the rest."""
    if not by or prop.ordinal:
        return False
    return not NORMALISERS[by].stress or bool(load_of(procedure, prop.key))


def named(procedure: Procedure, prop: Property, by: str) -> Property:
    """The property with what it is normalised by in its name and unit."""
    if not fits(procedure, prop, by):
        return prop
    how = NORMALISERS[by]
    times = prop.better == "lower" and not how.stress
    unit = f"{prop.unit} {how.unit.replace('per', '×') if times else how.unit}".strip()
    words = how.words.replace("per ", "times ", 1) if times else how.words
    return replace(prop, name=f"{prop.name} {words}", unit=unit)


def load_of(procedure: Procedure, prop: str) -> str:
    """The load that is divided by the area for this property; empty where it is worked otherwise."""
    method = procedure.method
    for r in method.results:
        load = next((n for n in r.needs if n != "area"), "")
        if r.property == prop and set(r.needs) == {load, "area"} and load:
            return load if any(i.key == load and i.dimension == "force" for i in method.inputs) else ""  # fmt: skip
    return ""


def normalised(
    campaign: Campaign,
    found: Sequence[Sample],
    procedures: Sequence[Procedure],
    conditions: Sequence[Condition],
    by: str,
) -> list[Sample]:
    """The samples with their values normalised; those that lack what it takes are excluded with the reason."""
    known = {p.pk: p for p in procedures}
    told = [s for s in found if s.procedure in known]
    facts = _Facts(campaign, told, known, conditions, by)
    changed = []
    for s in found:
        procedure = known.get(s.procedure)
        prop = procedure.property_called(s.property) if procedure else None
        if prop is None or procedure is None or not fits(procedure, prop, by):
            changed.append(s)
            continue
        times = factor(by, facts.of(s), prop.better == "lower")
        changed.append(_lacking(s, by) if times is None else _scaled(s, times))
    return changed


def _lacking(sample: Sample, by: str) -> Sample:
    if sample.excluded:
        return sample
    return replace(sample, excluded=True, because=f"{NORMALISERS[by].lacking} is not known")


def _scaled(sample: Sample, times: float) -> Sample:
    return replace(
        sample,
        observation=sample.observation.through(lambda x: x * times),
        uncertainty=sample.uncertainty * times,
        rounding=sample.rounding * times,
    )


class _Facts:
    """What is known of each specimen, in two queries; drawings and recipes once a condition."""

    def __init__(
        self,
        campaign: Campaign,
        found: Sequence[Sample],
        procedures: dict[int, Procedure],
        conditions: Sequence[Condition],
        by: str,
    ) -> None:
        self.by, self.procedures = by, procedures
        self.conditions = {c.pk: c for c in conditions}
        self.recipes = Recipes.of(campaign)
        turns = {s.turn for s in found}
        self.masses = masses_of(turns) if by in ("mass", "gram", "price") else {}
        self.sections = _sections(turns, procedures) if NORMALISERS[by].stress else {}
        self.fractures = _read(turns, "fracture_area") if by == "fracture" else {}
        self.alike: dict[tuple[int, int], Facts] = {}

    def of(self, sample: Sample) -> Facts:
        """Of one specimen."""
        key = (sample.condition, sample.procedure)
        if key not in self.alike:
            self.alike[key] = self._planned(*key)
        planned = self.alike[key]
        mass = self.masses.get(sample.turn)
        return replace(
            planned,
            mass=mass if mass or self.by == "mass" else planned.mass,
            section=self.sections.get((sample.turn, sample.property)),
            fracture_area=self.fractures.get(sample.turn),
        )

    def _planned(self, condition_id: int, procedure_id: int) -> Facts:
        """What drawing, material and recipe say; the mass is what they foresee."""
        condition, procedure = self.conditions.get(condition_id), self.procedures[procedure_id]
        if condition is None:
            return Facts()
        geometry = geometry_asked(condition, procedure)
        material = condition.material
        volume = geometry.volume * 1e-9
        plan = self.recipes.resolved(condition, procedure)
        orientation = condition.requirements.orientation or procedure.orientation
        try:
            share = solid_share(geometry, orientation, filling_of_settings(plan.settings))
        except InputError:
            share = 1.0
        flow = volumetric_flow(values(plan.settings))
        density = material.density if material else None
        lot = condition.lot
        price = lot.price_per_kg if lot else (material.price if material else None)
        return Facts(
            drawn_area=geometry.area * 1e-6,
            drawn_volume=volume,
            density=density,
            mass=volume * share * density if density else None,
            price=float(price) if price else None,
            hours=volume * 1e9 * share / flow / 3600 * _TRAVEL if flow else None,
        )


def masses_of(turns: set[int]) -> dict[int, float]:
    """The mass each was last weighed at, kg. Two queries: joined, all turns there are would be gone through."""
    specimens = dict(Turn.objects.filter(pk__in=turns).values_list("pk", "specimen"))
    rows = Measurement.objects.filter(
        moment__specimen__in=set(specimens.values()), key="mass", moment__undone_at__isnull=True
    ).order_by("moment__at", "moment_id", "id")
    weighed = dict(rows.values_list("moment__specimen", "value"))
    return {turn: weighed[s] for turn, s in specimens.items() if s in weighed}


def _read(turns: set[int], key: str) -> dict[int, float]:
    rows = Reading.objects.filter(test__turn__in=turns, key=key)
    return {turn: v for turn, v in rows.values_list("test__turn", "lower") if v}


def _sections(turns: set[int], procedures: dict[int, Procedure]) -> dict[tuple[int, str], float]:
    """The area each stress was worked with, load over stress, m²."""
    loads: dict[str, list[str]] = {}
    for p in procedures.values():
        for r in p.method.results:
            if (load := load_of(p, r.property)) and r.property not in loads.get(load, ()):
                loads.setdefault(load, []).append(r.property)
    read = {
        (turn, key): lower if lower is not None else upper
        for turn, key, lower, upper in Reading.objects.filter(
            test__turn__in=turns, key__in=loads
        ).values_list("test__turn", "key", "lower", "upper")
    }
    under = {prop: load for load, props in loads.items() for prop in props}
    bounds = rows(
        Q(turn__in=turns, property_key__in=under), "turn", "property_key", "lower", "upper"
    )
    found = {}
    for turn, prop, lower, upper in bounds:
        force, stress = read.get((turn, under[prop])), lower if lower is not None else upper
        if force and stress:
            found[turn, prop] = force / stress
    return found
