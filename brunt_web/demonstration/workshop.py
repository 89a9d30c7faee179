"""What the invented workshop prints with: printers, recipes, spools; and a sweep half printed."""

from datetime import datetime, timedelta
from random import Random

from brunt_web.campaigns.actions.plan_campaign import plan_campaign
from brunt_web.campaigns.drafts import FactorDraft, PlanDraft, read_levels
from brunt_web.campaigns.models import Campaign
from brunt_web.demonstration.scenario import RECIPE, RESIN_RECIPE, SPOOLS, SWEEP, SWEEP_LEVELS, THIN
from brunt_web.library.actions.lots import add_lot, add_printer, log_drying
from brunt_web.library.actions.recipes import read_settings, save_recipe
from brunt_web.library.models import Lot, Material, Printer, Procedure, Recipe
from brunt_web.people.models import Workshop
from brunt_web.printing.actions.batches import (
    BatchDraft,
    make_batch,
    mark_printed,
    note_print,
    reprint,
)
from brunt_web.printing.actions.observe import Observation, grade, measure_print
from brunt_web.printing.models import Batch
from brunt_web.testing.actions.record_test import measure


def furnish(
    workshop: Workshop, by, materials: dict[str, Material], now: datetime
) -> tuple[Printer, Recipe]:
    """Printers, recipes and spools."""
    printer = add_printer(workshop, "Bench printer", "filament", "220 mm", "220 mm")
    add_printer(workshop, "Vat printer", "resin", "143 mm", "89 mm")
    solid = save_recipe(workshop, "Solid coupons", "filament", read_settings("filament", RECIPE)[0])
    save_recipe(workshop, "Everyday parts", "filament", read_settings("filament", RECIPE | THIN)[0])
    save_recipe(workshop, "Tough resin", "resin", read_settings("resin", RESIN_RECIPE)[0])
    for spool in SPOOLS:
        lot = add_lot(
            workshop,
            materials[spool.material],
            {
                "name": spool.name,
                "colour": spool.colour,
                "bought": "1 kg",
                "remaining": spool.left,
                "price": spool.price,
                "opened": "1",
            },
            now - timedelta(days=9),
        )
        if spool.dried_hours_ago is not None:
            log_drying(
                lot,
                by,
                {
                    "temperature": "70 °C",
                    "duration": "8 h",
                    "before": "1042 g",
                    "after": "1038.5 g",
                },
                now - timedelta(hours=spool.dried_hours_ago),
            )
    return printer, solid


def sweep(
    workshop: Workshop,
    by,
    petg: Material,
    procedure: Procedure,
    printer: Printer,
    recipe: Recipe,
    now: datetime,
) -> Campaign:
    """The temperature sweep: planned, one batch printed, graded and partly measured."""
    levels = read_levels("setting", "nozzle_temperature", SWEEP_LEVELS)
    factor = FactorDraft("setting", "Nozzle temperature", levels, "nozzle_temperature")
    draft = PlanDraft(
        SWEEP,
        (factor,),
        [procedure],
        6,
        9,
        shape="sweep",
        material=petg,
        recipe=recipe,
        printer=printer,
        wanted=0.15,
        loss=0.1,
        control="Nozzle temperature 235 °C",
    )
    campaign = plan_campaign(workshop, by, draft)
    lot = Lot.objects.get(material=petg)
    batch = make_batch(campaign, by, BatchDraft(printer, procedure, 21, recipe, lot, most=16))
    _print(batch, by, now)
    return campaign


def _print(batch: Batch, by, now: datetime) -> None:
    """One bar came off the bed and is printed anew; the first nine are measured."""
    mark_printed(batch, now - timedelta(hours=5))
    made_of = ("specimen__campaign", "specimen__procedure", "specimen__condition")
    prints = list(batch.prints.select_related(*made_of).order_by("specimen__run_order"))
    note_print(prints[3], True, ["lifted_corners", "warping"], "came off the bed at half height")
    note_print(prints[7], False, ["stringing"], "")
    prints[3].specimen.print = prints[3]
    reprint(prints[3].specimen)
    for aspect, score, measured, note in (
        ("stringing", 3, "", "hairs between the bars above 245 °C"),
        ("warp", 2, "", "one bar lifted"),
        ("bridge", 4, "0.4 mm", ""),
    ):
        grade(batch, by, Observation(aspect, score, measured, note))
    _measure(by, [p.specimen for p in prints[:9] if not p.failed], now)


def _measure(by, specimens, now: datetime) -> None:
    random = Random(17)
    for i, specimen in enumerate(specimens):
        light = 0.86 if i == 4 else random.gauss(0.985, 0.006)
        grams = specimen.procedure.geometry.volume * 1.27e-3 * light
        measure_print(
            specimen,
            by,
            now,
            {
                "width": f"{random.gauss(5.03, 0.03):.2f} {random.gauss(5.03, 0.03):.2f}",
                "thickness": f"{random.gauss(2.03, 0.02):.2f}",
                "mass": f"{grams:.3f}",
            },
            measure,
        )
