"""A database of before histories is migrated: every reading and result is found again, and the pages run."""

import os
import unittest

from django.contrib.auth import get_user_model
from django.test import Client, TestCase

from brunt_web.campaigns.models import AcceptedConfounder, Campaign, HistoryEvent, Specimen, Turn
from brunt_web.campaigns.queries import next_up, progress
from brunt_web.printing.models import Grade, Plate, Print
from brunt_web.results.models import Result
from brunt_web.testing.models import (Clock, Curve, Measurement, Photo, Reading, Test, TimedReading)
from tests.support.old_shape import BEFORE, START, OldShop, database_of_its_own, migrate

_RESULT = ("property_key", "lower", "upper", "uncertainty", "formula", "source", "steps")
_READING = ("key", "text", "unit", "lower", "upper", "uncertainty")
_TEST = ("entry_key", "outcome", "place", "mode", "reason", "note", "answers", "excluded")
_TEST += ("exclusion_reason", "stated", "at", "recorded_at")
_TIMED = ("entry_key", "key", "due", "elapsed", "text", "value", "taken_at")
_SIZE = ("key", "text", "value", "uncertainty", "at")


def rows(model, path, fields):
    """Every row by the code of its specimen; JSON as text so that rows can be sorted."""
    found = model.objects.values_list(f"{path}__code", *fields)
    plain = (tuple(bytes(v) if isinstance(v, memoryview) else v for v in row) for row in found)
    return sorted(tuple(str(v) for v in row) for row in plain)


class BeforeHistories(unittest.TestCase):
    """One migration, many looks at it."""

    @classmethod
    def setUpClass(cls):
        held = database_of_its_own(f"test_old_{os.getpid()}")
        held.__enter__()
        cls.addClassCleanup(held.__exit__, None, None, None)
        apps = migrate(BEFORE)
        OldShop(apps).fill()
        old = apps.get_model
        cls.stood = {
            "results": rows(old("testing.Result"), "specimen", _RESULT),
            "readings": rows(old("testing.Reading"), "test__specimen", _READING),
            "tests": rows(old("testing.Test"), "specimen", _TEST),
            "timed": rows(old("testing.TimedReading"), "specimen", _TIMED),
            "clocks": rows(old("testing.Clock"), "specimen", ("started_at",)),
            "curves": rows(old("testing.Curve"), "specimen", ("name", "data", "points")),
            "photos": rows(old("testing.Photo"), "specimen", ("file", "width", "height")),
            "sizes": rows(old("testing.Measurement"), "specimen", _SIZE),
            "places": rows(old("printing.Print"), "specimen", ("batch", "x", "y", "failed", "defects")),
        }
        cls.counts = {
            name: old(name).objects.count()
            for name in ("campaigns.Specimen", "printing.Grade", "campaigns.AcceptedConfounder")
        }
        cls.apps = migrate(None)

    def test_every_reading_result_and_record_is_found_again(self):
        now = {
            "results": rows(Result, "turn__specimen", _RESULT),
            "readings": rows(Reading, "test__turn__specimen", _READING),
            "tests": rows(Test, "turn__specimen", _TEST),
            "timed": rows(TimedReading, "turn__specimen", _TIMED),
            "clocks": rows(Clock, "turn__specimen", ("started_at",)),
            "curves": rows(Curve, "turn__specimen", ("name", "data", "points")),
            "photos": rows(Photo, "specimen", ("file", "width", "height")),
            "places": rows(Print, "specimen", ("plate__batch", "x", "y", "failed", "defects")),
        }
        for name, found in now.items():
            with self.subTest(name):
                self.assertTrue(found)
                self.assertEqual(found, self.stood[name])
        sizes = rows(Measurement, "moment__specimen", _SIZE)
        self.assertEqual([r for r in self.stood["sizes"] if r not in sizes], [])
        self.assertEqual({r[1] for r in sizes if r not in self.stood["sizes"]}, {"mass"})
        for name, count in self.counts.items():
            self.assertEqual(self.apps.get_model(name).objects.count(), count, name)

    def test_each_specimen_has_a_history_in_order_and_one_turn(self):
        self.assertEqual(Turn.objects.count(), Specimen.objects.count())
        for s in Specimen.objects.all():
            kinds = [e.kind for e in HistoryEvent.objects.filter(specimen=s)]
            self.assertEqual(kinds[0], "planned", s.code)
            test = Test.objects.filter(turn__specimen=s).first()
            self.assertEqual("tested" in kinds, test is not None)
            if test:
                self.assertNotEqual(kinds[-1], "planned")
        failed = Specimen.objects.get(made="failed")
        self.assertEqual(failed.outstanding, "failed")
        masses = Measurement.objects.filter(key="mass")
        self.assertEqual([m.text for m in masses], ["2.60 g"] * 3)

    def test_states_follow_what_was_recorded(self):
        states = dict(Test.objects.values_list("outcome", "turn__state"))
        self.assertEqual((states["void"], states["held"], states["broke"]), ("void", "held", "broken"))
        left = Turn.objects.get(excluded=True)
        self.assertEqual(left.excluded_because, "a void in it")
        self.assertEqual(Turn.objects.get(clock__isnull=False).state, "running")
        self.assertEqual(Turn.objects.filter(stated=True).count(), 1)
        broken = Specimen.objects.filter(turns__outcome="broke")
        self.assertEqual(set(broken.values_list("spent", flat=True)), {True})

    def test_the_old_plan_now_outstanding_and_deviates_aloud(self):
        heats = Campaign.objects.get(question="Which heat?")
        said = [d["says"] for s in heats.specimens.filter(made="made") for d in s.deviations]
        self.assertIn("Nozzle temperature: planned 250 °C, printed at 235 °C", said)
        self.assertEqual(progress(heats)["printed"], 6)
        plates = Plate.objects.filter(batch__campaign=heats)
        self.assertEqual({p.used["nozzle_temperature"]["shown"] for p in plates}, {"235 °C"})
        self.assertEqual(plates.count(), 2)
        oven = Campaign.objects.get(question="Annealed?")
        outstanding = oven.specimens.filter(condition__label__startswith="annealed", turns__state="waiting")
        self.assertEqual({s.outstanding_steps[0]["kind"] for s in outstanding}, {"making"})
        self.assertEqual(next_up(heats).specimen.made, "made")

    def test_every_page_of_it_opens(self):
        client = Client()
        client.force_login(get_user_model().objects.get())
        for one in Campaign.objects.all():
            for page in ("", "compare/", "print/", "treat/", "ask/"):
                found = client.get(f"/campaigns/{one.pk}/{page}")
                self.assertIn(found.status_code, (200, 302), (one.question, page))
        for code in Specimen.objects.values_list("code", flat=True)[::4]:
            self.assertEqual(client.get(f"/specimens/{code}/").status_code, 200)
        self.assertEqual(AcceptedConfounder.objects.get().reason, "one spool ran out")
        self.assertEqual((Grade.objects.count(), Photo.objects.count()), (1, 1))
        self.assertEqual(Campaign.objects.earliest("pk").created_at, START)


