"""The guard of the plan: a plan of every kind of factor is walked from Ask to Compare by real actions.

It fails when a level was not honoured where it acts, or a deviation from it is not named.
"""

from uuid import uuid4

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.utils import timezone

from brunt_core.errors import InputError
from brunt_core.planning.shapes import SHAPES
from brunt_core.specimens.types import make_type
from brunt_web.asking.guard import campaign_confounders
from brunt_web.campaigns.actions.make import carry_out
from brunt_web.campaigns.drafts import KINDS
from brunt_web.campaigns.models import Campaign, Specimen, Turn
from brunt_web.campaigns.queries import in_test_order, ready
from brunt_web.library.actions.lots import add_lot, log_drying
from brunt_web.library.actions.variants import save_variant
from brunt_web.library.models import Lot
from brunt_web.printing.actions.batches import BatchDraft, Used, correct_used, make_batch
from brunt_web.printing.actions.observe import judge_sizes
from brunt_web.printing.models import Plate, Print
from brunt_web.testing.actions.record_test import Entry
from tests.support.plans import Shop, factor, of_materials
from tests.support.printing import recipe
from tests.support.workshop import BACKEND, NOW, entry, person, put, turn


class Acting(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.shop = Shop(cls.user)

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def said(self, one) -> str:
        return " ".join(f.sentence for f in campaign_confounders(one))


class Settings(Acting):
    def one_factor(self, **more):
        heats = factor(
            "setting", "240", "260", "280", setting="nozzle_temperature", name="Nozzle temperature"
        )
        return self.shop.plan(heats, material=self.shop.petg, n=4, **more)

    def test_each_heat_on_plates_of_its_own_and_printed_right(self):
        one = self.one_factor()
        self.shop.print_all(one, each=2)
        self.assertEqual(Plate.objects.count(), 6)
        for plate in Plate.objects.all():
            heats = {p.specimen.condition.label[-6:] for p in plate.prints.all()}
            self.assertEqual(heats, {plate.settings["nozzle_temperature"]["shown"]})
        self.assertEqual(Specimen.objects.exclude(deviations=[]).count(), 0)
        self.assertNotIn("Plate", self.said(one))
        slip = self.client.get(f"/batches/{Plate.objects.first().batch_id}/plate-sheet/")
        self.assertContains(slip, "Nozzle temperature: 240 °C")
        self.assertContains(slip, "base 215 °C")

    def test_printed_at_another_heat_is_named_everywhere_and_can_be_accepted(self):
        one = self.one_factor()
        cold = {"nozzle_temperature": {"value": 508.15, "shown": "235 °C"}}
        self.shop.print_all(one, Used(cold, "read off the display"))
        said = self.said(one)
        self.assertIn("planned 280 °C, printed at 235 °C", said)
        self.assertIn("Plate and condition are confounded", said)
        for page in ("", "ask/", "compare/"):
            self.assertContains(
                self.client.get(f"/campaigns/{one.pk}/{page}"), "planned 280 °C, printed at 235 °C"
            )
        finding = next(f for f in campaign_confounders(one) if "280 °C" in f.sentence)
        form = {"key": finding.key, "reason": "counted at its own heat"}
        self.client.post(f"/campaigns/{one.pk}/ask/accept/", form)
        self.assertContains(
            self.client.get(f"/campaigns/{one.pk}/compare/"), "Accepted: counted at its own heat"
        )
        correct_used(Plate.objects.first(), self.user, NOW, None)
        self.assertLess(Specimen.objects.exclude(deviations=[]).count(), 12)

    def test_gcode_of_a_plate_is_read_against_its_slip(self):
        one = self.one_factor()
        lot = Lot.objects.get(material=self.shop.petg)
        batch = make_batch(one, self.user, BatchDraft(self.shop.printer, self.shop.flat, 2, lot))
        plate = batch.plates.first()
        file = SimpleUploadedFile("a.gcode", b"M104 S200\nG1 X1 E1 F3000\nG1 X9 E2\n")
        self.client.post(f"/batches/{batch.pk}/plates/{plate.number}/printed/", {"gcode": file})
        bar = plate.prints.first().specimen
        self.assertIn("printed at 200 °C", Specimen.objects.get(pk=bar.pk).deviations[0].says)
        bad = SimpleUploadedFile("a.gcode", b"hello\n" * 30)
        second = f"/batches/{batch.pk}/plates/{plate.number + 1}/printed/"
        self.assertContains(
            self.client.post(second, {"gcode": bad}), "not a G-code", status_code=422
        )

    def test_walls_by_infill_masses_and_lots_follow_each_objects_own_recipe(self):
        one = self.shop.plan(
            factor("setting", "2", "4", setting="walls", name="Walls"),
            factor("setting", "20 %", "60 %", setting="infill", name="Infill"),
            procedures=[p for p in self.shop.procedures if p.orientation == "flat"],
        )
        self.assertEqual(len(self.shop.print_all(one)[0].plates.all()), 4)
        two = self.shop.plan(factor("setting", "2", "4", setting="walls", name="Walls"))
        batch = self.shop.print_all(two, per_object=True)[0]
        self.assertEqual(batch.plates.count(), 1)
        self.assertContains(self.client.get(f"/batches/{batch.pk}/plate-sheet/"), "Walls 2")
        from brunt_core.specimens.solid import expected_mass
        from brunt_web.campaigns.resolved import Recipes
        from brunt_web.campaigns.resolved_parts import filling_of_settings

        masses = set()
        for bar in one.specimens.all():
            plan = Recipes.of(one).resolved(bar.condition, bar.procedure)
            mass = expected_mass(bar.geometry, "flat", filling_of_settings(plan.settings), 1240.0)[
                0
            ]
            masses.add(round(mass * 1e3, 4))
            self.assertEqual(judge_sizes(bar, {"mass": mass * 0.98}, plan).flags, [])
            self.assertTrue(judge_sizes(bar, {"mass": mass * 0.85}, plan).flags)
        self.assertGreaterEqual(len(masses), 3)

    def test_material_temperatures_may_differ_walls_may_not(self):
        own = recipe(self.shop.shop, "For PETG", nozzle_temperature="245", walls="2")
        one = self.shop.plan(
            of_materials(self.shop.pla, self.shop.petg),
            base_recipes={(self.shop.petg.pk, None): own},
        )
        said = self.said(one)
        self.assertIn("Walls differs and is not a factor", said)
        self.assertNotIn("temperature", said)
        self.shop.print_all(one)
        self.assertEqual(Specimen.objects.exclude(deviations=[]).count(), 0)
        hot = Specimen.objects.filter(condition__material=self.shop.petg).first()
        self.assertEqual(hot.made_as.settings["nozzle_temperature"]["shown"], "245 °C")

    def test_a_procedure_may_start_from_its_own_recipe(self):
        light = recipe(self.shop.shop, "Light", infill="30 %")
        flat, upright = self.shop.procedures[:2]
        one = self.shop.plan(
            of_materials(self.shop.pla, self.shop.petg),
            procedures=[flat, upright],
            base_recipes={(None, upright.pk): light},
        )
        self.shop.print_all(one)
        fills = {
            (s.procedure_id, s.made_as.settings["infill"]["shown"]) for s in one.specimens.all()
        }
        self.assertEqual(fills, {(flat.pk, "100 %"), (upright.pk, "30 %")})
        self.assertEqual(self.said(one), "")

    def test_a_level_the_recipe_cannot_take_is_one_sentence(self):
        resin = recipe(self.shop.shop, "Plain")
        heats = factor("setting", "2 s", "3 s", setting="exposure", recipe_kind="resin")
        with self.assertRaisesRegex(InputError, "has no exposure"):
            self.shop.plan(heats, recipe=resin)
        self.assertEqual(Campaign.objects.count(), 0)


class Kinds(Acting):
    def test_material_and_lot_govern_the_batch(self):
        more = add_lot(self.shop.shop, self.shop.pla, "spool 9", colour="red")
        lots = list(Lot.objects.filter(material=self.shop.pla))
        from brunt_web.campaigns.drafts import FactorDraft, LevelDraft

        by_lot = FactorDraft("lot", "Lot", tuple(LevelDraft(str(x), lot=x) for x in lots))
        one = self.shop.plan(by_lot)
        with self.assertRaisesRegex(InputError, "name their lot"):
            make_batch(one, self.user, BatchDraft(self.shop.printer, self.shop.flat, 1))
        batch = make_batch(one, self.user, BatchDraft(self.shop.printer, self.shop.flat, 1, more))
        self.assertEqual(
            {p.specimen.condition.lot for p in Print.objects.filter(plate__batch=batch)}, {more}
        )
        with self.assertRaisesRegex(InputError, "waits to be printed"):
            make_batch(one, self.user, BatchDraft(self.shop.printer, self.shop.flat, 1, more))

    def test_dryness_is_checked_against_the_lots_log(self):
        nylon = self.shop.pla
        nylon.family = "pa12"
        nylon.save()
        lot = Lot.objects.get(material=nylon)
        log_drying(lot, self.user, NOW, temperature=343.15, duration=12 * 3600)
        one = self.shop.plan(
            factor("drying", "as opened", "dried 70 °C, 12 h", name="Dryness"),
            factor("setting", "240", "260", setting="nozzle_temperature", name="Heat"),
        )
        self.shop.print_all(one, at=NOW)
        self.assertEqual(Plate.objects.count(), 4)
        wet = one.specimens.filter(condition__label="as opened").first()
        dry = one.specimens.filter(condition__label__startswith="dried").first()
        self.assertIn("planned as it is, printed dried", wet.deviations[0].says)
        self.assertEqual(dry.deviations, ())

    def test_rate_governs_the_rig_the_key_and_the_order_and_is_checked(self):
        one = self.shop.plan(factor("rate", "5 mm/min", "500 mm/min", name="Speed"), n=3)
        self.shop.print_all(one)
        order = list(in_test_order(one).values_list("speed", flat=True))
        self.assertEqual(order, sorted(order))
        fast = Turn.objects.filter(campaign=one).order_by("-speed").first()
        self.assertIn("500 mm/min", turn(fast.specimen).comparability_key)
        page = self.client.get(f"/specimens/{fast.specimen.code}/bench/")
        self.assertContains(page, '<strong class="lit">500 mm/min</strong>')
        put(fast.specimen, self.user, entry(speed="5 mm/min"))
        said = Specimen.objects.get(pk=fast.specimen_id).deviations[0].says
        self.assertEqual(said, "Speed: planned 500 mm/min, tested at 5 mm/min")
        for bar in one.specimens.filter(spent=False):
            put(bar, self.user, entry())
        compare = self.client.get(f"/campaigns/{one.pk}/compare/").content.decode()
        self.assertIn("not tested alike, which is either the question", compare)
        self.assertNotIn("Speed differs and is not a factor", compare)

    def test_state_stands_in_the_key_and_differs_only_as_a_factor(self):
        one = self.shop.plan(factor("condition", "room", "soaked 7 d", name="State at test"))
        self.shop.print_all(one)
        wet = list(one.specimens.filter(outstanding="state"))
        carry_out(wet, self.user, NOW, ("state", "soaked 7 d"))
        for bar in one.specimens.all():
            put(bar, self.user, entry())
        self.assertIn("soaked 7 d", turn(wet[0]).comparability_key)
        self.assertNotIn("State differs", self.said(one))

    def test_orientation_and_design_govern_plate_and_geometry(self):
        one = self.shop.plan(factor("orientation", "flat", "edge", "upright"))
        batch = self.shop.print_all(one)[0]
        self.assertEqual(batch.plates.count(), 3)
        heights = set()
        from brunt_core.specimens.mesh import standing_size

        for bar in one.specimens.all():
            heights.add(standing_size(bar.geometry, bar.orientation)[2])
            self.assertIn(bar.condition.requirements.orientation, turn(bar).comparability_key)
        self.assertEqual(len(heights), 3)
        own = save_variant(
            self.shop.shop,
            "Wide bar",
            make_type("own", "Wide bar", "bar", {"overall": 75, "width": 12, "thickness": 2}),
        )
        two = self.shop.plan(
            factor("design", "Tension bar 1BA", "Wide bar", name="Design", variants=[own])
        )
        self.assertEqual(
            {s.geometry.name for s in two.specimens.all()}, {"Tension bar 1BA", "Wide bar"}
        )
        wide = two.specimens.get(condition__label="Wide bar", replicate=1)
        self.shop.print_all(two)
        self.assertEqual(turn(wide).geometry.nominal, {"width": 12.0, "thickness": 2.0})
        self.assertEqual(self.client.get(f"/specimens/{wide.code}/print.stl").status_code, 200)
        with self.assertRaisesRegex(InputError, "no specimen type called"):
            factor("design", "thicker web", "as drawn")

    def test_anything_else_is_named_and_ticked(self):
        one = self.shop.plan(factor("other", "as drawn", "thicker web", name="Design"))
        self.shop.print_all(one)
        bar = one.specimens.filter(condition__label="Design thicker web").first()
        self.assertContains(self.client.get(f"/campaigns/{one.pk}/labels/"), "Design: thicker web")
        page = self.client.get(f"/specimens/{bar.code}/bench/")
        self.assertContains(page, "Design: <strong>thicker web</strong>")
        form = {
            "force": "500",
            "width": "5",
            "thickness": "2",
            "asks_ticks": "1",
            "key": str(uuid4()),
        }
        self.client.post(f"/specimens/{bar.code}/bench/", form, headers={"X-Part": "outbox"})
        said = Specimen.objects.get(pk=bar.pk).deviations[0].says
        self.assertEqual(said, "Design: planned thicker web, at the bench not confirmed")
        other = one.specimens.filter(spent=False).first()
        form |= {"ticked": "Design", "key": str(uuid4())}
        self.client.post(f"/specimens/{other.code}/bench/", form, headers={"X-Part": "outbox"})
        self.assertEqual(Specimen.objects.get(pk=other.pk).deviations, ())

    def test_every_kind_there_is_has_been_walked_here(self):
        walked = {"material", "lot", "setting", "drying", "orientation", "design", "treatment"}
        self.assertEqual(set(KINDS), walked | {"rate", "condition", "age", "other"})


class Shapes(Acting):
    """Every shape of question, planned from its own proposal through the form, made, tested, compared."""

    def form(self, shape) -> dict:
        page = {
            "shape": shape.key,
            "question": shape.example,
            "replicates": "2",
            "recipe": self.shop.recipe.pk,
            "printer": self.shop.printer.pk,
            "materials": [self.shop.pla.pk, self.shop.petg.pk],
            "procedures": [
                p.pk for p in self.shop.procedures if p.orientation in shape.orientations
            ],
        }
        rows = [f for f in shape.factors if f.kind not in ("material", "lot")]
        for i, f in enumerate(rows):
            page |= {
                f"f-{i}-kind": f.kind,
                f"f-{i}-name": f.name,
                f"f-{i}-setting": f.setting,
                f"f-{i}-levels": "; ".join(f.levels),
            }
        if not any(f.kind == "material" for f in shape.factors):
            page["materials"] = [self.shop.pla.pk]
        if shape.key == "resin":
            page["recipe"] = ""
        if shape.key == "feedstock":
            add_lot(self.shop.shop, self.shop.pla, "reground")
            page["lots"] = [x.pk for x in Lot.objects.filter(material=self.shop.pla)]
        return page

    def test_from_ask_to_compare(self):
        for shape in SHAPES.values():
            with self.subTest(shape.key):
                form = self.form(shape)
                if shape.key == "resin":
                    form |= {"f-0-setting": "cooling", "f-0-levels": "0; 100"}
                answer = self.client.post("/campaigns/new/", form)
                self.assertEqual(answer.status_code, 302, answer.content.decode()[:0] or shape.key)
                one = Campaign.objects.latest("id")
                self.walk(one)

    def walk(self, one):
        self.client.post(f"/campaigns/{one.pk}/made/", {"how": "printed elsewhere"})
        for kind in ("treatment", "state"):
            for bar in one.specimens.filter(outstanding=kind):
                outstanding_steps = [(o.kind, o.what) for o in bar.outstanding_steps]
                carry_out([bar], self.user, timezone.now(), outstanding_steps[0])
        now = timezone.now()
        waiting = list(ready(one, now).select_related("specimen"))
        for each in waiting:
            put(each.specimen, self.user, Entry(uuid4(), now, self.typed(each)), step=each.step)
        left = one.turns.filter(state="waiting").select_related("specimen")
        for each in left:
            self.assertTrue(each.specimen.ready_at, each.specimen.outstanding_steps)
        self.assertEqual(Specimen.objects.filter(campaign=one).exclude(deviations=[]).count(), 0)
        for page in ("", "ask/", "print/", "treat/", "compare/"):
            self.assertEqual(self.client.get(f"/campaigns/{one.pk}/{page}").status_code, 200)

    def typed(self, each) -> dict[str, str]:
        return {"force": "500 N", "width": "5", "thickness": "2"}
