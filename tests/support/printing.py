"""Printers, recipes, lots and a printed batch for tests; numbers made up."""

from decimal import Decimal

from brunt_web.library.actions.lots import add_lot, add_printer
from brunt_web.library.actions.recipes import read_settings, save_recipe
from brunt_web.printing.actions.batches import BatchDraft, make_batch, mark_printed
from tests.support.workshop import NOW, campaign

SETTINGS = {
    "nozzle_temperature": "215",
    "walls": "4",
    "infill": "100",
    "speed": "50 mm/s",
    "line_width": "0.45",
    "layer_height": "0.2",
}


def recipe(shop, name="Coupons", **changed):
    """A filament recipe."""
    return save_recipe(shop, name, "filament", read_settings("filament", SETTINGS | changed))


def batch(user, replicates=3, printed=True):
    """A campaign of two materials with one batch of the first, printed."""
    one = campaign(user, replicates=replicates, orientations=("flat",), printed=False)
    shop = user.seat.workshop
    material = shop.materials.get(name="Fernhall PLA")
    material.density = 1240.0
    material.save()
    lot = add_lot(
        shop,
        material,
        "spool 1",
        colour="slate",
        bought=1.0,
        price=Decimal(20),
        opened_at=NOW,
    )
    printer = add_printer(shop, "Bed", "filament", 0.22, 0.22)
    one.recipe = recipe(shop)
    one.save()
    made = make_batch(one, user, BatchDraft(printer, one.procedures.get(), 4, lot))
    if printed:
        for plate in made.plates.all():
            mark_printed(plate, user, NOW)
    return made
