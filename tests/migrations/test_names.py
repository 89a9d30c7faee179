"""A database of before the names of decision 26 is migrated: what was stored under an old name is found under today's."""

import os
import unittest
from datetime import timedelta

from django.db import connection
from django.core.management import CommandError, call_command
from django.db.migrations.executor import MigrationExecutor
from django.db.migrations.recorder import MigrationRecorder

from brunt_web.campaigns.models import Campaign, Condition, HistoryEvent, Specimen, Turn
from brunt_web.campaigns.recorded import OutstandingStep
from brunt_web.changes.models import Change
from brunt_web.checks.models import CheckStandard
from brunt_web.decisions.models import LoadCase
from brunt_web.exchange.models import HeadingMeaning
from brunt_web.feedstock.models import Attempt, Qualification
from brunt_web.testing.models import Clock, Test
from tests.support.own_database import START, database_of_its_own, migrate

# Apps that there were then; results had none of their own.
_APPS = ("campaigns", "changes", "checks", "days", "decisions", "exchange", "feedstock", "jobs", "library")
_APPS += ("notebooks", "people", "printing", "publishing", "testing", "treatments")
BEFORE = [(app, "0001_base") for app in _APPS]
OWED = [{"kind": "treatment", "what": "annealed", "says": "it still owes “annealed”"}]

STEPS = (OutstandingStep(**OWED[0]),)


def fill(get):
    """One row of every table that has another name or another column now."""

    def new(model, **values):
        return get(*model.split(".")).objects.create(**values)

    user = new("auth.User", username="lead", password="!")
    shop = new("people.Workshop", name="Glasshouse", created_at=START)
    material = new("library.Material", workshop=shop, name="PLA", family="pla", created_at=START)
    procedure = new("library.Procedure", workshop=shop, name="Tension, flat", method_key="tension", orientation="flat", specimen_type="tension-1ba")  # fmt: skip
    own = {"created_by": user, "created_at": START}
    one = new("campaigns.Campaign", workshop=shop, question="Which?", replicates=1, seed=1, shape="sweep", scatter=0.07, **own)  # fmt: skip
    asks = {"treatments": [{"what": "annealed", "owes": True}], "state": {"what": "dry", "owes": False}}  # fmt: skip
    condition = new("campaigns.Condition", campaign=one, material=material, label="PLA", position=1, asks=asks)  # fmt: skip
    deviations = [{"key": "owed annealed", "name": "Treatment", "says": "x"}]
    bar = new("campaigns.Specimen", workshop=shop, campaign=one, condition=condition, procedure=procedure, code="K7-3HD", replicate=1, owes="treatment", owed=OWED, deviations=deviations, made="made")  # fmt: skip
    turn = new("campaigns.Turn", specimen=bar, campaign=one, condition=condition, procedure=procedure, step=0, run_order=1, reading_owed=True, tested_as={"owed": OWED})  # fmt: skip
    new("campaigns.LifeEvent", specimen=bar, kind="left_out", what="a void", at=START, by=user)
    new("testing.Test", turn=turn, entry_key="8e3cbb2f-7c06-4f3b-9d64-1a6a1c2ad7f1", outcome="broke", mode="through_the_roads", by=user, at=START)  # fmt: skip
    test = get("testing", "Test").objects.get()
    was = {k: v for k, v in vars(test).items() if not k.startswith("_")}
    for note, at, sign in (("", START, "+"), ("a void", START + timedelta(hours=1), "~")):
        new("testing.HistoricalTest", **was | {"note": note}, history_date=at, history_type=sign, history_user=user)  # fmt: skip
    new("testing.Clock", turn=turn, started_at=START, rung="5 N", by=user)
    new("checks.CheckBar", workshop=shop, name="PLA, flat", material=material, procedure=procedure, by=user)  # fmt: skip
    new("decisions.Duty", campaign=one, name="Arm", created_by=user, changed_by=user, changed_at=START)  # fmt: skip
    new("exchange.HeadingMeaning", workshop=shop, heading="out", part="left_out")
    flakes = new("feedstock.Ladder", workshop=shop, name="Flakes", **own)
    new("feedstock.Attempt", ladder=flakes, gate="dry", passed=True, reason="dry", at=START, by=user)  # fmt: skip
    new("changes.Change", at=START, act=1, kind="campaigns_specimen", row=bar.pk, what="~", keys={}, before={"owes": "making"}, after={"owes": ""})  # fmt: skip
    new("changes.Change", at=START, act=2, kind="decisions_duty", row=1, what="~", keys={}, before={"name": "Arm"}, after={"name": "Long arm"})  # fmt: skip


