"""Foreign files made to hurt: each ends in a sentence in time, and whoever reads it goes on."""

import io
import struct
import time
import zipfile
import zlib
from subprocess import TimeoutExpired
from unittest.mock import patch

import numpy as np
import trimesh
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import SimpleTestCase, TestCase
from PIL import Image

from brunt_core.curves.parting import read_or_ask
from brunt_core.errors import InputError
from brunt_core.parts.reading import MOST_FACES, read_solid
from brunt_core.parts.solids import lighter
from brunt_core.printing.gcode import gcode_of
from brunt_core.treatments.logs import read_log
from brunt_web.exchange.files import spreadsheet_text
from brunt_web.interface import bounded
from brunt_web.interface.bounded import read_bounded
from brunt_web.interface.pictures import clean_picture
from brunt_web.library.actions.parts import add_part
from tests.support.workshop import BACKEND, campaign, person

_TYPES = """<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">
<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>
<Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/>
<Override PartName="/xl/worksheets/sheet1.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"/></Types>"""
_OFFICE = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
_MAIN = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
_BOOK = f'<workbook xmlns="{_MAIN}" xmlns:r="{_OFFICE}"><sheets><sheet name="S" sheetId="1" r:id="rId1"/></sheets></workbook>'


def zipped(**parts: bytes | str) -> bytes:
    """A zip of parts; ``__`` in a name is a folder."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        for name, content in parts.items():
            file.writestr(name, content)
    return out.getvalue()


def xlsx(rows: str, head: str = "") -> bytes:
    """A spreadsheet of one sheet with these rows, as XML."""
    rels = "http://schemas.openxmlformats.org/package/2006/relationships"
    one = '<Relationships xmlns="{}"><Relationship Id="rId1" Type="{}/{}" Target="{}"/></Relationships>'
    return zipped(
        **{
            "[Content_Types].xml": _TYPES,
            "_rels/.rels": one.format(rels, _OFFICE, "officeDocument", "xl/workbook.xml"),
            "xl/workbook.xml": _BOOK,
            "xl/_rels/workbook.xml.rels": one.format(rels, _OFFICE, "worksheet", "worksheets/sheet1.xml"),
            "xl/worksheets/sheet1.xml": f'{head}<worksheet xmlns="{_MAIN}"><sheetData>{rows}</sheetData></worksheet>',
        }
    )  # fmt: skip


def cell(place: str, value: str = "1") -> str:
    number = "".join(c for c in place if c.isdigit())
    return f'<row r="{number}"><c r="{place}"><v>{value}</v></c></row>'


def ods(table: str) -> bytes:
    names = "urn:oasis:names:tc:opendocument:xmlns"
    text = (
        f'<office:document-content xmlns:office="{names}:office:1.0" xmlns:table="{names}:table:1.0" '
        f'xmlns:text="{names}:text:1.0"><office:body><office:spreadsheet><table:table table:name="S">{table}'
        "</table:table></office:spreadsheet></office:body></office:document-content>"
    )
    return zipped(
        mimetype="application/vnd.oasis.opendocument.spreadsheet",
        **{
            "content.xml": text,
            "META-INF/manifest.xml": f'<manifest:manifest xmlns:manifest="{names}:manifest:1.0"/>',
        },
    )


def png(wide: int, high: int) -> bytes:
    """The head of a PNG that claims so many pixels."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return (
            struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
        )

    head = struct.pack(">IIBBBBB", wide, high, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 999)) + chunk(b"IEND", b"")  # fmt: skip


class InTime(SimpleTestCase):
    """What is refused, and with which words; never later than 20 s and some for the start."""

    def refused(self, words: str, read):
        begun = time.monotonic()
        with self.assertRaisesRegex(InputError, words) as caught:
            read()
        self.assertLess(time.monotonic() - begun, bounded.SECONDS + 8)
        self.assertNotIn("Traceback", caught.exception.sentence)

    def table(self, raw: bytes, name: str = "x.xlsx"):
        return spreadsheet_text(name, raw, lambda column: column.name == "load")


