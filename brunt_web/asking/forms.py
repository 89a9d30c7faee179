"""The Ask form: from what was typed to a draft, every problem beside its field."""

import re
from collections.abc import Callable, Sequence
from typing import Any

from django import forms
from django.http import QueryDict

from brunt_core.errors import InputError
from brunt_core.planning.shapes import SHAPES, Shape
from brunt_core.plausibility.bands import FAMILIES
from brunt_core.printing.recipes import FIELDS
from brunt_web.asking.reading import read_levels
from brunt_web.campaigns.drafts import KINDS, FactorDraft, LevelDraft, PlanDraft, check_draft
from brunt_web.campaigns.models import Campaign
from brunt_web.interface.typed import NumberField, first_problem, whole
from brunt_web.library.models import Lot, Material, Printer, Procedure, Recipe, SpecimenVariant
from brunt_web.library.queries import materials_of, procedures_of_workshop
from brunt_web.people.models import Workshop

MOST_ROWS, NEW_ROWS = 8, 3
_ROW = re.compile(r"^f-(\d{1,2})-(?:kind|name|setting|levels)$")


class NumbersForm(forms.Form):
    """The plain fields of a plan."""

    question = forms.CharField(required=False, max_length=2000)
    replicates = NumberField(1, 100, only_whole=True)
    wanted = NumberField(0, 200)
    cv = NumberField(0, 200)
    loss = NumberField(0, 80)
    power = NumberField(50, 99)
    confidence = NumberField(50, 99.9)
    seed = forms.CharField(required=False)
    design = forms.CharField(required=False, max_length=20)
    control = forms.CharField(required=False, max_length=400)

    def number(self, key: str, default: float, strict: bool) -> float:
        """A number; not strict, what cannot be read is left at its default."""
        value = self.cleaned_data.get(key)
        if strict and key in self.errors:
            raise InputError(str(self.errors[key][0]), key)
        if strict and key == "replicates" and value is None:
            raise InputError("Say how many of each.", key)
        return default if value is None else float(value)


