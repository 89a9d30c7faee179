"""Plans of every kind of factor, for tests; numbers made up."""

from brunt_web.asking.reading import read_levels
from brunt_web.campaigns.actions.plan_campaign import plan_campaign
from brunt_web.campaigns.drafts import FactorDraft, LevelDraft, PlanDraft
from brunt_web.library.actions.add_material import add_material
from brunt_web.library.actions.lots import add_lot, add_printer
from brunt_web.library.actions.standard_procedures import ensure_standard_procedures
from brunt_web.library.models import Lot, Printer
from brunt_web.printing.actions.batches import (
    BatchDraft,
    make_batch,
    mark_printed,
    waiting_for_print,
)
from tests.support.printing import recipe
from tests.support.workshop import NOW


def factor(kind, *levels, setting="", name="", recipe_kind="filament", variants=()):
    """A factor from levels as typed."""
    found = read_levels(kind, setting, levels, recipe_kind, variants)
    return FactorDraft(kind, name or kind.capitalize(), found, setting)


def of_materials(*materials):
    """The material as a factor."""
    levels = tuple(LevelDraft(m.name, material=m) for m in materials)
    return FactorDraft("material", "Material", levels)


class Shop:
    """A workshop with materials, a recipe, a printer, lots and the standard procedures."""

    def __init__(self, user) -> None:
        self.user, self.shop = user, user.seat.workshop
        self.pla = add_material(self.shop, "Fernhall PLA", "pla", density=1240.0)
        self.petg = add_material(self.shop, "Fernhall PETG", "petg", density=1270.0)
        self.recipe = recipe(self.shop)
        self.printer = add_printer(self.shop, "Bed", "filament", 0.22, 0.22)
        self.procedures = ensure_standard_procedures(self.shop)
        self.flat = self.procedures[0]
        for material in (self.pla, self.petg):
            add_lot(
                self.shop,
                material,
                f"spool {material.pk}",
                colour="slate",
                bought=1.0,
                opened_at=NOW,
            )

    def plan(self, *factors, procedures=None, n=2, **more):
        """A campaign of these factors."""
        more.setdefault(
            "material", None if any(f.kind == "material" for f in factors) else self.pla
        )
        draft = PlanDraft(
            question="What acts?",
            factors=factors,
            procedures=procedures or [self.flat],
            replicates=n,
            seed=7,
            recipe=more.pop("recipe", self.recipe),
            printer=self.printer,
            **more,
        )
        return plan_campaign(self.shop, self.user, draft, NOW)

    def print_all(self, campaign, used=None, at=NOW, **more):
        """Fill plates for everything that waits and print them; returns the batches."""
        batches = []
        for procedure in campaign.procedures.filter(campaignprocedure__after__isnull=True):
            for lot in Lot.objects.filter(workshop=self.shop):
                if not waiting_for_print(campaign, procedure, lot).exists():
                    continue
                draft = BatchDraft(Printer.objects.first(), procedure, 3, lot, at=at, **more)
                batches.append(make_batch(campaign, self.user, draft))
        for batch in batches:
            for plate in batch.plates.all():
                mark_printed(plate, self.user, at, used)
        return batches
