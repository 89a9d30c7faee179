"""Bringing in and taking out."""

import csv
import io
import re
from uuid import uuid4

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase

from brunt_web.campaigns.models import Turn
from brunt_web.exchange.export import export_csv
from brunt_web.results.models import Result
from brunt_web.testing.actions.change_test import exclude
from brunt_web.testing.actions.record_test import Entry, take_back
from brunt_web.testing.models import Test
from tests.support.bench import bench_of
from tests.support.reading import words
from tests.support.workshop import BACKEND, NOW, campaign, entry, person, put

GOOD = "material;orientation;load [kgf];width [mm];thickness [mm];outcome\nFernhall PLA;flat;58,4;5,02;2,01;\nTarn ASA;flat;131 lbf;5;2;held\n"


class Exchange(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.campaign = campaign(cls.user)
        cls.address = f"/campaigns/{cls.campaign.pk}/import-data/"

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def test_preview_stores_nothing_and_confirm_stores_all(self):
        seen = self.client.post(
            self.address + "preview/", {"file": SimpleUploadedFile("r.csv", GOOD.encode())}
        )
        self.assertIn("2 rows understood", words(seen))
        self.assertContains(seen, "572.7 N")
        self.assertEqual(Test.objects.count(), 0)
        self.client.post(self.address + "store/", {"text": GOOD})
        self.assertEqual(
            sorted(r.observation.kind for r in Result.objects.all()), ["at_least", "exact"]
        )
        self.assertContains(
            self.client.post(self.address + "preview/", {"text": GOOD}), "imported before"
        )

    def test_every_bad_row_says_why_and_nothing_is_stored(self):
        code = self.campaign.specimens.first().code
        rows = [
            ("no such", "flat", "5 N", "5", "2", "", "There is no condition"),
            ("Tarn ASA", "sideways", "5 N", "5", "2", "", "is not one of"),
            ("Tarn ASA", "", "5 N", "5", "2", "", "Which test is this"),
            ("Tarn ASA", "flat", "x", "5", "2", "", "not start with a number"),
            ("Tarn ASA", "flat", "500", "5", "", "", "thickness is missing"),
            ("Tarn ASA", "flat", "500", "5", "2", "melted", "not an outcome"),
            ("Tarn ASA", "flat", "", "5", "2", "void", "needs a reason"),
            ("", "", "500", "5", "2", "", "Neither specimen nor condition"),
        ]
        text = "material,orientation,load,width,thickness,outcome\n" + "\n".join(
            ",".join(r[:6]) for r in rows
        )
        seen = self.client.post(self.address + "preview/", {"text": text})
        for row in rows:
            self.assertContains(seen, row[6])
        self.assertContains(seen, f"{len(rows)} refused")
        mixed = GOOD + "nobody;flat;5;5;2;\n"
        self.assertContains(
            self.client.post(self.address + "store/", {"text": mixed}),
            "Nothing was saved",
            status_code=422,
        )
        self.assertEqual(Test.objects.count(), 0)
        near = code[:-1] + ("3" if code[-1] == "2" else "2")
        twice = f"specimen,load,width,thickness\n{code},500,5,2\n{code},500,5,2\n{near},500,5,2\n"
        seen = self.client.post(self.address + "preview/", {"text": twice})
        self.assertContains(seen, "is in an earlier row")
        self.assertContains(seen, f"Nearest: {code}")

    def test_stated_strengths_and_new_conditions(self):
        text = "condition,orientation,tensile strength [MPa]\nWeir PC,flat,61.2\nWeir PC,flat,> 60\nTarn ASA,flat,6 ksi\n"
        self.assertContains(
            self.client.post(self.address + "preview/", {"text": text}), "There is no condition"
        )
        self.client.post(self.address + "store/", {"text": text, "create_missing": "1"})
        self.assertAlmostEqual(
            Result.objects.get(turn__condition__label="Tarn ASA").lower, 41.368543759e6, delta=1
        )
        self.assertContains(self.client.get(f"/campaigns/{self.campaign.pk}/compare/"), "Weir PC")

    def test_not_a_table(self):
        for upload, sentence in (
            (b"\0\1binary", "not a text file"),
            (b"words only", "at least two columns"),
            (b"   ", "at least two columns"),
        ):
            answer = self.client.post(
                self.address + "preview/", {"file": SimpleUploadedFile("r.csv", upload)}
            )
            self.assertContains(answer, sentence, status_code=422)

    def test_columns_nobody_knows_are_asked(self):
        seen = self.client.post(self.address + "preview/", {"text": "a,b\n1,2\n"})
        self.assertContains(seen, "No column names the specimen")
        self.assertContains(seen, 'name="col-1"')

    def test_what_is_taken_out_can_be_data_import(self):
        self.client.post(self.address + "store/", {"text": GOOD})
        before = sorted(Result.objects.values_list("lower", "upper"))
        text = export_csv(self.campaign)
        rows = [r for r in csv.DictReader(io.StringIO(text)) if r["outcome"]]
        self.assertEqual(len(rows), 2)
        for t in list(Test.objects.all()):
            take_back(t, self.user, NOW)
        out = io.StringIO()
        writer = csv.DictWriter(out, rows[0].keys())
        writer.writeheader()
        writer.writerows(rows)
        answer = self.client.post(self.address + "store/", {"text": out.getvalue()}, follow=True)
        self.assertContains(answer, "2 rows are imported")
        after = sorted(Result.objects.values_list("lower", "upper"))
        for (a, b), (c, d) in zip(before, after, strict=True):
            self.assertAlmostEqual(a / c, 1, places=4)
            self.assertEqual(b is None, d is None)


class EveryField(TestCase):
    """Reason, mode, place, note, a void and an exclusion go out and come back as they were."""

    setUpTestData = classmethod(Exchange.setUpTestData.__func__)
    setUp = Exchange.setUp
    kept = (
        "outcome",
        "place",
        "mode",
        "reason",
        "note",
        "excluded",
        "exclusion_reason",
        "untimely",
    )

    def fill(self) -> None:
        bars = list(self.campaign.specimens.filter(procedure__orientation="flat"))
        put(bars[0], self.user, entry("500 N", place="gauge", note="clean; with, a comma"))
        put(bars[1], self.user, entry("20 N", note="thin there"))
        exclude(bars[1].turns.get().test, "a void was seen in it", self.user, NOW)
        put(bars[2], self.user, entry("", "void", reason="slipped in the grip", note="retighten"))
        put(bars[3], self.user, entry("749 N", "held", reason="end of the rig"))

    def stood(self) -> dict:
        rows = Test.objects.values_list("turn__specimen__code", *self.kept)
        return {row[0]: row[1:] for row in rows}

    def test_comes_back_as_it_was(self):
        self.fill()
        before, turns = self.stood(), dict(Turn.objects.values_list("pk", "excluded_because"))
        text = export_csv(self.campaign)
        for one in list(Test.objects.all()):
            take_back(one, self.user, NOW)
        seen = self.client.post(self.address + "preview/", {"text": text})
        self.assertIn("3 rows understood", words(seen))
        (asked,) = set(re.findall(r'name="(say-[^"]+)"', seen.content.decode()))
        self.client.post(self.address + "store/", {"text": text, asked: "keep"})
        self.assertEqual(self.stood(), before)
        self.assertEqual(dict(Turn.objects.values_list("pk", "excluded_because")), turns)

    def test_a_void_row_previews_and_is_stored(self):
        code = self.campaign.specimens.first().code
        rows = f"specimen,load,outcome,reason,note\n{code},,void,slipped,tighten first\n"
        self.assertIn(
            "1 row understood", words(self.client.post(self.address + "preview/", {"text": rows}))
        )
        self.client.post(self.address + "store/", {"text": rows})
        self.assertEqual(Test.objects.get().reason, "slipped")
        self.assertEqual(Test.objects.get().note, "tighten first")

    def test_a_corrected_test_keeps_its_exclusion(self):
        bar = self.campaign.specimens.first()
        put(bar, self.user, entry("20 N"))
        exclude(bar.turns.get().test, "a void was seen in it", self.user, NOW)
        put(bar, self.user, entry("25 N"), replace=True)
        test = bar.turns.get().test
        self.assertEqual((test.excluded, test.exclusion_reason), (True, "a void was seen in it"))
        self.assertTrue(bar.turns.get().excluded)


class OtherMethods(TestCase):
    def setUp(self):
        self.user = person()
        self.client.force_login(self.user, backend=BACKEND)

    def test_swings_come_in_and_everything_goes_out(self):
        one = bench_of(self.user, "impact", replicates=2)
        text = (
            "material;procedure;end angle [°];width [mm];thickness [mm];outcome\n"
            "Fernhall PLA;Impact, flat;128;10;4;complete\nTarn ASA;Impact, flat;118,5;10;4;hinged\n"
            "Tarn ASA;Impact, flat;high;10;4;\n"
        )
        address = f"/campaigns/{one.pk}/import-data/"
        seen = self.client.post(address + "preview/", {"text": text})
        self.assertIn("2 rows understood", words(seen))
        self.assertContains(seen, "does not start with a number")
        self.client.post(address + "store/", {"text": text.rpartition("Tarn ASA")[0]})
        rows = list(csv.DictReader(io.StringIO(export_csv(one))))
        done = [r for r in rows if r["outcome"]]
        self.assertEqual({r["measured property"] for r in done}, {"impact_strength"})
        self.assertEqual({r["outcome"] for r in done}, {"broke", "hinged"})
        self.assertTrue(all("absorbed_energy:" in r["further results"] for r in done))
        self.assertIn("end_angle: 128", "".join(r["readings as typed"] for r in done))
        self.assertEqual({r["load lower [N]"] for r in done}, {""})

    def test_a_bound_and_an_answer_go_out(self):
        one = bench_of(self.user, "flexure", replicates=1)
        specimen = one.specimens.first()
        asked = ({"asked": "Peak load reads like kgf.", "answer": "kept"},)
        inputs = {"force": "13.4", "width": "10", "thickness": "4", "slope": "28"}
        put(specimen, self.user, Entry(uuid4(), NOW, inputs, "held", answers=asked))
        rows = list(csv.DictReader(io.StringIO(export_csv(one))))
        row = next(r for r in rows if r["specimen"] == specimen.code)
        self.assertEqual((row["upper bound"], row["outcome"]), ("", "held"))
        self.assertIn("flexural_modulus:", row["further results"])
        self.assertEqual(row["asked and answered"], "Peak load reads like kgf. kept")
