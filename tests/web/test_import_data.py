"""Bringing in what workshops really keep: odd units, foreign heads, spreadsheets, own IDs, and undo."""

import html
import io
import re
import time
import zipfile

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from python_calamine import CalamineWorkbook
from xlsxwriter import Workbook

from brunt_web.campaigns.models import Condition, Specimen, Turn
from brunt_web.exchange.export import safe
from brunt_web.exchange.models import DataImport, HeadingMeaning
from brunt_web.library.models import Material
from brunt_web.results.models import Result
from brunt_web.testing.models import Test
from tests.support.jobs import finished
from tests.support.reading import words
from tests.support.workshop import BACKEND, campaign, entry, person, put

HEAD = "condition;procedure;load;width;thickness\n"


def rows(count, load="58.4", condition="Fernhall PLA"):
    return "".join(f"{condition};flat;{load};5;2\n" for _ in range(count))


def spreadsheet(sheets):
    """An XLSX file of sheets of rows."""
    out = io.BytesIO()
    book = Workbook(out)
    for name, lines in sheets.items():
        sheet = book.add_worksheet(name)
        for i, line in enumerate(lines):
            sheet.write_row(i, 0, line)
    book.close()
    return out.getvalue()


def ods(lines):
    """A minimal OpenDocument spreadsheet (ISO/IEC 26300): one sheet of text and numbers."""

    def cell(value):
        if isinstance(value, str):
            return (
                '<table:table-cell office:value-type="string">'
                f"<text:p>{value}</text:p></table:table-cell>"
            )
        return (
            f'<table:table-cell office:value-type="float" office:value="{value}">'
            f"<text:p>{value}</text:p></table:table-cell>"
        )

    names = "urn:oasis:names:tc:opendocument:xmlns"
    body = "".join(
        f"<table:table-row>{''.join(cell(v) for v in line)}</table:table-row>" for line in lines
    )
    content = (
        f'<?xml version="1.0"?><office:document-content xmlns:office="{names}:office:1.0" '
        f'xmlns:table="{names}:table:1.0" xmlns:text="{names}:text:1.0" office:version="1.2">'
        f'<office:body><office:spreadsheet><table:table table:name="One">{body}'
        "</table:table></office:spreadsheet></office:body></office:document-content>"
    )
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as packed:
        kind = "application/vnd.oasis.opendocument.spreadsheet"
        packed.writestr("mimetype", kind)
        packed.writestr(
            "META-INF/manifest.xml",
            f'<?xml version="1.0"?><manifest:manifest xmlns:manifest="{names}:manifest:1.0">'
            f'<manifest:file-entry manifest:full-path="/" manifest:media-type="{kind}"/>'
            "</manifest:manifest>",
        )
        packed.writestr("content.xml", content)
    return out.getvalue()


