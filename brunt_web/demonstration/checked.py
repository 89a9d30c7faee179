"""The check standard: two bars of one spool on every pull day of the season; worn jaws in the middle, then new ones."""

from collections.abc import Sequence
from datetime import datetime, timedelta
from random import Random
from uuid import UUID

from django.contrib.auth.models import User

from brunt_web.campaigns.actions.make import mark_as_made
from brunt_web.campaigns.actions.plan_campaign import plan_campaign
from brunt_web.campaigns.drafts import of_materials
from brunt_web.campaigns.models import Turn
from brunt_web.campaigns.queries import in_test_order
from brunt_web.checks.actions.check_standards import begin_phase, make_check_standard
from brunt_web.demonstration.scenario import MATERIALS
from brunt_web.demonstration.workshop import Shop
from brunt_web.library.models import Material, Procedure
from brunt_web.testing.actions.record_test import Entry, record_test

CHECK = "Does pull frame A still read the same?"
# Days ago, and how much of the usual it read: all invented.
DAYS = (151, 146, 139, 133, 126, 119, 112, 104, 97, 90, 83, 75, 68, 61, 47, 36, 26, 12)
WORN, MENDED = range(9, 14), 47


def check_bars(shop: Shop, materials: Sequence[Material], procedure: Procedure) -> None:
    """Two bars a day of each, tested by either of the two; the jaws slip a little from the tenth day on."""
    random = Random(41)
    count = 2 * len(DAYS)
    draft = of_materials(CHECK, list(materials), [procedure], count, 41, recipe=shop.recipe)
    campaign = plan_campaign(shop.workshop, shop.lead, draft, shop.now - timedelta(days=155))
    made = shop.now - timedelta(days=153)
    for condition in campaign.conditions.all():
        mark_as_made(campaign, condition, shop.lead, made, "one long print")
    waiting = in_test_order(campaign).select_related("condition__material", "procedure__rig", "campaign", "specimen")  # fmt: skip
    turns = {m.name: list(waiting.filter(condition__material=m)) for m in materials}
    usual = {m.name: m.flat[0] for m in MATERIALS}
    for i, ago in enumerate(DAYS):
        day, by = random.gauss(1.0, 0.007), random.choice((shop.lead, shop.volunteer))
        for k in range(2 * len(materials)):
            name = materials[k % len(materials)].name
            mean = usual[name] * day * (0.945 if i in WORN else 1.0)
            turn = turns[name][2 * i + k // len(materials)]
            _pull(random, turn, by, mean, shop.now - timedelta(days=ago, minutes=40 - 7 * k))
    for material in materials:
        name = f"{material.name}, pulled flat"
        bar = make_check_standard(shop.workshop, shop.lead, material, procedure, name)
        since = (shop.now - timedelta(days=MENDED)).date()
        begin_phase(bar, shop.lead, since, "new jaws in pull frame A")


def _pull(random: Random, turn: Turn, by: User, mean: float, at: datetime) -> None:
    """One bar, sizes and load as read."""
    width, thick = random.gauss(5.02, 0.02), random.gauss(2.01, 0.015)
    load = mean * random.gauss(1.0, 0.008) * width * thick
    inputs = {"force": f"{load:.0f} N", "width": f"{width:.2f}", "thickness": f"{thick:.2f}"}
    key = UUID(int=random.getrandbits(128), version=4)
    record_test(turn, by, Entry(key, at, inputs, "broke", place="gauge"))