class AskForm:
    """What was typed, what is there to choose, and the sentences beside the fields."""

    def __init__(
        self, workshop: Workshop, typed: QueryDict, campaign: Campaign | None = None
    ) -> None:
        self.workshop, self.typed, self.campaign = workshop, typed, campaign
        self.errors: dict[str, str] = {}
        self.plain = NumbersForm(typed)
        self.plain.is_valid()
        self.materials = list(materials_of(workshop))
        self.lots = list(
            Lot.objects.filter(workshop=workshop, archived_at__isnull=True).select_related(
                "material"
            )
        )
        self.procedures = procedures_of_workshop(workshop)
        self.recipes = list(Recipe.objects.filter(workshop=workshop, archived_at__isnull=True))
        self.printers = list(Printer.objects.filter(archived_at=None, workshop=workshop))
        self.variants = list(
            SpecimenVariant.objects.filter(workshop=workshop, archived_at__isnull=True)
        )
        self.shape: Shape = SHAPES.get(typed.get("shape", ""), SHAPES["rank"])
        self.kinds = [(k, v) for k, v in KINDS.items() if k not in ("material", "lot")]
        self.families = list(FAMILIES.values())

    # -- what templates show ---------------------------------------------------------------

    @property
    def settings(self) -> list[Any]:
        """Recipe fields that can be varied."""
        kind = self.base_recipe.kind if self.base_recipe else "filament"
        return list(FIELDS[kind].values())

    @property
    def rows(self) -> list[dict[str, Any]]:
        """The factor rows, typed ones first, one blank after them."""
        found = {int(m.group(1)) for k in self.typed if (m := _ROW.match(k))}
        rows = [self._row(i) for i in sorted(found)]
        kept = [r for r in rows if r["levels"] or r["name"]][:MOST_ROWS]
        blank = max([r["n"] for r in kept], default=-1) + 1
        return kept if len(kept) >= MOST_ROWS else [*kept, self._row(blank)]

    def _row(self, n: int) -> dict[str, Any]:
        keys = ("kind", "name", "setting", "levels")
        return {"n": n, **{k: self.typed.get(f"f-{n}-{k}", "") for k in keys}}

    @property
    def new_rows(self) -> list[dict[str, Any]]:
        """Rows for materials that are not in the library."""
        return [
            {
                "n": i,
                "name": self.typed.get(f"new-{i}-name", ""),
                "family": self.typed.get(f"new-{i}-family", ""),
            }
            for i in range(NEW_ROWS)
        ]

    @property
    def ticked(self) -> dict[str, list[str]]:
        """Keys ticked so far."""
        return {name: self.typed.getlist(name) for name in ("materials", "lots", "procedures")}

    @property
    def chosen_materials(self) -> list[Material]:
        """The materials ticked."""
        return [m for m in self.materials if str(m.pk) in self.ticked["materials"]]

    @property
    def chosen(self) -> list[Procedure]:
        """The procedures ticked."""
        return [p for p in self.procedures if str(p.pk) in self.ticked["procedures"]]

    @property
    def base_recipe(self) -> Recipe | None:
        """The recipe chosen for all."""
        return self._recipe("recipe")

    @property
    def own_recipes(self) -> list[dict[str, Any]]:
        """A row for each material and each procedure that may start from a recipe of its own."""
        several = self.chosen_materials if len(self.chosen_materials) > 1 else []
        rows = [{"key": f"base-m{m.pk}", "name": m.name} for m in several if m.form != "stock"]
        if len(self.chosen) > 1:
            rows += [{"key": f"base-p{p.pk}", "name": p.name} for p in self.chosen]
        return [{**r, "value": self.typed.get(r["key"], "")} for r in rows]

    @property
    def chains(self) -> list[dict[str, Any]]:
        """For each procedure ticked, which others could come first on the same specimens."""
        rows = []
        for p in self.chosen:
            before = [
                q
                for q in self.chosen
                if q.pk != p.pk
                and not q.spends
                and q.geometry.key == p.geometry.key
                and q.orientation == p.orientation
            ]
            if before:
                key = f"after-{p.pk}"
                rows.append(
                    {"key": key, "procedure": p, "before": before, "value": self.typed.get(key, "")}
                )
        return rows

    @property
    def new_materials(self) -> list[tuple[str, str]]:
        """(name, family) of the new rows that are filled."""
        return [
            (" ".join(r["name"].split()), r["family"]) for r in self.new_rows if r["name"].strip()
        ]

    # -- from text to a draft --------------------------------------------------------------

    def is_valid(self) -> bool:
        """Whether it makes a plan; fills :attr:`errors`."""
        self._check_new()
        if not self.errors:
            try:
                check_draft(
                    self.draft(
                        [Material(name=n, family=f) for n, f in self.new_materials], strict=True
                    )
                )
            except InputError as error:
                self.errors[error.field or "question"] = error.sentence
        return not self.errors

    def _check_new(self) -> None:
        names = [m.name.lower() for m in self.materials]
        for row in self.new_rows:
            name = " ".join(row["name"].split())
            said = _new_problem(name, row["family"], names)
            if said:
                self.errors[f"new-{row['n']}"] = said
            if name:
                names.append(name.lower())

    def draft(self, added: Sequence[Material] = (), strict: bool = False) -> PlanDraft:
        """The draft. Not strict, what cannot be read is left at its default, for the live panel."""
        if strict and (problem := first_problem(self.plain)):
            raise problem

        def share(key: str, default: float) -> float:
            return round(self.plain.number(key, default, strict) / 100, 9)

        materials = [*self.chosen_materials, *added]
        return PlanDraft(
            question=self.typed.get("question", "")[:200],
            factors=tuple(self._factors(materials)),
            procedures=self.chosen,
            replicates=int(self.plain.number("replicates", 5, strict)),
            seed=self.campaign.seed if self.campaign else whole(self.typed.get("seed")) or 1,
            shape=self.shape.key,
            design=self.typed.get("design", "") or "full",
            dropped=frozenset(self.typed.getlist("drop")),
            control=self.typed.get("control", ""),
            material=materials[0] if len(materials) == 1 else None,
            recipe=self.base_recipe,
            printer=_chosen(self.printers, self.typed.get("printer", "")),
            cv=share("cv", 0) or None,
            wanted=share("wanted", 0) or None,
            power=share("power", 80),
            loss=share("loss", 0),
            confidence=share("confidence", 95),
            after=self._after(),
            base_recipes=self._base_recipes(),
        )

    def _recipe(self, key: str) -> Recipe | None:
        return _chosen(self.recipes, self.typed.get(key, ""))

    def _after(self) -> dict[int, int]:
        known = {str(p.pk): p.pk for p in self.chosen}
        return {
            row["procedure"].pk: known[row["value"]] for row in self.chains if row["value"] in known
        }

    def _base_recipes(self) -> dict[tuple[int | None, int | None], Recipe]:
        found: dict[tuple[int | None, int | None], Recipe] = {}
        for row in self.own_recipes:
            recipe = self._recipe(row["key"])
            kind, pk = row["key"][5], int(row["key"][6:])
            if recipe:
                found[(pk, None) if kind == "m" else (None, pk)] = recipe
        return found

    def _factors(self, materials: Sequence[Material]) -> Any:
        if len(materials) > 1:
            levels = tuple(LevelDraft(m.name, material=m) for m in materials)
            yield FactorDraft("material", "Material", levels)
        lots = [x for x in self.lots if str(x.pk) in self.ticked["lots"]]
        if len(lots) > 1:
            yield FactorDraft("lot", "Lot", tuple(LevelDraft(str(x)[:80], lot=x) for x in lots))
        names: set[str] = {"material", "lot"}
        for row in self.rows:
            if row["levels"].strip():
                yield self._factor(row, names)

    def _factor(self, row: dict[str, Any], names: set[str]) -> FactorDraft:
        where = f"f-{row['n']}"
        setting = row["setting"] if row["kind"] == "setting" else ""
        recipe_kind = self.base_recipe.kind if self.base_recipe else "filament"
        field = FIELDS[recipe_kind].get(setting)
        if row["kind"] not in KINDS:
            raise InputError("Choose what kind of factor this is.", where)
        if row["kind"] == "setting" and not setting:
            raise InputError("Choose which setting is varied.", where)
        if row["kind"] == "setting" and field is None:
            raise InputError(f"A {recipe_kind} recipe has no such setting to vary.", where)
        label = field.label if field else KINDS[row["kind"]].capitalize()
        name = (row["name"].strip() or label)[:60]
        if name.lower() in names:
            raise InputError(f"Two factors are called {name}; rename one.", where)
        names.add(name.lower())
        try:
            levels = read_levels(
                row["kind"], setting, row["levels"].split(";"), recipe_kind, self.variants
            )
        except InputError as error:
            raise InputError(error.sentence, where) from None
        return FactorDraft(row["kind"], name, levels, setting)


def _new_problem(name: str, family: str, names: Sequence[str]) -> str:
    rules: tuple[tuple[Callable[[], bool], str], ...] = (
        (lambda: bool(name and not family), "Choose its family."),
        (lambda: bool(family and not name), "Give it a name."),
        (
            lambda: name.lower() in names and bool(name),
            f"There is already a material called {name}; tick it above.",
        ),
        (lambda: len(name) > 80, "80 characters are the most."),
    )
    return next((said for broken, said in rules if broken()), "")


def _chosen(rows: Sequence[Any], key: str) -> Any:
    return next((r for r in rows if str(r.pk) == key), None)
