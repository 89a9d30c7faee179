"""What the invented workshop prints with: printers, recipes, spools; and a temperature series half printed."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from random import Random
from uuid import UUID

from django.contrib.auth.models import User

from brunt_web.asking.guard import campaign_confounders
from brunt_web.asking.reading import read_levels
from brunt_web.campaigns.actions.change_plan import accept_confounder
from brunt_web.campaigns.actions.make import mark_as_made
from brunt_web.campaigns.actions.plan_campaign import plan_campaign
from brunt_web.campaigns.drafts import FactorDraft, PlanDraft
from brunt_web.campaigns.models import Campaign, Specimen
from brunt_web.campaigns.queries import ready
from brunt_web.campaigns.resolved import Recipes
from brunt_web.demonstration.scenario import (
    ONE_FACTOR,
    ONE_FACTOR_LEVELS,
    RECIPE,
    RESIN_RECIPE,
    SPOOLS,
    THIN,
)
from brunt_web.library.actions.lots import add_lot, add_printer, log_drying
from brunt_web.library.actions.recipes import read_settings, save_recipe
from brunt_web.library.models import Lot, Material, Printer, Procedure, Recipe
from brunt_web.people.models import Workshop
from brunt_web.printing.actions.batches import (
    BatchDraft,
    Used,
    make_batch,
    mark_printed,
    note_print,
    reprint,
    waiting_for_print,
)
from brunt_web.printing.actions.observe import PrintObservation, grade, measure_print
from brunt_web.printing.models import Batch, Print
from brunt_web.testing.actions.record_test import Entry, record_test


def furnish(
    workshop: Workshop, by: User, materials: dict[str, Material], now: datetime
) -> tuple[Printer, Recipe]:
    """Printers, recipes and spools."""
    printer = add_printer(workshop, "Bench printer", "filament", 0.22, 0.22)
    add_printer(workshop, "Vat printer", "resin", 0.143, 0.089)
    solid = save_recipe(workshop, "Solid coupons", "filament", read_settings("filament", RECIPE))
    save_recipe(workshop, "Everyday parts", "filament", read_settings("filament", RECIPE | THIN))
    save_recipe(workshop, "Tough resin", "resin", read_settings("resin", RESIN_RECIPE))
    for spool in SPOOLS:
        lot = add_lot(
            workshop,
            materials[spool.material],
            spool.name,
            colour=spool.colour,
            bought=1.0,
            remaining=spool.left,
            price=spool.price,
            opened_at=now - timedelta(days=9),
        )
        if spool.dried_hours_ago is not None:
            log_drying(
                lot,
                by,
                now - timedelta(hours=spool.dried_hours_ago),
                temperature=343.15,
                duration=8 * 3600.0,
                before=1.042,
                after=1.0385,
            )
    return printer, solid


@dataclass(frozen=True)
class Shop:
    """What every campaign of the demo starts from."""

    workshop: Workshop
    lead: User
    volunteer: User
    printer: Printer
    recipe: Recipe
    now: datetime


def make_all(shop: Shop, campaign: Campaign, at: datetime) -> None:
    """Print a campaign material by material; what has no lot was printed elsewhere."""
    heads = campaign.procedures.filter(campaignprocedure__after__isnull=True)
    for condition in campaign.conditions.all():
        lot = Lot.objects.filter(material=condition.material).first()
        if lot is None:
            mark_as_made(campaign, condition, shop.volunteer, at, "printed elsewhere")
            continue
        for procedure in heads.order_by("campaignprocedure__position"):
            if not waiting_for_print(campaign, procedure, lot).exists():
                continue
            filled = at - timedelta(hours=3)
            draft = BatchDraft(shop.printer, procedure, seed=11, lot=lot, at=filled)
            for plate in make_batch(campaign, shop.lead, draft).plates.all():
                mark_printed(plate, shop.lead, at)


def one_factor(shop: Shop, petg: Material, procedure: Procedure) -> Campaign:
    """The temperature series: two plates of each heat, one of them printed cooler than its slip says."""
    levels = read_levels("setting", "nozzle_temperature", ONE_FACTOR_LEVELS)
    factor = FactorDraft("setting", "Nozzle temperature", levels, "nozzle_temperature")
    draft = PlanDraft(
        question=ONE_FACTOR,
        factors=(factor,),
        procedures=[procedure],
        replicates=6,
        seed=9,
        shape="one_factor",
        material=petg,
        recipe=shop.recipe,
        printer=shop.printer,
        wanted=0.15,
        loss=0.1,
        control="Nozzle temperature 235 °C",
    )
    campaign = plan_campaign(shop.workshop, shop.lead, draft, shop.now - timedelta(days=4))
    lot = Lot.objects.get(material=petg)
    filled = shop.now - timedelta(days=2, hours=2)
    wanted = BatchDraft(shop.printer, procedure, seed=21, lot=lot, each=2, at=filled)
    batch = make_batch(campaign, shop.lead, wanted)
    _print(shop, batch)
    _pull(shop, campaign)
    cool = next((f for f in campaign_confounders(campaign) if "250 °C" in f.sentence), None)
    if cool:
        why = "the plate came out well and is in the middle of the range; counted at its own heat later"
        accept_confounder(campaign, shop.lead, cool.key, cool.sentence, why)
    return campaign


def _print(shop: Shop, batch: Batch) -> None:
    """All plates but two; one at another heat, one bar off the bed and printed again, some measured."""
    plates = list(batch.plates.all())
    at = shop.now - timedelta(days=2)
    wrong = next(p for p in plates if p.settings["nozzle_temperature"]["shown"] == "255 °C")
    others = [p for p in plates if p != wrong]
    for plate in [wrong, *others[:-2]]:
        at += timedelta(hours=2)
        used = None
        if plate == wrong:
            cooler = {"text": "250 °C", "value": 523.15, "shown": "250 °C"}
            settings = {**plate.settings, "nozzle_temperature": cooler}
            used = Used(settings, "read off the printer's display")
        mark_printed(plate, shop.lead, at, used)
    printed = Print.objects.filter(plate__batch=batch, plate__printed_at__isnull=False)
    prints = list(
        printed.select_related("specimen__campaign", "specimen__procedure", "specimen__condition")
    )
    note_print(
        prints[3],
        shop.lead,
        at,
        True,
        ["lifted_corners", "warping"],
        "came off the bed at half height",
    )
    note_print(prints[7], shop.lead, at, False, ["stringing"], "")
    reprint(prints[3].specimen, shop.lead, at)
    for aspect, score, measured, note in (
        ("stringing", 3, "", "strings between the bars above 245 °C"),
        ("warp", 2, "", "one bar lifted"),
        ("bridge", 4, "0.4 mm", ""),
    ):
        grade(batch, shop.lead, PrintObservation(aspect, score, measured, note))
    _measure(shop, batch.campaign, [p.specimen for p in prints[:9] if not p.failed])


def _measure(shop: Shop, campaign: Campaign, specimens: Sequence[Specimen]) -> None:
    random, recipes = Random(17), Recipes.of(campaign)
    for i, specimen in enumerate(specimens):
        light = 0.86 if i == 4 else random.gauss(0.985, 0.006)
        grams = specimen.geometry.volume * 1.27e-3 * light
        texts = {
            "width": f"{random.gauss(5.03, 0.03):.2f} {random.gauss(5.03, 0.03):.2f}",
            "thickness": f"{random.gauss(2.03, 0.02):.2f}",
            "mass": f"{grams:.3f}",
        }
        plan = recipes.resolved(specimen.condition, specimen.procedure)
        measure_print(specimen, shop.volunteer, shop.now - timedelta(hours=9), texts, plan)


# Invented: layer adhesion in MPa by heat.
_BY_HEAT = {"225 °C": 26.5, "235 °C": 31.5, "245 °C": 34.2, "255 °C": 35.0}


def _pull(shop: Shop, campaign: Campaign) -> None:
    """Most of what is printed is pulled, in test order."""
    random, at = Random(29), shop.now - timedelta(hours=7)
    turns = list(
        ready(campaign, shop.now).select_related(
            "specimen", "procedure__rig", "condition__material", "campaign"
        )
    )
    for turn in turns[:-3]:
        at += timedelta(seconds=random.randint(80, 170))
        heat = turn.specimen.made_as.settings["nozzle_temperature"]["shown"]
        mean = _BY_HEAT.get(heat, 34.8)
        width, thickness = random.gauss(5.02, 0.02), random.gauss(2.02, 0.015)
        load = random.gauss(mean, 0.06 * mean) * width * thickness
        entry = Entry(
            key=UUID(int=random.getrandbits(128), version=4),
            at=at,
            inputs={
                "force": f"{load:.0f} N",
                "width": f"{width:.2f}",
                "thickness": f"{thickness:.2f}",
            },
            outcome="broke",
            place="gauge",
        )
        record_test(turn, shop.volunteer, entry)
