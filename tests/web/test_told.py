"""What leaves the house: nobody is named, whatever was written where; only what may be told; packages made behind."""

import csv
import io
import json
import zipfile
from contextlib import contextmanager
from unittest import mock

from django.contrib.auth.models import User
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import models
from django.test import Client, SimpleTestCase, TestCase
from django.utils import timezone
from PIL import Image
from python_calamine import CalamineWorkbook

from brunt_web.checks.actions.check_standards import begin_phase, make_check_standard
from brunt_web.library.models import Calibration
from brunt_web.packages import views
from brunt_web.packages.incoming import read_package
from brunt_web.packages.store import campaigns_in, store
from brunt_web.packages.tables import TABLES, columns
from brunt_web.packages.told import TOLD, is_told, may_tell
from brunt_web.people.nameless import Nameless
from brunt_web.publishing.actions import reports
from brunt_web.testing.actions import curves, photos
from tests.support.jobs import finished
from tests.support.media import own_media
from tests.support.workshop import BACKEND, NOW, campaign, fill, person, turns_of

# Left in the house, each for a reason: where instruments and rigs stand, who calibrated, rooms, notes on rigs.
KEPT_BACK = {
    "rigs": {"note", "location", "instrument"},
    "calibrations": {"by_whom", "note"},
    "vessels": {"room", "thermometer", "note"},
    "grades": {"photo"},
}
NAMES = ("Ida", "bo", "Marion Vale", "Xenia", "علي", "王伟")


class Names(SimpleTestCase):
    """The ways a name stands in a sentence."""

    def test_names_in_sentences(self):
        hidden = Nameless({name: f"person {i}" for i, name in enumerate(NAMES, 1)})
        for text, told in (
            ("IDA pulled it", "person 1 pulled it"),
            ("ıda, İda", "person 1, person 1"),
            ("ida's hand; idle", "person 1's hand; idle"),
            ("Bo, then Vale", "person 2, then person 3"),
            ("marion vale", "person 3"),
            ("wie von Xenia, gesehen", "wie von person 4, gesehen"),
            ("كسره علي أمس", "كسره person 5 أمس"),
            ("由王伟测试", "由person 6测试"),
            ("the bobbin of the Xeniale", "the bobbin of the Xeniale"),
        ):
            with self.subTest(text):
                self.assertEqual(hidden.text(text), told)

    def test_a_name_that_is_a_word_stays_where_it_is_written_small(self):
        hidden = Nameless({"Max": "person 1"})
        self.assertEqual(hidden.text("Max, MAX set max 5 %"), "person 1, person 1 set max 5 %")
        small = Nameless({"max": "person 1"})
        self.assertEqual(small.text("max set it"), "person 1 set it", "as the account writes it")

    def test_in_a_page_its_marks_stay(self):
        hidden = Nameless({"O'Dell": "person 1", "div": "person 2"})
        page = '<div class="div" title="by O&#x27;Dell">O&#x27;Dell &amp; div; the board of O&#x27;Dell Ltd</div>'
        told = hidden.page(page, stays="the board of O'Dell Ltd")
        self.assertEqual(
            told,
            '<div class="div" title="by person 1">person 1 &amp; person 2; the board of O&#x27;Dell Ltd</div>',
        )

    def test_every_text_column_of_a_told_table_is_told_or_kept_back_on_purpose(self):
        for table in TABLES:
            if not is_told(table):
                continue
            silent = {f.name for f in columns(table) if not may_tell(table, f)}
            self.assertEqual(silent, KEPT_BACK.get(table.name, set()), table.name)
            unknown = set(TOLD[table.name].split()) - {f.name for f in columns(table)}
            self.assertEqual(unknown, set(), table.name)


