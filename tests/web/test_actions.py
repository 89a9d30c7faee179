"""What actions store, refuse and keep."""

from dataclasses import replace
from datetime import timedelta
from threading import Thread
from uuid import uuid4

from django.db import connection
from django.test import TestCase, TransactionTestCase

from brunt_core.errors import InputError
from brunt_web.campaigns.actions.plan_campaign import plan_campaign
from brunt_web.campaigns.drafts import of_materials
from brunt_web.campaigns.models import Specimen
from brunt_web.changes.models import Change
from brunt_web.library.actions.add_material import add_material
from brunt_web.results.models import Result
from brunt_web.testing.actions.change_test import count_again, exclude, undo_last
from brunt_web.testing.actions.record_test import Entry, measure
from brunt_web.testing.models import Measurement, Reading, Test
from tests.support.bench import bench_of
from tests.support.workshop import NOW, campaign, entry, person, put


class Corrected(TestCase):
    """A correction keeps exclusion, time and answers; its history has the number before and after."""

    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.campaign = campaign(cls.user)
        cls.one = cls.campaign.specimens.first()

    def test_history_has_before_and_after(self):
        asked = {"asked": "Peak load reads like kgf.", "answer": "kept"}
        put(self.one, self.user, replace(entry("500 N"), answers=(asked,)))
        exclude(self.one.turns.get().test, "a void was seen", self.user, NOW)
        put(self.one, self.user, entry("512 N"), replace=True)
        test = self.one.turns.get().test
        self.assertEqual(test.answers, [asked])
        self.assertEqual((test.excluded, test.at), (True, NOW))
        said = self.one.events.filter(kind="tested", undone_at=None).get().what
        self.assertIn("peak load 500 N → 512 N, tensile strength 50.00 MPa → 51.20 MPa", said)

    def test_what_it_is_ranked_by_must_be_read(self):
        bar = bench_of(self.user, "flexure").specimens.first()
        inputs = {"slope": "28", "width": "10", "thickness": "4"}
        with self.assertRaisesRegex(InputError, "load is missing"):
            put(bar, self.user, Entry(uuid4(), NOW, inputs))