class Bringing(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.campaign = campaign(cls.user)
        cls.address = f"/campaigns/{cls.campaign.pk}/import-data/"

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def look(self, text, **more):
        return self.client.post(self.address + "preview/", {"text": text, **more})

    def send(self, name, content, **more):
        file = SimpleUploadedFile(name, content)
        return self.client.post(self.address + "preview/", {"file": file, **more})

    def store(self, text, **more):
        return self.client.post(self.address + "store/", {"text": text, **more}, follow=True)

    def strengths(self):
        return sorted(round((r.lower or r.upper) / 1e6, 1) for r in Result.objects.all())


class Questions(Bringing):
    """What the bench would ask of one reading is asked of all rows at once."""

    def test_rows_that_read_like_another_unit_are_asked_once_and_changed(self):
        text = HEAD + rows(3) + rows(1, "572 N")
        seen = self.look(text)
        self.assertIn("3 rows read like kgf: peak load, for instance 58.4 kgf.", words(seen))
        self.assertIn("lines 2, 3, 4", words(seen))
        self.assertIn("1 row understood", words(seen))
        refused = self.store(text)
        self.assertContains(refused, "Answer this first", status_code=422)
        self.assertEqual(Test.objects.count(), 0)
        (key,) = set(re.findall(r'name="(say-[^"]+)"', seen.content.decode()))
        changed = self.look(text, **{key: "change"})
        self.assertIn("4 rows understood", words(changed))
        self.store(text, **{key: "change"})
        self.assertEqual(self.strengths(), [57.2, 57.3, 57.3, 57.3])
        answers = [t.answers for t in Test.objects.order_by("id")]
        self.assertEqual([bool(a) for a in answers], [True, True, True, False])
        self.assertEqual(answers[0][0]["answer"], "changed")

    def test_or_kept_as_written(self):
        text = HEAD + rows(1)
        (key,) = set(re.findall(r'name="(say-[^"]+)"', self.look(text).content.decode()))
        self.store(text, **{key: "keep"})
        self.assertEqual(self.strengths(), [5.8])
        self.assertEqual(Test.objects.get().answers[0]["answer"], "kept")

    def test_a_size_in_inches_and_a_finished_figure_in_psi(self):
        seen = self.look(
            "condition;procedure;load;width;thickness\nFernhall PLA;flat;500;0.197;2\n"
        )
        self.assertIn("reads like in", words(seen))
        text = "condition;procedure;tensile strength\nFernhall PLA;flat;7250\n"
        seen = self.look(text)
        self.assertIn("1 row reads like psi", words(seen))
        (key,) = set(re.findall(r'name="(say-[^"]+)"', seen.content.decode()))
        self.store(text, **{key: "change"})
        self.assertEqual(self.strengths(), [50.0])

    def test_siblings_tell_a_slip_where_no_band_does(self):
        self.store(HEAD + "".join(rows(1, f"{x} N") for x in (480, 500, 520)))
        self.assertIn("reads like kgf", words(self.look(HEAD + rows(1, "51"))))

    def test_what_no_unit_explains_is_told(self):
        seen = self.look(HEAD + rows(1, "2 N"))
        self.assertIn("Check line 2", words(seen))


class Heads(Bringing):
    TEXT = (
        "Zugversuche Juli\n\nBezeichnung;Werkstoff;Lage;Höchstkraft;Breite;Dicke\n;;;N;mm;mm\n"
        "A-eins;Fernhall PLA;flat;512,5;5,02;2,01\nA-zwei;Fernhall PLA;flat;498;5;2\n\n"
        "Mittelwert;;;505,3;;\nStabw.;;;10,3;;\n"
    )
    SAID = {"col-0": "own_id", "col-2": "procedure", "col-3": "force", "col-4": "width", "col-5": "thickness"}  # fmt: skip

    def test_mapped_by_hand_and_remembered(self):
        self.assertContains(self.look(self.TEXT), "Above the header: Zugversuche Juli")
        seen = self.look(self.TEXT, **self.SAID)
        self.assertIn("2 rows understood", words(seen))
        self.assertIn("Means and counts, not specimens: line 8 (Mittelwert)", words(seen))
        self.store(self.TEXT, **self.SAID)
        self.assertEqual(self.strengths(), [49.8, 50.8])
        self.assertEqual(HeadingMeaning.objects.count(), 5)
        again = self.look(self.TEXT.replace("eins", "drei").replace("zwei", "vier"))
        self.assertIn("2 rows understood", words(again))

    def test_a_meaning_can_be_taken_back(self):
        self.store(self.TEXT, **self.SAID)
        HeadingMeaning.objects.create(workshop=self.campaign.workshop, heading="width", part="note")
        text = HEAD + rows(1, "500")
        self.assertContains(self.look(text), "The width is missing")
        self.store(text, **{"col-3": "width"})
        self.assertFalse(HeadingMeaning.objects.filter(heading="width").exists())

    def test_what_changed_since_is_looked_at_first(self):
        text = HEAD + rows(1, "500 N")
        seen = re.search(r'name="seen" value="(\w+)"', self.look(text).content.decode())[1]
        answer = self.store(text, seen=seen, **{"col-3": "thickness", "col-4": "width"})
        self.assertContains(answer, "Something was changed")
        self.assertEqual(Test.objects.count(), 0)
        self.store(text, seen=seen)
        self.assertEqual(Test.objects.count(), 1)


class Refusals(Bringing):
    def test_grouped_by_reason_and_good_rows_alone(self):
        text = HEAD + rows(2, "500 N") + rows(12, "500 N", "Nobody's") + rows(1, "x N")
        seen = self.look(text)
        self.assertIn('<b class="num">12</b> There is no condition', words(seen))
        self.assertIn("and 4 more", words(seen))
        self.assertContains(self.store(text), "Nothing was saved", status_code=422)
        self.store(text, good_only="1")
        self.assertEqual(Test.objects.count(), 2)

    def test_outcomes_in_any_column(self):
        text = (
            "condition;procedure;load;width;thickness;result\n"
            "Fernhall PLA;flat;500 N;5;2;did not break\n"
            "Fernhall PLA;flat;> 51 kgf;5;2;\n"
            "Fernhall PLA;flat;n/a;5;2;\n"
            "Tarn ASA;flat;400 N;5;2;Kein Bruch\n"
            "Tarn ASA;flat;did not break;5;2;\n"
        )
        seen = self.look(text)
        self.assertIn('3 rows understood, <span class="hot">1 refused', words(seen))
        self.assertContains(seen, "no load is given")
        self.assertIn("1 row has no test yet", words(seen))
        self.store(text, good_only="1")
        self.assertEqual(set(Test.objects.values_list("outcome", flat=True)), {"held"})
        self.assertTrue(all(r.observation.kind == "at_least" for r in Result.objects.all()))


class OwnIds(Bringing):
    TEXT = (
        "sample;material;procedure;load;width;thickness\n"
        "Pawl 7;Fernhall PLA;flat;500 N;5;2\nPawl 8;Fernhall PLA;flat;510 N;5;2\n"
    )

    def test_kept_searchable_printed_exported(self):
        self.store(self.TEXT)
        one = Specimen.objects.get(own_id="Pawl 7")
        for path in (
            f"/specimens/{one.code}/",
            f"/campaigns/{self.campaign.pk}/results.csv",
            f"/campaigns/{self.campaign.pk}/labels/",
        ):
            with self.subTest(path):
                self.assertContains(self.client.get(path), "Pawl 7")
        found = self.client.get("/line/", {"q": "pawl 7"}).json()
        self.assertIn(one.code, found["url"])

    def test_duplicates_are_told(self):
        twice = self.TEXT + "pawl 7;Fernhall PLA;flat;520 N;5;2\n"
        self.assertIn("“pawl 7” stands in line 2 already", words(self.look(twice)))
        self.store(self.TEXT)
        more = self.TEXT.splitlines()[0] + "\nPawl 7;Fernhall PLA;flat;505 N;5;2\n"
        self.assertContains(self.look(more), "already has a test")

    def test_a_row_by_condition_never_takes_what_another_row_names(self):
        flat = self.campaign.specimens.filter(procedure__orientation="flat")
        first = flat.filter(condition__label="Fernhall PLA").order_by("replicate").first()
        text = (
            "specimen;material;procedure;load;width;thickness\n"
            ";Fernhall PLA;flat;500 N;5;2\n"
            f"{first.code};;flat;510 N;5;2\n"
        )
        self.assertIn("2 rows understood", words(self.look(text)))
        self.store(text)
        self.assertEqual(Test.objects.count(), 2)
        self.assertEqual(
            Test.objects.get(turn__specimen=first).readings.get(key="force").text, "510 N"
        )

    def test_numbers_from_one_in_each_condition_are_no_duplicates(self):
        text = self.TEXT.splitlines()[0] + "".join(
            f"\n{i};{m};flat;500 N;5;2" for m in ("Fernhall PLA", "Tarn ASA") for i in (1, 2)
        )
        self.assertIn("4 rows understood", words(self.look(text)))

    def test_a_mistyped_id_is_never_a_new_specimen(self):
        code = self.campaign.specimens.first().code
        wrong = [
            code[:-1] + ("2" if code[-1] != "2" else "3"),
            code[1] + code[0] + code[2:],
            code[:-1],
            code + "2",
            "M4-OOO",
        ]
        for typed in wrong:
            text = self.TEXT.splitlines()[0] + f"\n{typed};Fernhall PLA;flat;500 N;5;2\n"
            with self.subTest(typed):
                self.assertContains(self.look(text), f"There is no specimen {typed}")

    def test_named_by_hand_on_its_page(self):
        one = self.campaign.specimens.first()
        self.client.post(f"/specimens/{one.code}/name/", {"own_id": "  Pawl   9 "})
        self.assertEqual(Specimen.objects.get(pk=one.pk).own_id, "Pawl 9")
        other = self.campaign.specimens.last()
        told = self.client.post(f"/specimens/{other.code}/name/", {"own_id": "pawl 9"}, follow=True)
        self.assertContains(told, f"{one.code} has the same name")
        long = self.client.post(f"/specimens/{one.code}/name/", {"own_id": "x" * 81}, follow=True)
        self.assertContains(long, "at most 80")


class Undoing(Bringing):
    def test_an_import_goes_as_a_whole(self):
        text = (
            "sample"
            + HEAD.replace("condition", ";condition")
            + "".join(
                f"Rail {i};{c};flat;500 N;5;2\n"
                for i, c in enumerate(["Fernhall PLA"] * 4 + ["Weir PC"] * 2)
            )
        )
        before = (Specimen.objects.count(), Condition.objects.count(), Material.objects.count())
        states = dict(Turn.objects.values_list("pk", "state"))
        self.store(text, create_missing="1")
        self.assertEqual(Test.objects.count(), 6)
        brought = DataImport.objects.get()
        self.assertContains(self.client.get(self.address), "Undo this import")
        done = self.client.post(f"{self.address}{brought.pk}/undo/", follow=True)
        self.assertContains(done, "6 tests are undone")
        after = (Specimen.objects.count(), Condition.objects.count(), Material.objects.count())
        self.assertEqual((Test.objects.count(), after), (0, before))
        self.assertEqual(dict(Turn.objects.values_list("pk", "state")), states)
        self.assertFalse(Specimen.objects.exclude(own_id="").exists())
        again = self.client.post(f"{self.address}{brought.pk}/undo/", follow=True)
        self.assertContains(again, "undone already")
        self.store(text, create_missing="1")
        self.assertEqual(Test.objects.count(), 6)

    def test_what_was_corrected_since_stays_and_is_told(self):
        self.store(HEAD + rows(2, "500 N"))
        test = Test.objects.first()
        put(test.turn.specimen, self.user, entry("505 N"), replace=True)
        brought = DataImport.objects.get()
        done = self.client.post(f"{self.address}{brought.pk}/undo/", follow=True)
        self.assertContains(done, f"unchanged: {test.turn.code}")
        self.assertEqual(Test.objects.count(), 1)

    def test_another_workshop_cannot_undo_it(self):
        self.store(HEAD + rows(1, "500 N"))
        brought = DataImport.objects.get()
        self.client.force_login(person("stranger"), backend=BACKEND)
        answer = self.client.post(f"{self.address}{brought.pk}/undo/")
        self.assertEqual(answer.status_code, 404)
        self.assertEqual(Test.objects.count(), 1)


class Pasting(Bringing):
    """A block pasted into the queue goes to the specimens that wait, in their order."""

    def paste(self, text, confirm=True):
        procedure = self.campaign.turns.filter(procedure__orientation="flat").first().procedure
        address = f"/campaigns/{self.campaign.pk}/paste/{procedure.pk}/"
        seen = self.client.post(address, {"text": text})
        if confirm and seen.status_code == 200:
            found = re.search(r"<textarea[^>]*>([^<]*)</textarea>", seen.content.decode())[1]
            self.store(html.unescape(found))
        return seen

    def queue(self):
        flat = self.campaign.turns.filter(procedure__orientation="flat")
        return [t.code for t in flat.order_by("run_order").select_related("specimen")]

    def test_blocks_with_and_without_heads(self):
        order = self.queue()
        seen = self.paste("5.02\t2.01\t512 N\tbroke\n5.00\t2.00\t498 N\tdid not break\n")
        self.assertIn("2 rows understood", words(seen))
        tests = {t.turn.code: t for t in Test.objects.select_related("turn__specimen")}
        self.assertEqual(set(tests), set(order[:2]))
        self.assertEqual(tests[order[1]].outcome, "held")
        self.paste("load [kgf];thickness;width\n51;2;5\n")
        self.assertEqual(Test.objects.count(), 3)
        self.assertIn(order[2], [t.turn.code for t in Test.objects.all()])

    def test_a_single_column_asks_for_the_sizes(self):
        self.assertContains(self.paste("512 N\n498 N\n", confirm=False), "is missing")

    def test_refused(self):
        for text, sentence in (
            ("", "Paste one column"),
            ("load\n", "no row below"),
            ("5\n" * 40, "waiting in this queue"),
        ):
            self.assertContains(self.paste(text), sentence, status_code=422)

    def test_the_bench_leads_there(self):
        page = self.client.get(f"/campaigns/{self.campaign.pk}/bench/", follow=True)
        self.assertContains(page, "Paste a block of readings")
        address = re.search(r"/campaigns/\d+/paste/\d+/", page.content.decode())[0]
        self.assertContains(self.client.get(address), "waiting, in this order")
        self.assertEqual(
            self.client.get(f"/campaigns/{self.campaign.pk}/paste/0/").status_code, 404
        )


class Files(Bringing):
    LINES = [
        ["Pulled in July"],
        [],
        ["material", "procedure", "load", "width", "thickness"],
        ["", "", "N", "mm", "mm"],
        ["Fernhall PLA", "flat", 512.5, 5.02, 2],
        ["Mean", "", 512.5],
    ]

    def test_spreadsheets(self):
        raw = {"Raw": [["time", "force"], [0, 1], [1, 2]], "Results": self.LINES}
        for name, content in (
            ("r.xlsx", spreadsheet(raw)),
            ("r.ods", ods([line or [""] for line in self.LINES])),
        ):
            with self.subTest(name):
                seen = self.send(name, content)
                self.assertIn("1 row understood", words(seen))
                self.assertContains(seen, "512.5")
        self.assertContains(self.send("r.xlsx", spreadsheet(raw)), "Read from sheet “Results”")
        other = self.send("r.xlsx", spreadsheet(raw), sheet="Raw")
        self.assertContains(other, "No column names the specimen")
        none = self.send("r.xlsx", spreadsheet(raw), sheet="July")
        self.assertContains(none, "There is no sheet “July”", status_code=422)

    def test_encodings(self):
        text = "material;procedure;load;width;thickness;note\nFernhall PLA;flat;500 N;5;2;größer\n"
        for encoding in ("utf-8", "utf-8-sig", "utf-16", "utf-16-le", "utf-16-be", "cp1252"):
            with self.subTest(encoding):
                seen = self.send("r.csv", text.encode(encoding))
                self.assertIn("1 row understood", words(seen))
                self.assertContains(seen, "größer")

    def test_broken_files_are_sentences(self):
        whole = spreadsheet({"One": self.LINES})
        for name, content in (
            ("cut.xlsx", whole[: len(whole) // 2]),
            ("fake.xlsx", b"PK\x03\x04nothing"),
            ("old.xls", b"\xd0\xcf\x11\xe0" + b"\0" * 600),
            ("photo.csv", b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR"),
            ("empty.xlsx", spreadsheet({"One": []})),
            ("large.csv", b"a,b\n" + b"1,2\n" * 1_400_000),
        ):
            with self.subTest(name):
                answer = finished(self.client, self.send(name, content))
                self.assertEqual(answer.status_code, 422)
                self.assertContains(answer, 'role="alert"', status_code=422)

    def test_five_hundred_rows_within_a_second(self):
        text = HEAD + rows(500, "512.5 N")
        self.look(HEAD + rows(2, "512.5 N"))
        begun = time.process_time()
        seen = self.look(text)
        self.assertLess(time.process_time() - begun, 2.5)
        self.assertIn("500 rows understood", words(seen))

    def test_the_queries_do_not_grow_with_the_rows(self):
        self.look(HEAD + rows(1, "512.5 N"))
        with self.assertNumQueries(self._queries(2)):
            self.look(HEAD + rows(60, "512.5 N"))

    def _queries(self, count):
        with CaptureQueriesContext(
            connection,
        ) as caught:
            self.look(HEAD + rows(count, "512.5 N"))
        return len(caught)


class Out(Bringing):
    def test_formulas_are_harmless_everywhere(self):
        for text in ("=1+1", "+1", "-1", "@x", "\t=1", " =1", "|x", "%x"):
            self.assertEqual(safe(text)[0], "'")
        one = self.campaign.specimens.first()
        put(one, self.user, entry("500 N", note='=HYPERLINK("x")'))
        self.assertContains(
            self.client.get(f"/campaigns/{self.campaign.pk}/results.csv"), "'=HYPERLINK"
        )

    def test_a_typed_spreadsheet_with_a_row_of_units_that_comes_back(self):
        one = self.campaign.specimens.filter(procedure__orientation="flat").first()
        put(one, self.user, entry("500 N", note="=1+1"))
        answer = self.client.get(f"/campaigns/{self.campaign.pk}/results.xlsx")
        book = CalamineWorkbook.from_filelike(io.BytesIO(answer.content))
        head, units, *lines = book.get_sheet_by_index(0).to_python()
        at = {name: i for i, name in enumerate(head)}
        self.assertEqual(units[at["width"]], "mm")
        line = next(x for x in lines if x[0] == one.code)
        self.assertEqual(line[at["lower bound"]], 50.0)
        self.assertEqual(line[at["note"]], "=1+1")
        self.assertEqual(line[at["tested at"]].year, 2026)
        Test.objects.get().delete()
        Result.objects.all().delete()
        Turn.objects.update(state="waiting", spends=False)
        Specimen.objects.update(spent=False)
        seen = self.send("again.xlsx", answer.content)
        self.assertIn("1 row understood", words(seen))

    def test_the_mark_for_spreadsheets_is_chosen(self):
        address = f"/campaigns/{self.campaign.pk}/results.csv"
        self.assertTrue(self.client.get(address + "?bom=1").content.startswith(b"\xef\xbb\xbf"))
        self.assertFalse(self.client.get(address).content.startswith(b"\xef\xbb\xbf"))
