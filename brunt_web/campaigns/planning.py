"""What a draft comes to: conditions, what n can tell, cost, confounders. Stores nothing."""

from collections.abc import Sequence
from dataclasses import dataclass

from django.db.models import Avg, Count, F, StdDev

from brunt_core.planning.confounders import Confounder, find_confounders
from brunt_core.planning.designs import fractions_for
from brunt_core.planning.estimates import Demand, Estimate, estimate, solidity
from brunt_core.planning.power import DEFAULT_SCATTER, Prospect, prospect
from brunt_core.printing.recipes import unlikely, volumetric_flow
from brunt_web.campaigns.drafts import Combination, PlanDraft
from brunt_web.campaigns.models import Specimen
from brunt_web.library.models import Lot


@dataclass(frozen=True)
class Scatter:
    """The expected coefficient of variation and where it comes from."""

    value: float
    source: str


@dataclass(frozen=True)
class Saving:
    """What cutting one level saves."""

    factor: str
    level: str
    specimens: int
    grams: float | None
    price: float | None


@dataclass(frozen=True)
class PlanView:
    """Everything the Ask panel shows."""

    combinations: list[tuple[Combination, bool]]
    conditions: int
    specimens: int
    spares: int
    scatter: Scatter
    prospect: Prospect | None
    estimate: Estimate
    savings: list[Saving]
    confounders: list[Confounder]
    unlikely: list[str]
    aliases: tuple[str, ...]
    resolution: int | None
    fractions: list[int]
    lots: list[tuple[Lot, float | None]]


def evaluate(draft: PlanDraft, workshop) -> PlanView:
    """Work out a draft. Raises :class:`InputError` for what cannot be worked out."""
    kept = draft.kept if draft.factors else []
    fraction = draft.fraction
    lots = list(
        Lot.objects.filter(workshop=workshop, archived_at__isnull=True).select_related("material")
    )
    scatter = expected_scatter(draft, workshop)
    demands = _demands(draft, kept, lots)
    total = estimate([d for _, d in demands])
    seen = [(c, c.name not in draft.dropped) for c in (draft.every if draft.factors else [])]
    return PlanView(
        seen,
        len(kept),
        total.specimens,
        draft.spares,
        scatter,
        prospect(
            scatter.value,
            draft.replicates,
            max(len(kept), 2),
            draft.wanted,
            draft.confidence,
            draft.power,
        )
        if draft.replicates >= 2
        else None,
        total,
        _savings(draft, demands),
        _confounders(draft, kept, lots),
        _unlikely(draft, kept),
        fraction.aliases if fraction else (),
        fraction.resolution if fraction else None,
        fractions_for(len(draft.factors)) if all(len(f.levels) == 2 for f in draft.factors) else [],
        _lots_needed(total, lots),
    )


def expected_scatter(draft: PlanDraft, workshop) -> Scatter:
    """Typed; else the workshop's own earlier results by the same procedures; else a default by method."""
    if draft.scatter:
        return Scatter(draft.scatter, "as typed")
    own = own_scatter(workshop, draft.procedures)
    if own:
        return own
    values = [DEFAULT_SCATTER.get(p.method_key, 0.08) for p in draft.procedures] or [0.05]
    return Scatter(
        max(values),
        "a usual figure for this test (common practice); type your own when you know it",
    )


def own_scatter(workshop, procedures) -> Scatter | None:
    """Pooled CV of earlier groups of three or more exact results, √(Σ(n−1)·CV² / Σ(n−1)); the worst procedure's."""
    rows = (
        Specimen.objects.filter(
            workshop=workshop,
            procedure__in=[p.pk for p in procedures],
            test__excluded=False,
            results__lower=F("results__upper"),
        )
        .values("condition_id", "procedure_id")
        .annotate(
            n=Count("id"), mean=Avg("results__lower"), sd=StdDev("results__lower", sample=True)
        )
        .filter(n__gte=3)
    )
    pooled: dict[int, list[float]] = {}
    for row in rows:
        total = pooled.setdefault(row["procedure_id"], [0.0, 0.0, 0.0])
        total[0] += (row["n"] - 1) * (row["sd"] / row["mean"]) ** 2
        total[1] += row["n"] - 1
        total[2] += 1
    if not pooled:
        return None
    worst = max(pooled.values(), key=lambda t: t[0] / t[1])
    return Scatter(
        (worst[0] / worst[1]) ** 0.5,
        f"pooled from {worst[2]:.0f} of this workshop's own groups by the same procedure",
    )


