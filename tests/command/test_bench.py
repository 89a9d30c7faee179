"""What ``./brunt bench`` measures still runs; how long it takes is nobody's business here."""

import contextlib
import io

from django.test import TestCase

from brunt_command.bench import measure, middle_and_tail, queries, show
from brunt_command.bench_cases import cases


class Bench(TestCase):
    def test_every_case_runs_and_says_something(self):
        names = []
        for name, run, note in cases():
            run()
            self.assertIsInstance(note(), str)
            names.append(name)
        self.assertEqual(len(names), len(set(names)))
        self.assertIn("bench, Enter to next specimen ready", names)

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