class Told(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person("Ida")
        cls.shop = cls.user.seat.workshop
        cls.shop.name = "The glasshouse"
        cls.shop.save()
        gone = person("Zeno", cls.shop)
        gone.seat.delete()
        person("Otto Quill")  # in a workshop of his own
        renamed = person("Berta", cls.shop)
        renamed.username = "Lotte"
        renamed.save()
        cls.one = campaign(
            cls.user, orientations=("flat",), question="What ida asked: which holds?"
        )
        fill(cls.one, cls.user, {"Fernhall PLA": ["500", "510"], "Tarn ASA": ["300", "305"]})
        cls.bars = list(turns_of(cls.one).order_by("condition__position", "specimen__replicate"))
        cls.written = "zeno pulled, IDA read, Berta and Lotte stood by, quill wrote"
        bar = cls.bars[0]
        bar.test.note = cls.written
        bar.test.save()
        bar.specimen.note = cls.written
        bar.specimen.deviations = [{"says": cls.written, "turn": None}]
        bar.specimen.save()
        condition = bar.condition
        condition.label = "ida's PLA"
        condition.save()
        rig = bar.procedure.rig
        if rig:
            rig.note, rig.instrument = "ask zeno", "tcp:10.0.0.9:4001"
            rig.save()
            Calibration.objects.create(rig=rig, on=NOW.date(), by_whom="Zeno", by=cls.user)

    def setUp(self):
        own_media(self)
        rows = b"\n".join(b"%f;%f" % (x / 50, x * 5) for x in range(1, 60))
        content = b"operator: Zeno Strand\ndisplacement mm;force N\n" + rows
        curves.bring_curve(self.bars[1], self.user, NOW, "by-Ida.csv", content)
        for caption in ("chosen, says ida", "of nobody's business"):
            picture = io.BytesIO()
            Image.new("RGB", (30, 20), "navy").save(picture, "PNG")
            file = SimpleUploadedFile("x.png", picture.getvalue())
            photos.add_photo(self.bars[0].specimen, self.user, NOW, file, caption)
        first = self.bars[0].specimen.photos.order_by("pk").first()
        reports.keep_words(self.one, self.user, NOW, "Ida won.", "The board of Zeno", [first.pk], 0)
        self.link = reports.make_link(self.one, self.user, timezone.now(), "", None, True)

    def every(self):
        """All that a reader gets by the link, as text, by what it is."""
        reader, at = Client(), f"/read/{self.link.token}/"
        found = {
            n or "page": reader.get(at + n).content.decode()
            for n in ("", "?short=1", "results.csv", "results.json")
        }
        sheet = reader.get(at + "results.xlsx").content
        book = CalamineWorkbook.from_filelike(io.BytesIO(sheet))
        cells = [
            str(c)
            for n in book.sheet_names
            for row in book.get_sheet_by_name(n).to_python()
            for c in row
        ]
        title = zipfile.ZipFile(io.BytesIO(sheet)).read("docProps/core.xml").decode()
        found["xlsx"] = "\n".join([*cells, title])
        self.package = b"".join(reader.get(at + "package.zip"))
        self.zip = zipfile.ZipFile(io.BytesIO(self.package))
        for name in self.zip.namelist():
            found[name] = self.zip.read(name).decode("utf-8", "replace")
        return found

    def test_nobody_is_named_anywhere(self):
        for name, text in self.every().items():
            plain = text.replace("The board of Zeno", "")
            for word in ("Ida", "Zeno", "Quill", "Otto", "Berta", "Lotte"):
                with self.subTest(file=name, name=word):
                    self.assertNotRegex(plain, rf"(?i)\b{word}\b")

    def test_who_is_to_be_cited_is_named_and_a_person_has_one_number_everywhere(self):
        found = self.every()
        self.assertIn("The board of Zeno", found["page"])
        number = Nameless.of_all().numbers["Ida"]
        for name in ("page", "results.csv", "results.json", "xlsx"):
            self.assertIn(f"{number} read", found[name], name)

    def test_photos_that_were_chosen_and_what_was_excluded_is_named(self):
        self.every()
        pictures = [n for n in self.zip.namelist() if n.startswith("photos/")]
        self.assertEqual(len(pictures), 1)
        told = json.loads(self.zip.read("datapackage.json"))["brunt"]["not_included"]
        self.assertEqual(told, ["1 photo that nobody chose for the report."])
        rigs = self.zip.read("data/rigs.csv").decode()
        self.assertNotIn("10.0.0.9", rigs)
        shop = store(read_package(self.package), "Read back")
        self.assertEqual(len(campaigns_in(shop)), 1)
        self.assertEqual(User.objects.filter(first_name="person 1").count(), 1)

    def test_check_standards_that_warnings_rest_on_go_with_it(self):
        pla = self.bars[0].condition.material
        bar = make_check_standard(self.shop, self.user, pla, self.one.procedures.first())
        begin_phase(bar, self.user, NOW.date(), "new jaws")
        other = campaign(self.user, orientations=("flat",), question="Elsewhere?")
        fill(other, self.user, {"Fernhall PLA": ["480", "481"], "Tarn ASA": ["300", "305"]})
        self.every()
        points = list(csv.DictReader(io.StringIO(self.zip.read("flat/check_points.csv").decode())))
        self.assertEqual({p["campaign"] for p in points} & {"Elsewhere?"}, {"Elsewhere?"})
        told = json.loads(self.zip.read("datapackage.json"))["brunt"]["not_included"]
        self.assertTrue(any("check standard" in t for t in told))
        shop = store(read_package(self.package), "With its check standard")
        self.assertEqual(shop.check_standards.get().phases.get().because, "new jaws")

    @contextmanager
    def large(self):
        with mock.patch.object(views, "_OUT_AT_ONCE", 10):
            yield

    def test_a_large_package_is_made_behind_and_kept_for_its_workshop(self):
        self.client.force_login(self.user, backend=BACKEND)
        at = f"/campaigns/{self.one.pk}/package.zip"
        with self.large():
            self.assertContains(self.client.get(at), "is created in the background")
            said = self.client.post(at)
            made = finished(self.client, said)
            address = made.headers["Location"]
        content = b"".join(self.client.get(address))
        self.assertGreater(len(read_package(content).files), 2)
        self.client.force_login(person("stranger"), backend=BACKEND)
        self.assertEqual(self.client.get(address).status_code, 404)

    def test_a_package_takes_memory_for_its_rows_and_not_for_its_photos(self):
        """Every part is opened, written and closed before the next; none is held as a whole."""
        held, most = 0, 0
        real = views.write_package.__globals__["_Package"]._opened

        def opened(package, name):
            nonlocal held, most
            file = real(package, name)
            held += 1
            most = max(most, held)
            close = file.close

            def closed():
                nonlocal held
                held -= 1
                close()

            return mock.MagicMock(
                read=file.read, __enter__=lambda s: s, __exit__=lambda s, *a: closed()
            )

        with mock.patch.object(views.write_package.__globals__["_Package"], "_opened", opened):
            self.every()
        self.assertEqual((held, most), (0, 1))


class Fields(SimpleTestCase):
    def test_binary_columns_are_files_in_the_package(self):
        for table in TABLES:
            for field in columns(table):
                if isinstance(field, models.BinaryField):
                    self.assertIn(field.name, ("data", "content", "source"), table.name)