def _demands(
    draft: PlanDraft, kept: Sequence[Combination], lots: list[Lot]
) -> list[tuple[Combination, Demand]]:
    found = []
    for c in kept:
        values = _settings(draft, c)
        material = c.material or draft.material
        treated = any(
            f.kind == "treatment" and x is not f.levels[0]
            for f, x in zip(draft.factors, c.levels, strict=True)
        )
        for p in draft.procedures:
            geometry = p.geometry
            solid = solidity(
                _whole(values.get("walls")),
                values.get("line_width"),
                geometry.sizes.get("narrow", geometry.wide) / 1000,
                values.get("infill"),
            )
            found.append(
                (
                    c,
                    Demand(
                        material.name if material else "the material",
                        draft.replicates + draft.spares,
                        geometry.volume,
                        p.method_key,
                        material.density if material else None,
                        _price(c, material, lots),
                        volumetric_flow(values),
                        solid,
                        treated,
                    ),
                )
            )
    return found


def _whole(value: float | None) -> int | None:
    return None if value is None else int(value)


def _price(combination: Combination, material, lots: list[Lot]) -> float | None:
    lot = combination.lot or next(
        (x for x in lots if material and x.material_id == material.pk), None
    )
    if lot:
        return lot.price_per_kg
    return float(material.price) if material and material.price is not None else None


def _settings(draft: PlanDraft, combination: Combination) -> dict[str, float | None]:
    """The base recipe's values with the levels in."""
    values = dict(draft.recipe.values) if draft.recipe else {}
    for factor, level in zip(draft.factors, combination.levels, strict=True):
        if factor.setting:
            values[factor.setting] = level.value
    return values


def _savings(draft: PlanDraft, demands: list[tuple[Combination, Demand]]) -> list[Saving]:
    """For each level of a factor that would still have two left: what goes with it."""
    found = []
    for i, factor in enumerate(draft.factors):
        for level in factor.levels if len(factor.levels) > 2 else ():
            gone = estimate([d for c, d in demands if c.levels[i] == level])
            grams = [n.grams for n in gone.needs]
            found.append(
                Saving(
                    factor.name,
                    level.label,
                    gone.specimens,
                    None if None in grams else sum(g or 0 for g in grams),
                    gone.price,
                )
            )
    return found


def _confounders(
    draft: PlanDraft, kept: Sequence[Combination], lots: list[Lot]
) -> list[Confounder]:
    facts = {}
    for c in kept:
        material = c.material or draft.material
        lot = c.lot or next((x for x in lots if material and x.material_id == material.pk), None)
        facts[c.name] = {"colour": lot.colour if lot else ""}
    return find_confounders(
        facts, [f.name for f in draft.factors] + [f.kind for f in draft.factors]
    )


def _unlikely(draft: PlanDraft, kept: Sequence[Combination]) -> list[str]:
    found: dict[str, None] = {}
    for c in kept:
        material = c.material or draft.material
        if material and draft.recipe:
            for _, sentence in unlikely(draft.recipe.kind, material.family, _settings(draft, c)):
                found[sentence] = None
    return list(found)


def _lots_needed(total: Estimate, lots: list[Lot]) -> list[tuple[Lot, float | None]]:
    """Each lot of a material of the plan, with the grams left after it."""
    needs = {n.material: n.grams for n in total.needs}
    return [
        (
            lot,
            None
            if lot.remaining is None or needs[lot.material.name] is None
            else lot.remaining * 1000 - needs[lot.material.name],
        )
        for lot in lots
        if lot.material.name in needs
    ]
