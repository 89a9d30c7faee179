"""Judged in words: counted, compared by rank, set beside strength."""

from uuid import uuid4

from brunt_core.errors import InputError
from brunt_web.library.models import Procedure
from brunt_web.results.models import Result
from brunt_web.testing.actions.record_test import Entry
from tests.support.bench import bench_of
from tests.support.workshop import NOW, put
from tests.web.test_bench_actions import Benches


class Judgements(Benches):
    def judged(self):
        one = bench_of(self.user, "judgement", replicates=5)
        words = {
            "Fernhall PLA": ("shatters", "snaps clean", "1", "shatters", "snaps"),
            "Tarn ASA": ("bends without", "4", "bends, then tears", "bends without breaking", "4"),
        }
        for label, said in words.items():
            bars = one.specimens.filter(condition__label=label)
            for bar, grade in zip(bars, said, strict=True):
                put(self.again(bar), self.user, Entry(uuid4(), NOW, {"grade": grade}))
        return one

    def test_counted_and_compared_by_rank(self):
        one = self.judged()
        page = " ".join(self.client.get(f"/campaigns/{one.pk}/compare/").content.decode().split())
        self.assertIn("<strong>Tarn ASA leads, ahead of Fernhall PLA.</strong>", page)
        self.assertIn("4 bends without breaking, 1 bends, then tears", page)
        self.assertIn("2 snaps clean, 3 shatters", page)
        self.assertIn("significantly different, by rank", page)
        for switch in ("best", "reference"):
            shown = self.client.get(f"/campaigns/{one.pk}/compare/?show={switch}")
            self.assertEqual(shown.status_code, 200)

    def test_the_bench_shows_the_words_and_refuses_others(self):
        turn = self.one("judgement")
        page = self.client.get(turn.address)
        self.assertContains(page, 'data-grade="snaps clean"')
        self.assertContains(page, "bends without breaking")
        with self.assertRaisesRegex(InputError, "not on the scale: 1 shatters; 2 snaps clean"):
            put(turn, self.user, Entry(uuid4(), NOW, {"grade": "melts"}))
        put(turn, self.user, Entry(uuid4(), NOW, {"grade": "2"}))
        self.assertEqual(Result.objects.get().lower, 2.0)
        self.assertContains(self.client.get(f"/specimens/{turn.code}/"), "“snaps clean”")

    def test_a_scale_is_written_by_the_tester(self):
        address = "/library/procedures/new/"
        told = {
            "method": "judgement",
            "name": "Tossed",
            "specimen_type": "coupon-60",
            "orientation": "flat",
            "p-name": "Tossed on concrete",
            "p-scale": "only one word",
        }
        refused = self.client.post(address, told)
        self.assertContains(refused, "from worst to best", status_code=422)
        self.client.post(address, {**told, "p-scale": "broke at once; broke later; whole"})
        self.assertEqual(
            Procedure.objects.get(name="Tossed").parameters["scale"],
            "broke at once; broke later; whole",
        )

    def test_a_file_brings_judgements(self):
        one = bench_of(self.user, "judgement", replicates=2)
        code = one.specimens.first().code
        text = f"specimen;judged\n{code};bends without breaking\n"
        seen = self.client.post(f"/campaigns/{one.pk}/import-data/preview/", {"text": text})
        self.assertContains(seen, "1 row")
        self.client.post(f"/campaigns/{one.pk}/import-data/store/", {"text": text})
        self.assertEqual(Result.objects.get().lower, 4.0)


class Drops(Benches):
    def test_a_series_across_several_specimens(self):
        one = bench_of(self.user, "drop", replicates=4)
        bars = one.specimens.filter(condition__label="Fernhall PLA")
        for bar, drops in zip(
            bars,
            (
                "400: pass; 450: fail",
                "400: pass; 450: fail",
                "400: fail; 350: pass",
                "400: pass; 450: fail; 400: pass",
            ),
            strict=True,
        ):
            put(self.again(bar), self.user, Entry(uuid4(), NOW, {"drops": drops}))
        page = self.client.get(f"/campaigns/{one.pk}/compare/")
        self.assertContains(page, "Fernhall PLA: 9 drops of 4 specimens as one series")
        self.assertContains(page, "up-and-down (Bruceton)")


class Cracked(Benches):
    def test_a_part_cracked_at_assembly_is_in_the_ranking(self):
        one = bench_of(self.user, "pull-out", replicates=3)
        loads = {"Fernhall PLA": ("800 N", "820 N", "810 N"), "Tarn ASA": ("900 N", "910 N", "")}
        for label, readings in loads.items():
            bars = one.specimens.filter(condition__label=label)
            for bar, load in zip(bars, readings, strict=True):
                outcome = "broke" if load else "cracked_at_assembly"
                inputs = {"force": load} if load else {}
                put(self.again(bar), self.user, Entry(uuid4(), NOW, inputs, outcome))
        page = self.client.get(f"/campaigns/{one.pk}/compare/").content.decode()
        self.assertIn("1 failed", page)
        self.assertLess(page.index("Fernhall PLA"), page.index("Tarn ASA"))
        turn = self.one("hook")
        self.assertContains(self.client.get(turn.address), "cracked at assembly")
