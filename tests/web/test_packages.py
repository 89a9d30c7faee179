"""A campaign as a data package: whole, valid by a public validator, read by pandas, back without loss; and refused.

Validator: frictionless (PyPI), the reference implementation of the tabular data package.
"""

import contextlib
import io
import json
import re
import tempfile
import zipfile
from hashlib import sha256
from pathlib import Path
from random import randbytes

import pandas as pd
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.test import TestCase, override_settings
from frictionless import Package as Validated
from PIL import Image

from brunt_core.errors import InputError
from brunt_web.campaigns.models import Campaign, HistoryEvent, Specimen
from brunt_web.changes.models import Change
from brunt_web.checks.actions.check_standards import begin_phase, make_check_standard
from brunt_web.days.models import Hours
from brunt_web.decisions.actions import load_cases
from brunt_web.feedstock.actions.pictures import add_picture
from brunt_web.feedstock.models import Attempt, Qualification
from brunt_web.library.actions.add_material import add_material
from brunt_web.library.actions.rigs import Certificate, add_calibration, also_on
from brunt_web.library.models import Rig
from brunt_web.packages.gathering import Scope
from brunt_web.packages.incoming import read_package
from brunt_web.packages.outgoing import package_of
from brunt_web.packages.store import campaigns_in, store
from brunt_web.packages.tables import ADDED
from brunt_web.people.models import Workshop
from brunt_web.results.models import Result
from brunt_web.testing.actions import curves, photos
from brunt_web.testing.actions.change_test import exclude
from brunt_web.testing.actions.record_test import measure
from brunt_web.testing.models import Curve, DayReading, Measurement, Photo
from tests.support.jobs import finished
from tests.support.plans import Shop, factor
from tests.support.workshop import BACKEND, NOW, campaign, entry, fill, made, person, put, turns_of


def repacked(content: bytes, hashed: bool = True, **changed) -> bytes:
    """A package with files changed, added, or (with ``None``) taken out; ``a__b`` stands for ``a/b``."""
    out = io.BytesIO()
    with (
        zipfile.ZipFile(io.BytesIO(content)) as old,
        zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new,
    ):
        names = {
            k.replace("__", "/", 1) + ("" if k.endswith(("json", "bin")) else ".csv"): v
            for k, v in changed.items()
        }
        parts = {name: old.read(name) for name in old.namelist() if name not in names}
        for name, text in names.items():
            if text is not None:
                parts[name] = text if isinstance(text, bytes) else text.encode()
        if hashed and "datapackage.json" in parts:
            parts["datapackage.json"] = _hashed(parts)
        for name, content_of in parts.items():
            new.writestr(name, content_of)
    return out.getvalue()


def _hashed(parts: dict[str, bytes]) -> bytes:
    """The manifest, with the hashes that its files have now; as it is where it is none."""
    try:
        manifest = json.loads(parts["datapackage.json"])
        told = {n: sha256(c).hexdigest() for n, c in parts.items() if n != "datapackage.json"}
        manifest["brunt"]["sha256"] = told
        return json.dumps(manifest).encode()
    except (ValueError, KeyError, TypeError, RecursionError):
        return parts.get("datapackage.json", b"")


def part(content: bytes, name: str) -> str:
    with zipfile.ZipFile(io.BytesIO(content)) as file:
        return file.read(name).decode()