def as_it_was_recorded(missing=""):
    """The names of the many migrations that 0001_base stands for, as a database of then has them."""
    loader, recorder = MigrationExecutor(connection).loader, MigrationRecorder(connection)
    for base in BEFORE:
        recorder.record_unapplied(*base)
        for app, name in loader.disk_migrations[base].replaces:
            put = recorder.record_unapplied if name == missing else recorder.record_applied
            put(app, name)


class Names(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        held = database_of_its_own(f"test_names_{os.getpid()}")
        held.__enter__()
        cls.addClassCleanup(held.__exit__, None, None, None)
        leaves = MigrationExecutor(connection).loader.graph.leaf_nodes()
        then = BEFORE + [(app, name) for app, name in leaves if app not in (*_APPS, "results")]
        fill(migrate(then).get_model)
        as_it_was_recorded()
        migrate(None)

    def test_columns_keep_their_values(self):
        bar, turn = Specimen.objects.get(), Turn.objects.get()
        self.assertEqual((bar.outstanding, bar.outstanding_steps), ("treatment", STEPS))
        self.assertEqual((Campaign.objects.get().cv, Campaign.objects.get().shape), (0.07, "one_factor"))
        self.assertTrue(turn.reading_outstanding)
        self.assertEqual(turn.tested_as.outstanding_steps, STEPS)
        self.assertEqual(Clock.objects.get().load_step, "5 N")

    def test_keys_inside_json_are_todays(self):
        required = Condition.objects.get().requirements
        self.assertEqual([t.outstanding for t in required.treatments], [True])
        self.assertIs(required.state.outstanding, False)
        self.assertEqual(Specimen.objects.get().deviations[0].key, "outstanding annealed")

    def test_values_and_tables_too(self):
        self.assertEqual(HistoryEvent.objects.get().kind, "excluded")
        self.assertEqual(Test.objects.get().mode, "across_the_beads")
        self.assertEqual(HeadingMeaning.objects.get().part, "excluded")
        self.assertEqual(LoadCase.objects.get().name, "Arm")
        self.assertEqual(CheckStandard.objects.get().name, "PLA, flat")
        self.assertEqual(Attempt.objects.get().qualification, Qualification.objects.get())

    def test_the_record_of_changes_follows(self):
        first, second = Change.objects.filter(act__gt=0).order_by("act")
        self.assertEqual((first.before, first.after), ({"outstanding": "making"}, {"outstanding": ""}))
        self.assertEqual(second.kind, "decisions_loadcase")

    def test_earlier_versions_are_in_the_record(self):
        """Two versions that stood in a table of their own are one change, where the record had none."""
        (change,) = Change.objects.filter(act__lt=0)
        test = Test.objects.get()
        self.assertEqual((change.kind, change.row, change.who_id), ("testing_test", test.pk, test.by_id))
        self.assertEqual((change.before, change.after), ({"note": ""}, {"note": "a void"}))
        self.assertEqual((change.at, change.workshop), (START + timedelta(hours=1), test.turn.specimen.workshop))  # fmt: skip


class TooOld(unittest.TestCase):
    def test_a_database_of_an_earlier_version_is_refused_in_a_sentence(self):
        with database_of_its_own(f"test_too_old_{os.getpid()}"):
            migrate(BEFORE)
            as_it_was_recorded(missing="0016_specimen_uuid")
            with self.assertRaisesRegex(CommandError, "older than this version can bring up to date"):
                call_command("prepare", "--no-demo")