class Recording(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.campaign = campaign(cls.user)
        cls.specimen = cls.campaign.specimens.first()

    def test_keeps_text_unit_si_and_result(self):
        put(self.specimen, self.user, entry("58.4 kg", place="gauge"))
        reading, result = Reading.objects.get(), Result.objects.get()
        self.assertEqual((reading.text, reading.unit), ("58.4 kg", "kgf"))
        self.assertAlmostEqual(reading.lower, 58.4 * 9.80665)
        self.assertAlmostEqual(result.lower, 58.4 * 9.80665 / 10e-6, places=2)
        self.assertEqual(Measurement.objects.count(), 2)

    def test_the_same_entry_arrives_once(self):
        key = uuid4()
        first = put(self.specimen, self.user, entry(key=key))
        again = put(self.specimen, self.user, entry(key=key))
        self.assertEqual(
            (first.repeated, again.repeated, Test.objects.count(), Result.objects.count()),
            (False, True, 1, 1),
        )

    def test_a_second_test_is_refused_unless_correcting(self):
        put(self.specimen, self.user, entry())
        with self.assertRaisesRegex(InputError, "already has a test"):
            put(self.specimen, self.user, entry("600 N"))
        put(self.specimen, self.user, entry("600 N"), replace=True)
        self.assertAlmostEqual(Result.objects.get().lower, 60e6, places=1)
        self.assertEqual(Reading.objects.get().text, "600 N")
        gone = Change.objects.get(kind="testing_reading", what="-")
        self.assertEqual(gone.before["text"], "500 N")

    def test_bounds_are_stored(self):
        specimens = list(self.campaign.specimens.all())
        for specimen, one in zip(
            specimens, (entry("500", "held"), entry("< 500"), entry("6 .. 8 kgf")), strict=False
        ):
            put(specimen, self.user, one)
        kinds = [r.observation.kind for r in Result.objects.order_by("turn__run_order")]
        self.assertEqual(sorted(kinds), ["at_least", "at_most", "between"])

    def test_void_needs_a_reason_and_gives_no_result(self):
        with self.assertRaisesRegex(InputError, "reason for void"):
            put(self.specimen, self.user, entry("", "void"))
        put(self.specimen, self.user, entry("", "void", reason="slipped"))
        self.assertEqual(Result.objects.count(), 0)

    def test_refused_input_stores_nothing(self):
        for bad in (
            entry("abc"),
            entry("-5"),
            entry("500", "exploded"),
            entry("500", place="moon"),
        ):
            with self.assertRaises(InputError):
                put(self.specimen, self.user, bad)
        self.assertEqual((Test.objects.count(), Measurement.objects.count()), (0, 0))

    def test_undo_exclude_restore(self):
        with self.assertRaisesRegex(InputError, "nothing to undo"):
            undo_last(self.campaign, self.specimen.procedure, self.user, NOW)
        test = put(self.specimen, self.user, entry()).test
        with self.assertRaisesRegex(InputError, "Give a reason"):
            exclude(test, "  ", self.user, NOW)
        exclude(test, "bubble in the break face", self.user, NOW)
        self.assertTrue(Test.objects.get().excluded)
        count_again(test, self.user, NOW)
        self.assertFalse(Test.objects.get().excluded)
        undo_last(self.campaign, self.specimen.procedure, self.user, NOW)
        self.assertEqual((Test.objects.count(), Result.objects.count()), (0, 0))
        kept = Change.objects.filter(kind="testing_test").order_by("id")
        self.assertEqual([c.what for c in kept], ["~", "~", "-"])


class Versions(TestCase):
    """What was read is on record as it was from its first change on; until then its row is all there is."""

    @classmethod
    def setUpTestData(cls):
        cls.user, cls.other = person(), person("Ida")
        cls.one = campaign(cls.user).specimens.first()

    def test_nothing_is_kept_of_what_was_never_changed(self):
        put(self.one, self.user, entry())
        read = ("testing_test", "testing_reading", "testing_measurement")
        self.assertFalse(Change.objects.filter(kind__in=read).exists())

    def test_the_first_is_kept_as_it_was_entered(self):
        test = put(self.one, self.user, entry("500 N")).test
        exclude(test, "a void was seen", self.other, NOW + timedelta(days=2))
        change = Change.objects.get(kind="testing_test", row=test.pk)
        self.assertEqual(
            (change.before["excluded"], change.after["excluded"], change.after["exclusion_reason"]),
            (False, True, "a void was seen"),
        )

    def test_a_size_taken_again_keeps_both(self):
        for mass in ("1.32 g", "1.23 g", "1.24 g"):
            measure(self.one, self.user, NOW, {"mass": mass})
        kept = Change.objects.filter(kind="testing_measurement").order_by("id")
        texts = [(c.before["text"], c.after["text"]) for c in kept]
        self.assertEqual(texts, [("1.32 g", "1.23 g"), ("1.23 g", "1.24 g")])


class Planning(TestCase):
    def test_ids_are_unique_across_campaigns_and_order_is_blocked(self):
        user = person()
        one, two = campaign(user), campaign(user, question="Another?")
        codes = list(Specimen.objects.values_list("code", flat=True))
        self.assertEqual(len(set(codes)), len(codes))
        order = list(
            one.turns.filter(procedure__orientation="flat")
            .order_by("run_order")
            .values_list("specimen__replicate", flat=True)
        )
        self.assertEqual(order, [1, 1, 2, 2, 3, 3])
        self.assertEqual(two.specimens.count(), 12)

    def test_refused_plans(self):
        user = person()
        shop = user.seat.workshop
        pla = add_material(shop, "Only PLA", "pla")
        good = campaign(user)
        procedures = list(good.procedures.all())
        two = [pla, shop.materials.exclude(pk=pla.pk).first()]
        for draft, field in (
            (of_materials(" ", two, procedures, 3, 1), "question"),
            (of_materials("Q", [pla], procedures[:1], 3, 1), "materials"),
            (of_materials("Q", two, [], 3, 1), "procedures"),
            (of_materials("Q", two, procedures, 0, 1), "replicates"),
        ):
            with self.assertRaises(InputError) as caught:
                plan_campaign(shop, user, draft)
            self.assertEqual(caught.exception.field, field)

    def test_material_is_checked(self):
        shop = person().seat.workshop
        add_material(shop, "Tarn X", "pla", density=1240.0)
        for values, field in (
            (("", "pla"), "name"),
            (("tarn x", "pla"), "name"),
            (("Y", "marble"), "family"),
            (("Y" * 81, "pla"), "name"),
            (("Y", "pla", "gas"), "form"),
        ):
            with self.assertRaises(InputError) as caught:
                add_material(shop, *values)
            self.assertEqual(caught.exception.field, field, values)
        self.assertIsNone(add_material(shop, "Unknown stuff", "other").density)


class Racing(TransactionTestCase):
    def test_a_double_enter_stores_one_reading(self):
        user = person()
        specimen = campaign(user).specimens.first()
        keys = [uuid4()] * 2 + [uuid4()]
        outcomes = []

        def enter(key):
            try:
                outcomes.append(put(specimen, user, entry(key=key)).repeated)
            except InputError:
                outcomes.append("refused")
            finally:
                connection.close()

        threads = [Thread(target=enter, args=(k,)) for k in keys]
        [t.start() for t in threads]
        [t.join() for t in threads]
        self.assertEqual(Test.objects.count(), 1)
        self.assertEqual(len(outcomes), 3)
