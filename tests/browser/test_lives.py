"""A plan that drives the work and specimens with histories, walked in a browser."""

from datetime import timedelta
from uuid import uuid4

from django.utils import timezone

from brunt_web.campaigns.models import Campaign, Specimen, Turn
from brunt_web.library.actions.add_material import add_material
from brunt_web.library.actions.standard_procedures import STARTERS, ensure_starter
from brunt_web.library.models import Rig
from brunt_web.printing.models import Plate
from brunt_web.testing.actions import timed
from brunt_web.testing.actions.record_test import Entry
from brunt_web.testing.models import Test
from tests.support.bench import bench_of
from tests.support.browser import BrowserTestCase
from tests.support.plans import Shop, factor, of_materials
from tests.support.workshop import NOW, campaign, entry, made, put, turn

SIZES = {"width": "10.02 mm", "thickness": "4.01 mm"}


class Lived(BrowserTestCase):
    """A shop with a recipe at 235 °C, a printer and lots."""

    def setUp(self):
        super().setUp()
        self.shop = Shop(self.user)

    def print_everything(self, one):
        """Fill plates by the form for each procedure, and mark each printed as its plate sheet says."""
        self.open(f"/campaigns/{one.pk}/print/")
        self.page.get_by_label("Lot", exact=True).select_option(index=1)
        self.page.get_by_role("button", name="Fill plates").click()
        self.page.wait_for_url("**/batches/*/")
        while self.page.get_by_role("button", name="Printed according to plate sheet").count():
            self.page.get_by_role("button", name="Printed according to plate sheet").first.click()
            self.page.wait_for_load_state("networkidle")

    def choose(self, *materials):
        """Tick materials in the form."""
        for one in materials:
            self.page.locator(f'input[name=materials][value="{one.pk}"]').check()

    def starter(self, method):
        rig = Rig.objects.get_or_create(workshop=self.shop.shop, name="Frame", capacity=900.0)[0]
        known = {s.method: s for s in STARTERS}
        return ensure_starter(self.shop.shop, known[method], {"force": rig, "torque": rig})


class LevelsAct(Lived):
    def test_a_temperature_one_factor_carries_the_right_heat_each(self):
        self.open("/campaigns/shapes/")
        self.page.get_by_role("link", name="Which value of a setting").click()
        self.page.wait_for_url("**/campaigns/new/**")
        self.page.wait_for_load_state("networkidle")
        self.page.keyboard.type("How hot?")
        self.choose(self.shop.pla)
        self.page.get_by_label("Base recipe for all").select_option(index=1)
        self.page.get_by_role("button", name="Create specimens").click()
        self.sees("have their IDs")
        one = Campaign.objects.latest("id")
        self.print_everything(one)
        self.sees("Nozzle temperature")
        heats = {}
        for plate in Plate.objects.all():
            for on in plate.prints.select_related("specimen__condition"):
                heats.setdefault(on.specimen.condition.label, set()).add(
                    plate.used["nozzle_temperature"]["shown"]
                )
        self.assertGreater(len(heats), 3)
        for label, found in heats.items():
            self.assertEqual(len(found), 1)
            self.assertTrue(label.endswith(next(iter(found))), (label, found))
        self.assertEqual(set(one.specimens.values_list("made", flat=True)), {"made"})
        self.assertFalse(any(one.specimens.values_list("deviations", flat=True)))
        self.page.get_by_role("link", name="Plate sheets for printing").click()
        self.sees("Differences from the base")

    def conditions_that_owe(self, one) -> int:
        """How many states of the plan are still outstanding."""
        outstanding = one.specimens.filter(outstanding="state").select_related("condition")
        return len({s.condition.level_words["state"] for s in outstanding})

    def test_wet_and_dry_by_temperature_owe_and_are_brought_there(self):
        one = self.shop.plan(
            factor("condition", "dried", "wet", name="State"),
            factor("setting", "220 °C", "240 °C", setting="nozzle_temperature", name="Nozzle"),
        )
        self.print_everything(one)
        self.assertEqual(Plate.objects.count(), 2)
        self.open(f"/campaigns/{one.pk}/bench/")
        self.sees("outstanding")
        self.assertEqual(set(one.specimens.values_list("outstanding", flat=True)), {"state"})
        for left_over in (1, 0):
            self.open(f"/campaigns/{one.pk}/treat/")
            self.page.get_by_text("Done without a run").first.click()
            self.page.get_by_role("button", name="Mark as done").first.click()
            self.eventually(lambda left=left_over: self.conditions_that_owe(one) == left)
            self.page.wait_for_load_state("networkidle")
        self.open(f"/campaigns/{one.pk}/bench/")
        self.assertEqual(self.page.locator("#f-width").count(), 1)
        self.assertIn(Turn.objects.first().conditioning, ("dried", "wet"))

    def test_slow_and_fast_govern_the_rig_and_a_deviation_is_named(self):
        one = made(
            self.shop.plan(factor("rate", "5 mm/min", "500 mm/min", name="Pulling speed")),
            self.user,
        )
        self.open(f"/campaigns/{one.pk}/bench/")
        self.sees("5 mm/min")
        fast = one.specimens.filter(condition__label__contains="500").first()
        slow = one.specimens.exclude(condition__label__contains="500").first()
        self.open(f"/specimens/{fast.code}/bench/")
        self.sees("500 mm/min")
        put(fast, self.user, entry("500 N"))
        put(slow, self.user, entry("480 N", speed="50 mm/min"))
        self.open(f"/specimens/{slow.code}/")
        self.sees("planned 5 mm/min")
        self.open(f"/campaigns/{one.pk}/compare/")
        self.sees("planned 5 mm/min")


