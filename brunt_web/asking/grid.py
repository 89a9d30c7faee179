"""The plan as a grid: levels on their true scale, a cell for each condition, its specimens in it."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from django.db.models import Count, Q

from brunt_core.printing.recipes import FIELDS, usual
from brunt_core.quantities.rendering import number
from brunt_web.asking.planning import Marked, Planned, PlanSaving, PlanView, level_numbers
from brunt_web.campaigns.drafts import Combination, FactorDraft, PlanDraft
from brunt_web.campaigns.models import Campaign
from brunt_web.library.models import Procedure

WIDTH, AXIS, PAD = 720.0, 34.0, 56.0
MOST_DRAWN = 12


@dataclass
class PlanCell:
    """One condition: whether it is made, how its specimens are drawn, what it takes."""

    combination: Combination
    kept: bool
    control: bool
    grams: float | None
    hours: float | None
    letters: str
    made: int | None = None
    planned: int = 0


@dataclass
class PlanColumn:
    """One level of the factor across: where it stands on the scale, and what cutting it saves."""

    label: str
    at: float
    centre: float
    odd: bool
    saving: PlanSaving | None


@dataclass
class PlanRow:
    """One combination of the other factors, with its cells."""

    labels: list[str]
    cells: list[PlanCell | None]


@dataclass
class Grid:
    """Everything that is drawn."""

    factor: FactorDraft
    others: list[FactorDraft]
    columns: list[PlanColumn]
    rows: list[PlanRow]
    scaled: bool
    band: tuple[float, float] | None
    band_words: str
    procedure: Procedure
    specimens: list[bool] = field(default_factory=list)
    more: int = 0
    width: float = WIDTH


def draft_grid(draft: PlanDraft, view: PlanView) -> Grid | None:
    """The grid of a draft; ``None`` while nothing is varied or tested."""
    if not draft.factors or not view.combinations or not draft.heads:
        return None
    across = _across(draft.factors)
    factor = draft.factors[across]
    others = [f for i, f in enumerate(draft.factors) if i != across]
    numbers = level_numbers(factor)
    scaled = len(numbers) == len(factor.levels) and len(set(numbers)) > 1
    order = _order(factor, numbers if scaled else ())
    centres = [WIDTH * (k + 0.5) / len(order) for k in range(len(order))]
    places, band = _places(draft, factor, numbers, order, centres)
    columns = [
        PlanColumn(
            label=factor.levels[i].label,
            at=places[k],
            centre=round(centres[k], 1),
            odd=bool(band and numbers and not band[0] <= numbers[i] <= band[1]),
            saving=_saving(view, factor, i),
        )
        for k, i in enumerate(order)
    ]
    spares = [False] * draft.replicates + [True] * draft.spares
    return Grid(
        factor=factor,
        others=others,
        columns=columns,
        rows=_rows(draft, view, across, order),
        scaled=scaled,
        band=_band_places(band, numbers, places, order) if band else None,
        band_words=f"usual, {number(band[0], 'g')} to {number(band[1], 'g')}" if band else "",
        procedure=draft.heads[0],
        specimens=spares[:MOST_DRAWN],
        more=max(len(spares) - MOST_DRAWN, 0),
    )


def _across(factors: Sequence[FactorDraft]) -> int:
    """The factor drawn across: the one with numbers and most levels, else the one with most levels."""
    return max(
        range(len(factors)),
        key=lambda i: (bool(level_numbers(factors[i])), len(factors[i].levels), i),
    )


def _order(factor: FactorDraft, numbers: Sequence[float]) -> list[int]:
    rows = list(range(len(factor.levels)))
    return sorted(rows, key=lambda i: numbers[i]) if numbers else rows


def _places(
    draft: PlanDraft,
    factor: FactorDraft,
    numbers: Sequence[float],
    order: Sequence[int],
    centres: Sequence[float],
) -> tuple[list[float], tuple[float, float] | None]:
    """Where each level stands on the scale, and the usual range of the family where there is one."""
    if not numbers or len(set(numbers)) < 2:
        return [round(c, 1) for c in centres], None
    families = {c.material.family for c in draft.kept if c.material}
    families |= {draft.material.family} if draft.material else set()
    family = families.pop() if len(families) == 1 else ""
    low, high = min(numbers), max(numbers)
    left, right = centres[0], centres[-1]

    def x(value: float) -> float:
        return round(left + (value - low) / (high - low) * (right - left), 1)

    return [x(numbers[i]) for i in order], usual(family, factor.setting)


def _band_places(
    band: tuple[float, float],
    numbers: Sequence[float],
    places: Sequence[float],
    order: Sequence[int],
) -> tuple[float, float] | None:
    """The usual range in the drawing, kept inside it."""
    low, high = numbers[order[0]], numbers[order[-1]]
    per = (places[-1] - places[0]) / (high - low)
    ends = [places[0] + (b - low) * per for b in band]
    left, right = max(ends[0], 4.0), min(ends[1], WIDTH - 4.0)
    return (round(left, 1), round(right, 1)) if right > left else None


def _saving(view: PlanView, factor: FactorDraft, i: int) -> PlanSaving | None:
    label = factor.levels[i].label
    return next((s for s in view.savings if (s.factor, s.level) == (factor.name, label)), None)


def _rows(draft: PlanDraft, view: PlanView, across: int, order: Sequence[int]) -> list[PlanRow]:
    by_rest: dict[tuple[str, ...], dict[str, tuple[Combination, bool]]] = {}
    for c, kept in view.combinations:
        rest = tuple(x.label for i, x in enumerate(c.levels) if i != across)
        by_rest.setdefault(rest, {})[c.levels[across].label] = (c, kept)
    planned = _by_name(view.planned)
    labels = [draft.factors[across].levels[i].label for i in order]
    return [
        PlanRow(
            list(rest), [_cell(draft, view.marks, planned, cells.get(label)) for label in labels]
        )
        for rest, cells in by_rest.items()
    ]


def _by_name(planned: Sequence[Planned]) -> dict[str, list[Planned]]:
    found: dict[str, list[Planned]] = {}
    for one in planned:
        found.setdefault(one.combination.name, []).append(one)
    return found


def _cell(
    draft: PlanDraft,
    marks: Sequence[Marked],
    planned: dict[str, list[Planned]],
    found: tuple[Combination, bool] | None,
) -> PlanCell | None:
    if found is None:
        return None
    c, kept = found
    rows = planned.get(c.name, [])
    return PlanCell(
        combination=c,
        kept=kept,
        control=c.name == draft.control,
        grams=_sum(_grams(p) for p in rows),
        hours=_sum(_hours(p) for p in rows),
        letters="".join(m.letter for m in marks if c.name in m.conditions),
    )


def _grams(one: Planned) -> float | None:
    d = one.demand
    return None if d.density is None else d.count * d.volume * d.solidity * d.density * 1e-6


def _hours(one: Planned) -> float | None:
    d = one.demand
    return d.count * d.volume * d.solidity / d.flow / 3600 * 1.25 if d.flow else None


def _sum(parts: Any) -> float | None:
    found = list(parts)
    return None if not found or None in found else sum(found)


def note_made(grid: Grid, campaign: Campaign) -> None:
    """How many of each cell's specimens there are, and how many of them are made."""
    rows = (
        campaign.specimens.values_list("condition__label")
        .annotate(n=Count("id"), made=Count("id", filter=Q(made="made")))
        .order_by()
    )
    known = {label: (n, made) for label, n, made in rows}
    for row in grid.rows:
        for cell in row.cells:
            if cell:
                cell.planned, cell.made = known.get(cell.combination.name, (0, 0))


def unit_of(factor: FactorDraft) -> str:
    """The unit of a factor's levels, for its head."""
    field_ = next((f[factor.setting] for f in FIELDS.values() if factor.setting in f), None)
    return field_.unit if field_ else ""
