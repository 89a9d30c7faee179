"""What ``./brunt bench`` measures still runs; how long it takes is nobody's business here."""

import contextlib
import io
from datetime import UTC, datetime
from itertools import islice
from unittest.mock import patch

from django.contrib.auth import get_user_model
from django.db import connection
from django.test import TestCase, tag

from brunt_web.campaigns.models import Campaign, Specimen, Turn
from brunt_web.demonstration.load import load_demo
from brunt_web.results.models import Result
from tools.bench import many as bench_many
from tools.bench.cases import cases, queries
from tools.bench.table import measure, middle_and_tail, show


class Bench(TestCase):
    def test_the_first_cases_run_and_say_something(self):
        for _, run, note in islice(cases(), 2):
            run()
            self.assertIsInstance(note(), str)

    @tag("long")
    def test_every_case_runs_and_says_something(self):
        names = []
        for name, run, note in cases():
            run()
            self.assertIsInstance(note(), str)
            names.append(name)
        self.assertEqual(len(names), len(set(names)))
        self.assertIn("bench, Enter to next specimen ready", names)

    @tag("long")
    def test_copies_and_crowds_are_what_they_say(self):
        self._count_on("campaigns_campaign_id_seq", 70_000)  # as after years
        self._count_on("campaigns_specimen_id_seq", 90_000_000)
        load_demo(datetime.now(UTC))
        user = get_user_model().objects.get(username="bench-lead")
        with patch.object(bench_many, "CONDITIONS", 3), patch.object(bench_many, "REPLICATES", 2):
            one = bench_many.heavy(user)
            other = bench_many.copy_of(one, "Once more")
            for campaign in (one, other):
                self.assertEqual(Specimen.objects.filter(campaign=campaign).count(), 18)
                self.assertEqual(Turn.objects.filter(campaign=campaign).count(), 18)
            turn = Turn.objects.filter(campaign=other).first()
            self.assertEqual(turn.condition.campaign, other)
            again = bench_many.copy_of(one, "And again")
            codes = Specimen.objects.filter(campaign__in=(other, again)).values_list("code")
            self.assertEqual(len(set(codes)), 36)
            bench_many.crowd(one, 300)
            crowd = Campaign.objects.get(question="The crowd")
            self.assertEqual(Result.objects.filter(turn__campaign=crowd).count(), 300)
            self.assertIsNotNone(crowd.archived_at)

    def _count_on(self, sequence: str, value: int) -> None:
        with connection.cursor() as cursor:
            cursor.execute(f"SELECT last_value FROM {sequence}")
            before = cursor.fetchone()[0]
            self.addCleanup(_set, sequence, before)
            _set(sequence, value)

    def test_the_table(self):
        ran = []
        median, p95 = measure(lambda: ran.append(1), 20)
        self.assertEqual(len(ran), 21)
        self.assertGreaterEqual(p95, median)
        self.assertEqual(middle_and_tail([float(x) for x in range(1, 101)]), (50.5, 96.0))
        out = io.StringIO()
        with contextlib.redirect_stdout(out):
            show("reading", 20.0, 30.0, 10.0, "a note")
        self.assertRegex(out.getvalue(), r"reading\s+20\.0\s+30\.0\s+2\.0×  a note")

    def test_queries_are_read_off_the_answer(self):
        self.assertEqual(
            queries({"Server-Timing": 'app;dur=4.1, db;desc="3 queries"'}), "3 queries"
        )
        self.assertEqual(queries({"Server-Timing": "app;dur=4.1"}), "")


def _set(sequence: str, value: int) -> None:
    with connection.cursor() as cursor:
        cursor.execute("SELECT setval(%s, %s)", [sequence, value])
