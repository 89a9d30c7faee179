"""The Ask form: from what was typed to a draft, every problem beside its field."""

from collections.abc import Sequence

from django.http import QueryDict

from brunt_core.errors import InputError
from brunt_core.planning.shapes import SHAPES, Shape
from brunt_core.plausibility.bands import FAMILIES
from brunt_core.printing.recipes import FIELDS
from brunt_core.quantities.numbers import read_number
from brunt_web.campaigns.drafts import KINDS, FactorDraft, LevelDraft, PlanDraft, check, read_levels
from brunt_web.campaigns.models import Campaign
from brunt_web.library.models import Lot, Material, Printer, Recipe
from brunt_web.library.queries import materials_of, procedures_of_workshop

ROWS, NEW_ROWS = 5, 3


class AskForm:
    """What was typed, what is there to choose, and the sentences beside the fields."""

    def __init__(self, workshop, typed: QueryDict, campaign: Campaign | None = None) -> None:
        self.workshop, self.typed, self.campaign = workshop, typed, campaign
        self.errors: dict[str, str] = {}
        self.materials = list(materials_of(workshop))
        self.lots = list(
            Lot.objects.filter(workshop=workshop, archived_at__isnull=True).select_related(
                "material"
            )
        )
        self.procedures = procedures_of_workshop(workshop)
        self.recipes = list(Recipe.objects.filter(workshop=workshop, archived_at__isnull=True))
        self.printers = list(Printer.objects.filter(workshop=workshop))
        self.shape: Shape = SHAPES.get(typed.get("shape", ""), SHAPES["rank"])
        self.kinds = [(k, v) for k, v in KINDS.items() if k not in ("material", "lot")]
        self.families = list(FAMILIES.values())

    # -- what templates show ---------------------------------------------------------------

    @property
    def settings(self):
        """Recipe fields that can be varied."""
        kind = self.base_recipe.kind if self.base_recipe else "filament"
        return list(FIELDS[kind].values())

    @property
    def rows(self) -> list[dict]:
        """The factor rows, typed ones first, one blank after them."""
        rows = [
            {
                "n": i,
                **{
                    k: self.typed.get(f"f-{i}-{k}", "")
                    for k in ("kind", "name", "setting", "levels")
                },
            }
            for i in range(ROWS)
        ]
        shown = max([i for i, r in enumerate(rows) if r["levels"] or r["name"]], default=-1) + 2
        return rows[: min(max(shown, 1), ROWS)]

    @property
    def new_rows(self) -> list[dict]:
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
    def base_recipe(self) -> Recipe | None:
        """The recipe chosen."""
        return next((r for r in self.recipes if str(r.pk) == self.typed.get("recipe")), None)

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
                draft = self.draft(
                    [Material(name=n, family=f) for n, f in self.new_materials], strict=True
                )
                check(draft)
            except InputError as error:
                self.errors[error.field or "question"] = error.sentence
        return not self.errors

    def _check_new(self) -> None:
        names = [m.name.lower() for m in self.materials]
        for row in self.new_rows:
            name = " ".join(row["name"].split())
            if name and not row["family"]:
                self.errors[f"new-{row['n']}"] = "Choose its polymer family."
            elif row["family"] and not name:
                self.errors[f"new-{row['n']}"] = "Give it a name."
            elif name.lower() in names:
                self.errors[f"new-{row['n']}"] = (
                    f"There is already a material called {name}; tick it above."
                )
            elif len(name) > 80:
                self.errors[f"new-{row['n']}"] = "80 characters are the most."
            if name:
                names.append(name.lower())

    def draft(self, added: Sequence[Material] = (), strict: bool = False) -> PlanDraft:
        """The draft. Not strict, what cannot be read is left at its default, for the live panel."""
        number = self._number if strict else self._number_or
        materials = [m for m in self.materials if str(m.pk) in self.ticked["materials"]] + list(
            added
        )
        chosen = [p for p in self.procedures if str(p.pk) in self.ticked["procedures"]]
        printer = next((p for p in self.printers if str(p.pk) == self.typed.get("printer")), None)
        percent = 0.01
        return PlanDraft(
            self.typed.get("question", "")[:200],
            tuple(self._factors(materials)),
            chosen,
            int(number("replicates", 5)),
            self.campaign.seed if self.campaign else int(self.typed.get("seed") or 1),
            self.shape.key,
            self.typed.get("design", "full"),
            frozenset(self.typed.getlist("drop")),
            self.typed.get("control", ""),
            materials[0] if len(materials) == 1 else None,
            self.base_recipe,
            printer,
            (number("scatter", 0) * percent) or None,
            (number("wanted", 0) * percent) or None,
            round(number("power", 80) * percent, 6),
            round(number("loss", 0) * percent, 6),
            round(number("confidence", 95) * percent, 6),
        )

    def _number(self, key: str, default: float) -> float:
        text = self.typed.get(key, "").strip().rstrip("% ")
        if not text:
            if key == "replicates":
                raise InputError("Say how many of each.", key)
            return default
        try:
            value = read_number(text)
        except InputError as error:
            raise error.at(key) from None
        low, high = {
            "replicates": (1, 100),
            "power": (50, 99),
            "confidence": (50, 99.9),
            "loss": (0, 80),
        }.get(key, (0, 200))
        if not low <= value <= high or (key == "replicates" and value != int(value)):
            whole = "a whole number " if key == "replicates" else ""
            raise InputError(f"This is {whole}between {low:g} and {high:g}.", key)
        return value

    def _number_or(self, key: str, default: float) -> float:
        try:
            return self._number(key, default)
        except InputError:
            return default

    def _factors(self, materials: Sequence[Material]):
        if len(materials) > 1:
            yield FactorDraft(
                "material", "Material", tuple(LevelDraft(m.name, material=m) for m in materials)
            )
        lots = [x for x in self.lots if str(x.pk) in self.ticked["lots"]]
        if len(lots) > 1:
            yield FactorDraft("lot", "Lot", tuple(LevelDraft(str(x)[:80], lot=x) for x in lots))
        names: set[str] = {"material", "lot"}
        for row in self.rows:
            if not row["levels"].strip():
                continue
            yield self._factor(row, names)

    def _factor(self, row: dict, names: set[str]) -> FactorDraft:
        setting = row["setting"] if row["kind"] == "setting" else ""
        recipe_kind = self.base_recipe.kind if self.base_recipe else "filament"
        label = (
            FIELDS[recipe_kind][setting].label
            if setting in FIELDS[recipe_kind]
            else KINDS.get(row["kind"], "Factor").capitalize()
        )
        name = (row["name"].strip() or label)[:60]
        if name.lower() in names:
            raise InputError(f"Two factors are called {name}; rename one.", f"f-{row['n']}")
        names.add(name.lower())
        try:
            levels = read_levels(row["kind"], setting, row["levels"].split(";"), recipe_kind)
        except InputError as error:
            raise InputError(error.sentence, f"f-{row['n']}") from None
        if row["kind"] == "setting" and not setting:
            raise InputError("Choose which setting is varied.", f"f-{row['n']}")
        return FactorDraft(row["kind"], name, levels, setting)