class Packages(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.media = tempfile.TemporaryDirectory()
        cls.addClassCleanup(cls.media.cleanup)
        with override_settings(MEDIA_ROOT=cls.media.name):
            cls.user = person("Åsa Öberg")
            cls.shop = cls.user.seat.workshop
            plans = Shop(cls.user)
            cls.one = made(plans.plan(factor("condition", "room, 23 °C", "60 °C, “heiß”", name="State"), n=3), cls.user)  # fmt: skip
            bars = list(turns_of(cls.one).order_by("run_order"))
            for i, t in enumerate(bars[:5]):
                load = ("500 N", "> 510 N", "480 .. 490 N", "1/2 kN", "58.4 kgf")[i]
                put(t, cls.user, entry(load, "held" if load.startswith(">") else "broke", untimely="=cmd|' /C calc'!A0"))  # fmt: skip
            put(bars[0], cls.user, entry("505 N", untimely="again"), replace=True)
            exclude(
                turns_of(cls.one).get(pk=bars[1].pk).test,
                "a void, “seen”\nin the face",
                cls.user,
                NOW,
            )
            for weighed in ("1.32 g", "1.23 g"):
                measure(bars[2].specimen, cls.user, NOW, {"mass": weighed})
            points = b"\n".join(b"%f;%f" % (x / 50, x * 5) for x in range(1, 60))
            pulled = turns_of(cls.one).get(pk=bars[0].pk)
            curves.bring_curve(
                pulled, cls.user, NOW, "pull.csv", b"displacement mm;force N\n" + points, ""
            )
            picture = io.BytesIO()
            Image.new("RGB", (30, 20), "navy").save(picture, "PNG")
            photos.add_photo(bars[0].specimen, cls.user, NOW, SimpleUploadedFile("x.png", picture.getvalue()), "the face")  # fmt: skip
            load_cases.add_load_case(
                cls.one, cls.user, NOW, "Arm", "tension", "along", {"load": "5 kgf"}, {}
            )
            swing = Rig.objects.create(
                workshop=cls.shop, name="Swing", capacity=5.0, resolution=0.1
            )
            day = {"key": "free_end_angle", "text": "138°", "at": NOW, "by": cls.user}
            DayReading.objects.create(
                workshop=cls.shop, procedure=bars[0].procedure, rig=swing, **day
            )
            second = Rig.objects.create(
                workshop=cls.shop, name="Frame two", capacity=500.0, resolution=0.1
            )
            add_calibration(second, cls.user, Certificate(NOW.date(), certificate="GT-7"))
            also_on(bars[0].procedure, [second])
            cls.content = package_of(cls.shop, [cls.one], cls.one.question)

    def setUp(self):
        inside = override_settings(MEDIA_ROOT=self.media.name)
        inside.enable()
        self.addCleanup(inside.disable)

    def same(self, one: bytes, other: bytes):
        """Two packages hold the same to the byte, but for the workshop each is of."""
        parts = []
        for content in (one, other):
            file = zipfile.ZipFile(io.BytesIO(content))
            own = json.loads(file.read("datapackage.json"))["brunt"]["workshop"].encode()
            told = {n: file.read(n).replace(own, b"its workshop") for n in file.namelist()}
            told["datapackage.json"] = re.sub(rb'"sha256": {[^}]*}', b"", told["datapackage.json"])
            parts.append(told)
        self.assertEqual(*parts)

    def test_out_in_out_is_the_same_to_the_byte(self):
        shop = store(read_package(self.content))
        (copy,) = campaigns_in(shop)
        self.same(package_of(shop, [copy], copy.question), self.content)
        self.assertNotEqual(copy.pk, self.one.pk)
        self.assertEqual(Result.objects.filter(turn__campaign=copy).count(), Result.objects.filter(turn__campaign=self.one).count())  # fmt: skip
        photo = Photo.objects.get(specimen__campaign=copy)
        self.assertTrue((Path(self.media.name) / "photos" / photo.file).is_file())
        self.assertIn(
            photo.file,
            [e.detail.get("file") for e in HistoryEvent.objects.filter(specimen__campaign=copy)],
        )
        turns = set(copy.turns.values_list("pk", flat=True))
        told = {
            e.detail["turn"]
            for e in HistoryEvent.objects.filter(specimen__campaign=copy)
            if "turn" in e.detail
        }
        self.assertTrue(told and told <= turns)
        self.assertTrue(Curve.objects.filter(turn__campaign=copy).exists())
        self.assertEqual(DayReading.objects.get(workshop=shop).rig.name, "Swing")
        size = Measurement.objects.get(moment__specimen__campaign=copy, text="1.23 g")
        kept = Change.objects.get(kind="testing_measurement", row=size.pk)
        self.assertEqual((kept.before["text"], kept.workshop), ("1.32 g", shop))
        further = copy.turns.first().procedure.also_on.get()
        self.assertEqual((further.name, further.workshop), ("Frame two", shop))
        self.assertEqual(further.calibrations.get().certificate, "GT-7")

    def test_a_whole_workshop_too(self):
        other = campaign(self.user, materials=("Fernhall PLA", "Tarn ASA"), question="Beside it?")
        fill(other, self.user, {"Tarn ASA": ["400", "404"]})
        add_material(self.shop, "Never used", "asa")
        pla = self.shop.materials.get(name="Fernhall PLA")
        bar = make_check_standard(self.shop, self.user, pla, other.procedures.first())
        begin_phase(bar, self.user, NOW.date(), "new jaws")
        Hours.objects.create(workshop=self.shop, zone="Europe/Vienna", people=3)
        qualification = Qualification.objects.create(workshop=self.shop, name="Flakes", material=pla, created_by=self.user)  # fmt: skip
        Attempt.objects.create(qualification=qualification, gate="melt", passed=True, reason="it ran", at=NOW, by=self.user)  # fmt: skip
        flakes = io.BytesIO()
        Image.new("L", (200, 150), 250).save(flakes, "PNG")
        add_picture(qualification, self.user, NOW, SimpleUploadedFile("f.png", flakes.getvalue()))
        every = campaigns_in(self.shop)
        content = package_of(self.shop, every, self.shop.name, Scope(whole=True))
        self.assertIn("photos/feedstock_pictures_1.png", zipfile.ZipFile(io.BytesIO(content)).namelist())  # fmt: skip
        shop = store(read_package(content), "Elsewhere")
        self.same(package_of(shop, campaigns_in(shop), self.shop.name, Scope(whole=True)), content)
        self.assertTrue(shop.materials.filter(name="Never used").exists())
        self.assertEqual(shop.check_standards.get().phases.get().because, "new jaws")
        self.assertEqual(
            (shop.hours.people, shop.qualifications.get().attempts.get().gate), (3, "melt")
        )

    def test_a_package_of_format_2_is_read_under_todays_names(self):
        """Written by the version before format 3, of the same made-up workshop."""
        content = (Path(__file__).parents[1] / "support/packages/format2.zip").read_bytes()
        shop = store(read_package(content), "Of format 2")
        (copy,) = campaigns_in(shop)
        self.assertEqual(
            sorted(copy.specimens.values_list("outstanding", flat=True)), [""] * 3 + ["state"] * 3
        )
        self.assertTrue(HistoryEvent.objects.filter(specimen__campaign=copy).exists())
        self.assertEqual(copy.load_cases.get().name, "Arm")
        self.assertEqual(shop.check_standards.count(), 1)
        told = Change.objects.filter(workshop=shop).values_list("kind", "before", "after")
        size = ("testing_measurement", {"text": "1.32 g", "value": 0.00132}, {"text": "1.23 g", "value": 0.00123})  # fmt: skip
        self.assertIn(size, list(told))
        self.assertIn("testing_test", [kind for kind, *_ in told])
        self.assertTrue(Result.objects.filter(turn__campaign=copy).exists())

    def test_an_older_package_without_later_tables_is_read(self):
        parts = zipfile.ZipFile(io.BytesIO(self.content))
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as file:
            manifest = json.loads(parts.read("datapackage.json"))
            manifest["brunt"] |= {"format": 1, "sha256": None}
            file.writestr("datapackage.json", json.dumps(manifest))
            for name in parts.namelist():
                if Path(name).stem not in ADDED and name != "datapackage.json":
                    file.writestr(name, parts.read(name))
        shop = store(read_package(out.getvalue()), "Of old")
        self.assertEqual(len(campaigns_in(shop)), 1)

    def test_a_public_validator_accepts_it(self):
        with tempfile.TemporaryDirectory() as folder:
            zipfile.ZipFile(io.BytesIO(self.content)).extractall(folder)
            report = Validated(str(Path(folder) / "datapackage.json")).validate()
            self.assertTrue(report.valid, report.flatten(["title", "fieldName", "rowNumber", "message"])[:5])  # fmt: skip
            self.assertGreater(len(report.tasks), 40)

    def test_a_statistician_reads_it_with_pandas_alone(self):
        """Mean strength by condition, from results, turns and conditions joined; 505 N on 10 mm² are 50.5 MPa."""
        frames = {n: pd.read_csv(io.StringIO(part(self.content, f"data/{n}.csv"))) for n in ("results", "turns", "conditions", "tests")}  # fmt: skip
        joined = frames["results"].merge(
            frames["turns"], left_on="turn", right_on="id", suffixes=("", "_t")
        )
        joined = joined.merge(
            frames["conditions"], left_on="condition", right_on="id", suffixes=("", "_c")
        )
        strong = joined[(joined.property_key == "tensile_strength") & (~joined.excluded)]
        self.assertIn(50.5, (strong.lower / 1e6).round(6).tolist())
        self.assertTrue(strong.upper.isna().sum() == 0)
        held = joined[joined.excluded]
        self.assertTrue(held.upper.isna().all())
        flat = pd.read_csv(io.StringIO(part(self.content, "flat/campaign_1.csv")))
        self.assertEqual(len(flat), 6)

    def test_nobody_is_named(self):
        for name in zipfile.ZipFile(io.BytesIO(self.content)).namelist():
            if name.endswith((".csv", ".json")):
                self.assertNotIn("Åsa", part(self.content, name), name)
        self.assertIn("person 1", part(self.content, "data/people.csv"))

    def refused(self, content: bytes, words: str) -> None:
        before = (Workshop.objects.count(), Campaign.objects.count(), Specimen.objects.count(), len(list(Path(self.media.name).rglob("*"))))  # fmt: skip
        with self.assertRaisesRegex(InputError, words):
            store(read_package(content), "Never")
        after = (Workshop.objects.count(), Campaign.objects.count(), Specimen.objects.count(), len(list(Path(self.media.name).rglob("*"))))  # fmt: skip
        self.assertEqual(before, after)

    def test_what_was_changed_added_or_taken_out_since_is_refused(self):
        readings = part(self.content, "data/readings.csv")
        changed = readings.replace("505", "9999", 1)
        self.assertNotEqual(changed, readings)
        self.refused(repacked(self.content, hashed=False, data__readings=changed), "readings.csv of the package is not what was packed")  # fmt: skip
        self.refused(repacked(self.content, hashed=False, **{"curves__junk_1.bin": randbytes(3_000_000)}), "not packed with it")  # fmt: skip
        self.refused(
            repacked(self.content, **{"curves__junk_1.bin": randbytes(3_000_000)}), "No row"
        )
        manifest = json.loads(part(self.content, "datapackage.json"))
        for form in (-1, 0, True, "2"):
            told = {**manifest, "brunt": {**manifest["brunt"], "format": form}}
            self.refused(repacked(self.content, **{"datapackage.json": json.dumps(told)}), "not made by Brunt")  # fmt: skip

    def test_damaged_foreign_newer_and_hostile_ones_are_refused(self):
        manifest = json.loads(part(self.content, "datapackage.json"))
        newer = {**manifest, "brunt": {**manifest["brunt"], "format": 99}}
        tests = part(self.content, "data/tests.csv")
        turns = part(self.content, "data/turns.csv")
        results = part(self.content, "data/results.csv")
        nan = results.replace("tensile_strength,", "tensile_strength,nan ", 1)
        head, first, *rest = turns.split("\n")
        cells = first.split(",")
        stray = "\n".join([head, ",".join([cells[0], "77", *cells[2:]]), *rest])
        for content, words in (
            (b"", "not a zip file"),
            (b"PK\x03\x04 nonsense", "not a zip file"),
            (self.content[: len(self.content) // 2], "not a zip file"),
            (self.content.replace(b"\x00\x00\x00", b"\x00\x01\x00", 3), "zip|damaged|package"),
            (repacked(self.content, **{"datapackage.json": None}), "no datapackage.json"),
            (repacked(self.content, **{"datapackage.json": "{"}), "cannot be read"),
            (repacked(self.content, **{"datapackage.json": "[" * 100_000}), "cannot be read"),
            (repacked(self.content, **{"datapackage.json": "{}"}), "not made by Brunt"),
            (repacked(self.content, **{"datapackage.json": json.dumps(newer)}), "newer than this Brunt"),
            (repacked(self.content, data__turns=None), "turns is missing"),
            (repacked(self.content, data__turns="a,b\n1,2\n"), "other columns"),
            (repacked(self.content, data__turns=b"\xff\xfe\x00"), "cannot be read"),
            (repacked(self.content, data__turns=turns.replace("\n2,", "\n7,", 1)), "numbered 7"),
            (repacked(self.content, data__turns=stray), "campaign: leads to campaigns 77"),
            (repacked(self.content, data__tests=tests.replace("broke", "exploded" * 40)), "more than 20 characters"),
            (repacked(self.content, data__results=nan), "is no number"),
            (repacked(self.content, data__campaigns=part(self.content, "data/campaigns.csv").replace(",[],", ",{},", 1)), "notes: “{}” is no string"),
            (repacked(self.content, **{"../x.json": "{}"}), "does not belong there"),
            (repacked(self.content, **{"/etc/passwd.json": "{}"}), "does not belong there"),
            (repacked(self.content, **{"curves/a b.bin": "x"}), "does not belong there"),
            (repacked(self.content, data__zeros="0" * 30_000_000), "so tightly"),
        ):  # fmt: skip
            with self.subTest(words):
                self.refused(content, words)

    def test_hostile_changes_and_requirements_are_refused(self):
        changes = part(self.content, "data/changes.csv").split("\n")
        one = changes[1].split(",", 5)
        for at, wrong in ((1, "yesterday"), (2, "99"), (3, "auth_user"), (4, "9999"), (4, "x")):
            cells = [*one[:at], wrong, *one[at + 1 :]]
            rows = "\n".join([changes[0], ",".join(cells), *changes[2:]])
            with self.subTest(wrong):
                self.refused(repacked(self.content, data__changes=rows), "changes, row 1")
        for document in ('"{""nonsense"":1}"', '"[1]"', "{"):
            rows = "\n".join([changes[0], ",".join([*one[:5], document, document])])
            self.refused(repacked(self.content, data__changes=rows), "changes, row 1")
        conditions = part(self.content, "data/conditions.csv")
        odd = conditions.replace('""state""', '""steps""', 1)
        self.assertNotEqual(odd, conditions)
        self.refused(repacked(self.content, data__conditions=odd), "requirements: .* is no string")

    def test_what_cannot_stand_together_is_refused_by_the_database_and_nothing_is_stored(self):
        specimens = part(self.content, "data/specimens.csv").split("\n")
        codes = [row.split(",")[5] for row in specimens[1:3]]
        twice = "\n".join(specimens).replace(codes[1], codes[0])
        self.refused(repacked(self.content, data__specimens=twice), "are inconsistent")

    def test_a_name_that_is_taken(self):
        with self.assertRaisesRegex(InputError, "already"):
            store(read_package(self.content), self.shop.name)

    def test_from_the_rack(self):
        self.client.force_login(self.user, backend=BACKEND)
        self.assertContains(self.client.get(f"/campaigns/{self.one.pk}/"), "package.zip")
        answer = self.client.get(f"/campaigns/{self.one.pk}/package.zip")
        self.assertEqual(b"".join(answer), self.content)
        self.client.force_login(person("stranger"), backend=BACKEND)
        self.assertEqual(self.client.get(f"/campaigns/{self.one.pk}/package.zip").status_code, 404)

    def test_by_command(self):
        with tempfile.TemporaryDirectory() as folder:
            path = str(Path(folder) / "a.zip")
            said = self.say("out", str(self.one.pk), path)
            self.assertEqual(said["campaigns"], 1)
            checked = self.say("check", path)
            self.assertEqual((checked["ok"], checked["rows"]["specimens"]), (True, 6))
            brought = self.say("in", path, "--as", "By command")
            again = str(Path(folder) / "b.zip")
            self.say("out", str(brought["campaigns"][0]), again)
            self.same(Path(path).read_bytes(), Path(again).read_bytes())
            for wrong in (("out", "99999", path), ("out", "x", path), ("check", "nowhere.zip"), ("in", path, "--as", "By command")):  # fmt: skip
                with (
                    self.assertRaises(SystemExit) as ended,
                    contextlib.redirect_stderr(io.StringIO()) as err,
                ):
                    self.say(*wrong)
                self.assertEqual(ended.exception.code, 2)
                self.assertTrue(err.getvalue().strip())

    def say(self, *arguments):
        out = io.StringIO()
        with contextlib.redirect_stdout(out):
            call_command("package", *arguments, "--json")
        return json.loads(out.getvalue())


class FromTheBrowser(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.one = campaign(cls.user, replicates=2, orientations=("flat",))
        fill(cls.one, cls.user, {"Fernhall PLA": ["500", "501"], "Tarn ASA": ["300", "301"]})
        cls.content = package_of(cls.user.seat.workshop, [cls.one], cls.one.question)

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def send(self, address, content, **more):
        """Sent, worked on by the worker, and its answer: no package is read by the web."""
        file = SimpleUploadedFile("p.zip", content)
        said = self.client.post(address, {"file": file, **more})
        self.assertIn("/jobs/", said.headers.get("Location", ""))
        return finished(self.client, said)

    def test_what_is_no_package_is_refused_in_a_sentence_and_nothing_stored(self):
        before = Workshop.objects.count()
        for bad in (b"", b"hello", self.content[:-400]):
            for address in ("/packages/", "/packages/look/"):
                answer = self.send(address, bad, name="x")
                self.assertEqual(answer.status_code, 422)
                self.assertContains(answer, 'role="alert"', status_code=422)
        self.assertEqual(Workshop.objects.count(), before)
        self.assertEqual(self.client.post("/packages/").status_code, 422)

    def test_data_import_and_sat_down_and_back(self):
        home = self.user.seat.workshop
        self.send("/packages/", self.content, name="Next door")
        other = Workshop.objects.get(name="Next door")
        taken = self.send("/packages/", self.content, name="Next door")
        self.assertContains(taken, "already: give another name", status_code=422)
        self.client.post(f"/workshops/{other.pk}/sit-down/")
        self.assertContains(self.client.get("/"), "Which for the pawl?")
        self.assertEqual(self.client.get(f"/campaigns/{self.one.pk}/").status_code, 404)
        self.client.post(f"/workshops/{home.pk}/sit-down/")
        self.assertEqual(self.client.get(f"/campaigns/{self.one.pk}/").status_code, 200)

    def test_nobody_sits_down_where_it_is_not_open(self):
        stranger = person("stranger").seat.workshop
        self.assertEqual(self.client.post(f"/workshops/{stranger.pk}/sit-down/").status_code, 404)
        self.user.seat.refresh_from_db()
        self.assertNotEqual(self.user.seat.workshop_id, stranger.pk)
