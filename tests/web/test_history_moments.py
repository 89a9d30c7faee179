"""Moments of a history, and that nothing in one is ever lost."""

from datetime import timedelta
from uuid import uuid4

from brunt_core.errors import InputError
from brunt_web.campaigns import history
from brunt_web.campaigns.actions.change_plan import add_replicates, add_to_condition
from brunt_web.campaigns.actions.make import mark_as_made
from brunt_web.campaigns.actions.plan_campaign import replan_campaign
from brunt_web.campaigns.drafts import of_materials
from brunt_web.campaigns.models import Specimen
from brunt_web.results.models import Result
from brunt_web.testing.actions import timed
from brunt_web.testing.actions.change_test import another_replicate
from brunt_web.testing.actions.record_test import Entry, measure
from brunt_web.testing.marks import marks_at, marks_of
from tests.support.plans import Shop
from tests.support.workshop import NOW, campaign, made, put, turn
from tests.web.test_history import Histories

DAY = timedelta(days=1)


class Moments(Histories):
    def test_before_and_after_both_exist_and_the_latest_counts(self):
        one = campaign(self.user, orientations=("flat",))
        bar = one.specimens.first()
        measure(bar, self.user, NOW, {"width": "5.02", "thickness": "2.01", "mass": "1.290"})
        measure(bar, self.user, NOW + DAY, {"width": "4.98", "mass": "1.281"}, "after treatment")
        rows = marks_at([bar])[bar.pk]
        self.assertEqual([m.text for m in rows if m.key == "width"], ["5.02", "4.98"])
        self.assertEqual(marks_of(bar)["width"].text, "4.98")
        page = self.client.get(f"/specimens/{bar.code}/")
        for text in ("4.980 mm", "5.020 mm", "1.281 g", "Mass over time"):
            self.assertContains(page, text)
        put(bar, self.user, Entry(uuid4(), NOW + DAY, {"force": "498"}))
        self.assertAlmostEqual(Result.objects.get().lower / 1e6, 498 / (4.98 * 2.01), places=6)

    def test_the_page_takes_a_moment_and_a_note(self):
        one = campaign(self.user, orientations=("flat",))
        code = one.specimens.first().code
        self.client.post(f"/specimens/{code}/weigh/", {"mass": "1.29", "name": "after the bath"})
        self.client.post(f"/specimens/{code}/note/", {"words": "a hair across the gauge"})
        page = self.client.get(f"/specimens/{code}/")
        for text in ("after the bath", "a hair across the gauge"):
            self.assertContains(page, text)
        for path, form in (("weigh", {"mass": "heavy"}), ("weigh", {}), ("note", {"words": ""})):
            answer = self.client.post(f"/specimens/{code}/{path}/", form)
            self.assertEqual(answer.status_code, 422, (path, form))


class NothingLost(Histories):
    def draft(self, one):
        return of_materials(
            "Again?", list(self.user.seat.workshop.materials.all()), [one.procedures.first()], 2, 1
        )

    def test_anything_in_a_history_blocks_a_replan(self):
        shop = Shop(self.user)
        for begin in ("clock", "size", "printed", "plate", "note"):
            with self.subTest(begin):
                one = campaign(self.user, question=f"Q {begin}?", printed=False)
                bar = one.specimens.first()
                if begin == "clock":
                    made(one, self.user)
                    timed.start_clock(turn(bar), self.user, NOW)
                elif begin == "size":
                    mark_as_made(one, bar.condition, self.user, NOW, "bought")
                    measure(Specimen.objects.get(pk=bar.pk), self.user, NOW, {"width": "5"})
                elif begin == "note":
                    history.note([bar], "note", self.user, NOW, "keep this one")
                else:
                    one.recipe = shop.recipe
                    one.save()
                    shop.print_all(one) if begin == "printed" else self.plate(shop, one)
                with self.assertRaisesRegex(InputError, "already have something in their history"):
                    replan_campaign(one, self.draft(one))
                self.assertTrue(Specimen.objects.filter(pk=bar.pk).exists())
        untouched = campaign(self.user, question="Untouched?", printed=False)
        replan_campaign(untouched, self.draft(untouched))
        self.assertEqual(untouched.specimens.count(), 2 * self.user.seat.workshop.materials.count())

    def plate(self, shop, one):
        from brunt_web.library.models import Lot
        from brunt_web.printing.actions.batches import BatchDraft, make_batch

        lot = Lot.objects.filter(material__condition__campaign=one).first()
        make_batch(one, self.user, BatchDraft(shop.printer, one.procedures.first(), 1, lot))

    def test_one_more_and_then_replicates(self):
        one = campaign(self.user, orientations=("flat",))
        bar = one.specimens.first()
        another_replicate(bar, self.user)
        self.assertEqual(add_replicates(one, 2, self.user), 4)
        numbers = list(
            one.specimens.filter(condition=bar.condition).values_list("replicate", flat=True)
        )
        self.assertEqual(len(set(numbers)), len(numbers))
        more = add_to_condition(bar.condition, [bar.procedure], 3, self.user)
        self.assertEqual({s.condition_id for s in more}, {bar.condition_id})
        orders = list(one.turns.order_by("run_order").values_list("run_order", flat=True))
        self.assertEqual(len(set(orders)), len(orders))

    def test_nonsense_never_breaks_a_page(self):
        one = campaign(self.user)
        code = one.specimens.first().code
        deep = "[" * 5000 + "]" * 5000
        for address, form in (
            (f"/specimens/{code}/bench/", {"force": "²", "key": "²"}),
            (f"/specimens/{code}/bench/", {"force": "500", "changed": deep, "key": str(uuid4())}),
            (f"/specimens/{code}/bench/", {"force": "5\x00", "key": str(uuid4())}),
            (f"/specimens/{code}/clock/take/", {"due": "inf", "key": str(uuid4())}),
            (f"/campaigns/{one.pk}/ask/more/", {"more": "²"}),
            (f"/campaigns/{one.pk}/print/", {"procedure": "²", "printer": "9" * 30, "gap": "inf"}),
            (f"/campaigns/{one.pk}/made/", {"condition": "²"}),
            ("/campaigns/new/", {"seed": "²", "question": "?", "replicates": "1e999"}),
            ("/campaigns/new/preview/", {"f-99-levels": "1;2", "seed": "x"}),
            (f"/specimens/{code}/weigh/", {"mass": "1e400 g"}),
            (
                f"/campaigns/{one.pk}/import-data/preview/",
                {"text": "specimen,load\n" + code + ",inf\n"},
            ),
        ):
            with self.subTest(address + str(form)[:60]):
                self.client.raise_request_exception = False
                self.assertIn(
                    self.client.post(address, form).status_code, (200, 302, 400, 404, 422)
                )
        for query in ("?reference=²", "?working=" + "9" * 40, "?view=%00"):
            self.assertIn(
                self.client.get(f"/campaigns/{one.pk}/compare/{query}").status_code, (200, 400)
            )