class Tables(InTime):
    def test_a_table_is_read_as_ever(self):
        read = self.table(xlsx(cell("A1", "7") + cell("A2", "9")))
        self.assertEqual(read.text, "7\n9\n")

    def test_one_stray_cell_far_off(self):
        self.refused("row 1048576, column 16384 and only 2", lambda: self.table(xlsx(cell("A1") + cell("XFD1048576"))))  # fmt: skip

    def test_repeated_cells_of_an_ods(self):
        much = (
            '<table:table-row table:number-rows-repeated="1000000"><table:table-cell office:value-type="string" '
            'table:number-columns-repeated="16000"><text:p>x</text:p></table:table-cell></table:table-row>'
        )
        self.refused(
            "longer than|memory|too large|cannot be read", lambda: self.table(ods(much), "x.ods")
        )

    def test_bombs_nests_and_ends(self):
        whole = xlsx(cell("A1"))
        bomb = xlsx("<!-- " + " " * 160_000_000 + " -->")
        self.refused("unpacks to", lambda: self.table(bomb))
        self.refused(
            "cannot be read|no cells", lambda: self.table(zipped(inner=zipped(inner=whole)))
        )
        self.refused("damaged|cannot be", lambda: self.table(whole[: len(whole) // 2]))
        self.refused("cannot be|no cells", lambda: self.table(zipped(**{"../../etc/passwd": "x"})))

    def test_entities_that_multiply(self):
        laughs = '<!DOCTYPE l [<!ENTITY a "ha"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;&a;&a;"><!ENTITY c "&b;&b;&b;&b;&b;&b;&b;&b;">]>'
        try:
            read = self.table(xlsx('<row r="1"><c r="A1" t="str"><v>&c;</v></c></row>', laughs))
        except InputError:
            return
        self.assertLess(len(read.text), 10_000)

    def test_texts_that_are_none(self):
        self.refused("not a text file", lambda: self.table(b"load\n1\0\0\0" + b"2\n" * 20, "x.csv"))
        self.assertIn("load", self.table("load\n1\n".encode("utf-16"), "x.csv").text)
        million = b"load\n" + b"12345\n" * 1_000_000
        self.refused("stays under 5 MB", lambda: self.table(million, "x.csv"))


class Bounds(InTime):
    def test_time_and_memory_end_in_a_sentence(self):
        bounded_seconds, bounded.SECONDS = bounded.SECONDS, 2
        try:
            self.refused("longer than 2 s", lambda: read_bounded(time.sleep, 60.0))
        finally:
            bounded.SECONDS = bounded_seconds
        self.refused("more than 1200 MB", lambda: read_bounded(bytearray, 3_000_000_000))
        self.assertEqual(read_bounded(bytearray, 3), bytearray(3))

    def test_a_reader_that_breaks_on_a_file_ends_in_a_sentence_too(self):
        with self.assertLogs("django.request", "ERROR"):
            self.refused("could not be read", lambda: read_bounded(zlib.decompress, b"no stream"))

    def test_what_a_reader_refuses_keeps_its_field(self):
        with self.assertRaises(InputError) as caught:
            read_bounded(read_solid, b"", "stl", "")
        self.assertEqual(
            (caught.exception.sentence, caught.exception.field), ("The file is empty.", "file")
        )


class Pictures(InTime):
    def picture(self, content: bytes):
        return clean_picture(SimpleUploadedFile("p.jpg", content), 1600)

    def test_each_says_its_true_reason(self):
        self.refused("more than 60 million pixels", lambda: self.picture(png(20_000, 20_000)))
        self.refused("more than 60 million pixels", lambda: self.picture(png(9_000, 8_000)))
        whole = io.BytesIO()
        noise = np.random.default_rng(1).integers(0, 255, (300, 400, 3), dtype=np.uint8)
        Image.fromarray(noise).save(whole, "JPEG")
        self.refused("its end is missing", lambda: self.picture(whole.getvalue()[:9_000]))
        self.refused("HEIC", lambda: self.picture(b"\0\0\0\x18ftypheic" + b"\0" * 400))
        self.refused("not a JPEG", lambda: self.picture(b"GIF89a" + b"\0" * 400))


class Texts(InTime):
    """G-code, curves, logs and tables of areas: odd bytes, wrong encodings, a million rows, no end."""

    def test_curves_of_every_kind(self):
        row = b"0.01;5\n0.02;10\n"
        for content, words in (
            (b"\0" * 200_000, "No two columns"),
            (b"\x89PNG\r\n" + bytes(range(256)) * 400, "No two columns|cannot be read|mark|points"),
            (b"displacement mm;force N\n0;1\n1;", "five points|No two columns"),
            (b"a" * 3_000_000, "No two columns"),
            ((b"displacement mm;force N\n" + row * 1_100_000), "more than 2000000 points"),
        ):
            with self.subTest(content[:20]):
                self.refused(
                    words, lambda c=content: read_bounded(read_or_ask, c.decode("latin-1"))
                )

    def test_g_code_of_every_kind(self):
        for content in (
            b"",
            b"\0" * 300_000,
            b"\xff\xfe" + "G1 X1".encode("utf-16-le") * 50_000,
            b"PK\x03\x04" * 90_000,
            b"(" * 4_000_000,
        ):
            with self.subTest(content[:12]):
                self.refused("not a G-code file", lambda c=content: read_bounded(gcode_of, c))

    def test_a_log_without_end_is_a_sentence(self):
        rows = "time min,core degC\n" + "1,x\n" * 40_000
        self.refused(
            "at most 5000|takes longer than 20 s",
            lambda: read_bounded(read_log, rows, ("core",), "temperature", "°C", "min"),
        )


class EachInItsOwnProcess(TestCase):
    """However small a file is, the web hands it to a bounded process: where that does not end, it says so."""

    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.one = campaign(cls.user)

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def sent(self, address, name, content, **more):
        file = SimpleUploadedFile(f"f.{name}", content)
        with patch.object(bounded.subprocess, "run", side_effect=TimeoutExpired("x", 20)):
            answer = self.client.post(address, {**more, more.pop("field", "file"): file})
        self.assertEqual(answer.status_code, 422, address)
        self.assertIn("takes longer than 20 s to read", answer.content.decode())

    def test_every_kind(self):
        turn = self.one.turns.select_related("specimen").first()
        code = turn.specimen.code
        tiny = io.BytesIO()
        Image.new("RGB", (3, 3)).save(tiny, "PNG")
        self.sent(f"/specimens/{code}/curve/", "csv", b"a mm;b N\n1;2\n", field="curve")
        self.sent("/library/recipes/gcode/", "gcode", b"G1 X1 E1\n", field="gcode", kind="filament")
        self.sent(f"/campaigns/{self.one.pk}/import-data/preview/", "csv", b"a;b\n1;2\n")
        self.sent(f"/campaigns/{self.one.pk}/import-data/preview/", "xlsx", xlsx(cell("A1")))
        self.sent(f"/specimens/{code}/photo/", "png", tiny.getvalue(), field="photo")


class Meshes(InTime):
    def test_every_mesh_up_to_the_stated_limit(self):
        ball = trimesh.creation.icosphere(subdivisions=6, radius=30)
        self.assertGreater(len(ball.faces), 80_000)
        small = lighter(ball)
        small.apply_translation((1.0, 2.0, 3.0))
        most = trimesh.creation.icosphere(subdivisions=7, radius=30)
        self.assertLess(len(most.faces), MOST_FACES)
        self.assertAlmostEqual(read_bounded(read_solid, most.export(file_type="stl"), "stl").mesh.volume, most.volume, delta=1)  # fmt: skip

    def test_bodies_that_cross_count_once_and_that_is_said(self):
        """Two bars across each other, 10 × 10 × 40 less their 10 × 10 × 10 in common: 7 000 mm³."""
        one = trimesh.creation.box((40, 10, 10))
        other = trimesh.creation.box((10, 40, 10))
        both = trimesh.util.concatenate([one, other]).export(file_type="stl")
        found = read_solid(both, "stl")
        self.assertAlmostEqual(found.mesh.volume, 7000, places=3)
        self.assertTrue(any("cross each other" in r for r in found.remarks), found.remarks)

    def test_many_bodies_and_many_instances(self):
        balls = [trimesh.creation.icosphere(subdivisions=1, radius=3) for _ in range(200)]
        for i, ball in enumerate(balls):
            ball.apply_translation((i * 0.5 % 20, i % 7, i % 11))
        crowd = trimesh.util.concatenate(balls).export(file_type="stl")
        try:
            self.assertGreater(read_bounded(read_solid, crowd, "stl").mesh.volume, 100)
        except InputError as error:
            self.assertIn("bodies", error.sentence)
        box = trimesh.creation.box((2, 2, 2))
        scene = trimesh.Scene()
        for i in range(1000):
            scene.add_geometry(box, transform=trimesh.transformations.translation_matrix((3 * i, 0, 0)))  # fmt: skip
        self.refused("1000 bodies; 200 are the most|bodies", lambda: read_bounded(read_solid, scene.export(file_type="3mf"), "3mf"))  # fmt: skip

    def test_corners_that_are_no_numbers(self):
        raw = bytearray(trimesh.creation.box((9, 9, 9)).export(file_type="stl"))
        raw[96:100] = struct.pack("<f", float("nan"))
        self.refused("not numbers", lambda: read_bounded(read_solid, bytes(raw), "stl"))


class Sent(TestCase):
    def setUp(self):
        self.user = person()
        self.client.force_login(self.user, backend=BACKEND)

    def test_a_part_of_many_faces_is_data_import(self):
        """A coarser one is drawn of it; its corners were read-only and every such file failed."""
        ball = trimesh.creation.icosphere(subdivisions=6, radius=30).export(file_type="stl")
        self.assertEqual(add_part(self.user.seat.workshop, "Ball", ball, "ball.stl").shape, "part")

    def test_the_page_says_it_and_histories_on(self):
        one = campaign(self.user)
        file = SimpleUploadedFile("x.xlsx", xlsx(cell("A1") + cell("XFD1048576")))
        answer = self.client.post(f"/campaigns/{one.pk}/import-data/preview/", {"file": file})
        self.assertContains(answer, "only 2 filled", status_code=422)
        self.assertEqual(self.client.get(f"/campaigns/{one.pk}/").status_code, 200)