class Parted(TestCase):
    """Texts written when a blank or a stroke always parted readings keep their meaning."""

    def test_is_read_as_it_was(self):
        from importlib import import_module

        from django.apps import apps

        from brunt_core.quantities import parse_typed
        from brunt_web.testing.actions.record_test import measure
        from brunt_web.testing.models import Measurement
        from tests.support.workshop import NOW, campaign, person

        user = person()
        bar = campaign(user).specimens.first()
        measure(bar, user, NOW, {"width": "5.02; 5.01", "thickness": "2.01"})
        old = {"width": ("5.02/5.01 mm", 5.015e-3), "thickness": ("102 104", 0.103)}
        for key, (text, _) in old.items():
            Measurement.objects.filter(key=key).update(text=text)
        import_module("brunt_web.testing.migrations.0007_parted").rewrite(apps, None)
        for row in Measurement.objects.all():
            read = parse_typed(row.text, "length", "mm").observation.anchor
            self.assertAlmostEqual(read, old[row.key][1], places=9)


class Failures(TestCase):
    """Failures stored as good results become bounds."""

    def test_crept_at_least_and_kept_at_most(self):
        from importlib import import_module
        from unittest.mock import Mock
        from uuid import uuid4

        from django.apps import apps

        from brunt_web.testing.actions.record_test import Entry
        from tests.support.bench import TYPED, bench_of
        from tests.support.workshop import NOW, person, put

        user = person()
        for method, ended in (("creep", "broke_under_load"), ("clamp-retention", "cracked")):
            one = bench_of(user, method, replicates=1).specimens.first()
            put(one, user, Entry(uuid4(), NOW, TYPED[method], ended))
        now = {r.pk: (r.property_key, r.lower, r.upper) for r in Result.objects.all()}
        for row in Result.objects.all():
            both = row.lower if row.lower is not None else row.upper
            Result.objects.filter(pk=row.pk).update(lower=both, upper=both)
        # The migration knows results where they stood then.
        then = Mock(get_model=lambda _, name: Result if name == "Result" else apps.get_model("testing", name))
        import_module("brunt_web.testing.migrations.0008_failures").bound(then, None)
        self.assertEqual({r.pk: (r.property_key, r.lower, r.upper) for r in Result.objects.all()}, now)