class Several(Lived):
    def test_deflected_then_broken_on_one_rack(self):
        bend, snap = self.starter("cantilever"), self.starter("flexure")
        self.open("/campaigns/new/?shape=rank")
        self.page.keyboard.type("Bend, then break?")
        self.choose(self.shop.pla, self.shop.petg)
        for box in self.page.locator("input[name=procedures]").all():
            box.set_checked(box.get_attribute("value") in (str(bend.pk), str(snap.pk)))
        chain = self.page.get_by_label(f"{snap.name} is done")
        chain.select_option(label=f"on the same specimens, after {bend.name}")
        self.page.get_by_label("Base recipe for all").select_option(index=1)
        self.page.get_by_role("button", name="Create specimens").click()
        self.sees("have their IDs")
        one = made(Campaign.objects.latest("id"), self.user)
        self.assertEqual(one.turns.count(), 2 * one.specimens.count())
        bar = one.specimens.first()
        put(bar, self.user, Entry(uuid4(), NOW, {"deflection": "4.1 mm", **SIZES}, "held"))
        self.open(f"/campaigns/{one.pk}/")
        self.sees("then, on the same specimens")
        drawn = self.page.locator(f'a[href^="/specimens/{bar.code}/"]')
        self.assertEqual(drawn.count(), 2)
        self.open(f"/specimens/{bar.code}/2/bench/")
        self.assertEqual(self.page.locator("#f-width").input_value(), "10.02 mm")
        self.page.locator("#f-force").fill("121 N")
        self.page.keyboard.press("Enter")
        self.stored()
        self.eventually(lambda: Test.objects.filter(turn__specimen=bar).count() == 2)
        self.assertTrue(Specimen.objects.get(pk=bar.pk).spent)
        self.open(f"/specimens/{bar.code}/")
        self.sees(bend.name)

    def test_a_wooden_reference_piece_goes_straight_to_the_bench(self):
        spruce = add_material(self.shop.shop, "Spruce lath", "wood", "stock")
        one = self.shop.plan(of_materials(self.shop.pla, spruce), recipe=self.shop.recipe)
        self.open(f"/campaigns/{one.pk}/print/")
        row = self.page.get_by_role("row").filter(has_text="Spruce lath")
        row.get_by_role("button", name="Mark as made").click()
        self.page.wait_for_load_state("networkidle")
        wood = one.specimens.filter(condition__material=spruce)
        self.assertEqual({s.made_how for s in wood}, {"cut from stock"})
        self.open(f"/campaigns/{one.pk}/bench/")
        self.assertIn(self.heading(), [s.code for s in wood])
        for text in ("5", "2", "300 N"):
            self.type_and_enter(text)
        self.eventually(lambda: Test.objects.count() == 1)


class PutRight(Lived):
    def test_a_swap_by_hand_and_back(self):
        one = campaign(self.user, orientations=("flat",))
        first, other = one.specimens.all()[:2]
        put(first, self.user, entry("500 N"))
        self.open(f"/specimens/{first.code}/")
        self.page.get_by_text("Two labels were swapped").click()
        self.page.get_by_label("With which specimen").fill(other.code)
        self.page.locator("#swap-why").fill("the wrong one was broken")
        self.page.get_by_role("button", name="Swap").click()
        self.sees("the wrong one was broken")
        self.assertEqual(Test.objects.get().turn.specimen, other)
        self.assertEqual(turn(first).state, "waiting")
        self.page.get_by_role("button", name="Undo").first.click()
        self.page.wait_for_load_state("networkidle")
        self.assertEqual(Test.objects.get().turn.specimen, first)

    def test_a_running_clock_survives_a_change_of_the_plan(self):
        one = bench_of(self.user, "creep")
        bar = one.specimens.first()
        timed.start_clock(turn(bar), self.user, timezone.now() - timedelta(minutes=3))
        self.open(f"/campaigns/{one.pk}/ask/edit/")
        self.page.get_by_label("How many", exact=False).fill("2")
        self.page.get_by_role("button", name="Regenerate specimens").or_(
            self.page.get_by_role("button", name="Change the plan")
        ).first.click()
        self.sees("already have something in their history")
        self.assertEqual(turn(bar).state, "running")
        self.open(f"/specimens/{bar.code}/")
        self.sees("clock started")

    def test_a_refused_entry_is_set_aside_and_the_rest_goes_on(self):
        one = bench_of(self.user, "tension")
        codes = [s.code for s in one.specimens.all()[:2]]
        self.open(f"/campaigns/{one.pk}/")
        fields = [["force", "500 N"], ["width", "5"], ["thickness", "2"], ["outcome", "broke"]]
        self.page.evaluate(
            """([rows, user]) => localStorage.setItem('brunt-outbox', JSON.stringify(
                rows.map(([code, fields]) => ({code, url: `/specimens/${code}/bench/`, user,
                key: fields.at(-1)[1], fields, at: Date.now(), sent: false, waits: true}))))""",
            [
                [[c, [*fields, ["key", str(uuid4())]]] for c in ("Z9-ZZZ", codes[0])],
                str(self.user.pk),
            ],
        )
        self.page.reload()
        self.sees("Z9-ZZZ was not saved", "#outbox")
        self.sees("500 N", "#outbox")
        self.eventually(lambda: Test.objects.count() == 1)
        self.assertEqual(Test.objects.get().turn.code, codes[0])
        self.page.reload()
        self.sees("Z9-ZZZ was not saved", "#outbox")
