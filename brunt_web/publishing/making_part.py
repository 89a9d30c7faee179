"""What the specimens are and how they were made: materials, recipe, batches, treatments."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from django.db.models import Count, Max, Min

from brunt_core.plausibility.bands import FAMILIES
from brunt_core.printing.recipes import FIELDS
from brunt_core.quantities.rendering import number, render
from brunt_web.campaigns.models import Campaign, Condition, HistoryEvent, Specimen
from brunt_web.campaigns.resolved import Recipes
from brunt_web.library.models import Procedure
from brunt_web.printing.models import Batch
from brunt_web.treatments.queries import outstanding_steps

Rows = list[tuple[str, str]]


@dataclass
class Making:
    """How they were made, for a reader who wants to make them again."""

    materials: list[dict[str, Any]] = field(default_factory=list)
    recipes: list[str] = field(default_factory=list)
    common: list[tuple[str, str, str]] = field(default_factory=list)
    heads: list[str] = field(default_factory=list)
    differing: list[tuple[str, list[str]]] = field(default_factory=list)
    batches: list[dict[str, Any]] = field(default_factory=list)
    elsewhere: Rows = field(default_factory=list)
    steps: list[dict[str, Any]] = field(default_factory=list)

    @property
    def printed(self) -> str:
        """The few settings readers ask for first, in one line."""
        wanted = ("Nozzle temperature", "Layer height", "Walls", "Infill", "Exposure")
        known = {label: text for _, label, text in self.common}
        said = [f"{w.lower()} {known[w]}" for w in wanted if w in known]
        said += [f"{h.lower()} as in the table" for h in self.heads if h in wanted]
        return ", ".join(said)


def making_of(
    campaign: Campaign,
    conditions: Sequence[Condition],
    procedures: Sequence[Procedure],
    money: bool,
) -> Making:
    """Read it all; a fixed number of queries."""
    found = Making(materials=_materials(conditions, campaign, money))
    _recipes(found, campaign, conditions, procedures)
    found.batches = _batches(campaign)
    found.elsewhere = _elsewhere(campaign)
    found.steps = _steps(campaign)
    return found


def _materials(
    conditions: Sequence[Condition], campaign: Campaign, money: bool
) -> list[dict[str, Any]]:
    seen = {c.material_id: c.material for c in conditions if c.material}
    lots: dict[int, list[str]] = {}
    rows = Batch.objects.filter(campaign=campaign, lot__isnull=False).select_related("lot")
    for batch in {b.lot_id: b for b in rows.order_by("-number")}.values():
        lot, opened = batch.lot, batch.lot.opened_at if batch.lot else None
        assert lot is not None
        before = opened and opened <= batch.created_at  # else it was opened again since
        said = [lot.name, lot.colour, f"opened {opened:%-d %b %Y}" if opened and before else ""]
        if money and lot.price_per_kg is not None:
            said.append(f"{number(lot.price_per_kg, '.2f')} {campaign.workshop.currency}/kg")
        lots.setdefault(lot.material_id, []).append(", ".join(filter(None, said)))
    return [
        {
            "name": m.name,
            "family": FAMILIES[m.family].name if m.family in FAMILIES else m.family,
            "form": m.get_form_display(),
            "filler": m.filler,
            "density": render(m.density, "density") if m.density else "",
            "price": f"{m.price} {campaign.workshop.currency}/kg" if money and m.price is not None else "",
            "lots": lots.get(m.pk, []),
        }
        for m in seen.values()
    ]  # fmt: skip


def _recipes(
    found: Making,
    campaign: Campaign,
    conditions: Sequence[Condition],
    procedures: Sequence[Procedure],
) -> None:
    """Settings that all share, and those that differ with a row for each that differs."""
    recipes = Recipes.of(campaign)
    told = []
    for c in conditions:
        for p in procedures:
            resolved = recipes.resolved(c, p)
            if resolved.recipe or resolved.settings:
                told.append((str(c), p.name, resolved))
    found.recipes = list(dict.fromkeys(str(r.recipe) for _, _, r in told if r.recipe))
    fields = [(k, f) for known in FIELDS.values() for k, f in known.items()]
    keys = {}
    for key, f in fields:
        shown = [_shown(r, key) for _, _, r in told]
        if any(shown):
            keys[key] = (f, shown)
    alike = {k for k, (_, shown) in keys.items() if len(set(shown)) == 1}
    found.common = [(f.group, f.label, shown[0]) for k, (f, shown) in keys.items() if k in alike]
    differ = [k for k in keys if k not in alike]
    found.heads = [keys[k][0].label for k in differ]
    rows: dict[tuple[str, tuple[str, ...]], None] = {}
    for i, (condition, _, _) in enumerate(told):
        rows[(condition, tuple(keys[k][1][i] or "–" for k in differ))] = None
    found.differing = [(name, list(cells)) for name, cells in rows] if differ else []


def _shown(resolved: Any, key: str) -> str:
    one = resolved.settings.get(key) or {}
    return str(one.get("shown") or one.get("text") or "")


def _batches(campaign: Campaign) -> list[dict[str, Any]]:
    rows = (
        Batch.objects.filter(campaign=campaign)
        .select_related("printer", "lot", "recipe")
        .prefetch_related("plates")
    )
    return [
        {
            "number": b.number,
            "printer": b.printer.name,
            "lot": str(b.lot or ""),
            "recipe": str(b.recipe or ""),
            "orientation": b.orientation,
            "plates": len(b.plates.all()),
            "printed": [p.printed_at for p in b.plates.all() if p.printed_at],
            "dryness": ", ".join(sorted({p.dryness for p in b.plates.all() if p.dryness})),
            "known": ", ".join(sorted({p.used_from for p in b.plates.all() if p.used_from})),
        }
        for b in rows
    ]


def _elsewhere(campaign: Campaign) -> Rows:
    """How those that lay on no plate were made, with how many."""
    rows = (
        Specimen.objects.filter(campaign=campaign, made="made", print__isnull=True)
        .order_by("made_how")
        .values_list("made_how", "code")
    )
    counted: dict[str, int] = {}
    for how, _ in rows:
        counted[how or "not said"] = counted.get(how or "not said", 0) + 1
    return [(how, str(n)) for how, n in counted.items()]


def _steps(campaign: Campaign) -> list[dict[str, Any]]:
    """What was planned to be done to them after printing, and what was done."""
    rows = HistoryEvent.objects.filter(
        specimen__campaign=campaign, kind__in=("treated", "conditioned"), undone_at__isnull=True
    ).values("what")
    found = rows.annotate(first=Min("at"), last=Max("at"), n=Count("specimen", distinct=True))
    said = [{**row, "outstanding": 0} for row in found.order_by("first")]
    for step in outstanding_steps(campaign):
        n = len(step.specimens) + step.unmade
        if n:
            said.append({"what": step.what, "n": 0, "first": None, "last": None, "outstanding": n})
    return said