def typed_from_shape(shape: Shape, procedures, seed: int) -> QueryDict:
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
        typed.update(
            {
                f"f-{i}-kind": factor.kind,
                f"f-{i}-name": factor.name,
                f"f-{i}-setting": factor.setting,
                f"f-{i}-levels": "; ".join(factor.levels),
            }
        )
    return typed


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
            "scatter": f"{campaign.scatter * 100:g}" if campaign.scatter else "",
            "wanted": f"{campaign.wanted * 100:g}" if campaign.wanted else "",
            "recipe": str(campaign.recipe_id or ""),
            "printer": str(campaign.printer_id or ""),
            "control": str(campaign.reference or ""),
        }
    )
    typed.setlist("procedures", [str(p.pk) for p in campaign.procedures.all()])
    others = 0
    for factor in campaign.factors.prefetch_related("levels"):
        levels = list(factor.levels.all())
        if factor.kind == "material":
            typed.setlist("materials", [str(x.material_id) for x in levels])
        elif factor.kind == "lot":
            typed.setlist("lots", [str(x.lot_id) for x in levels])
        else:
            typed.update(
                {
                    f"f-{others}-kind": factor.kind,
                    f"f-{others}-name": factor.name,
                    f"f-{others}-setting": factor.setting,
                    f"f-{others}-levels": "; ".join(x.label for x in levels),
                }
            )
            others += 1
    if not typed.getlist("materials"):
        typed.setlist(
            "materials",
            list({str(c.material_id) for c in campaign.conditions.all() if c.material_id}),
        )
    return typed
