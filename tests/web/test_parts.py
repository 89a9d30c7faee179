"""A custom part, from its mesh file to a result; numbers made up."""

import io
from uuid import uuid4

import trimesh
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase

from brunt_core.errors import InputError
from brunt_web.library.actions.parts import Marks, add_part, copy_part, lay_part, mark_part
from brunt_web.library.actions.procedures import ProcedureDraft, add_procedure
from brunt_web.library.models import SpecimenVariant
from brunt_web.packages.incoming import read_package
from brunt_web.packages.outgoing import package_of
from brunt_web.packages.store import campaigns_in, store
from brunt_web.results.models import Result
from brunt_web.testing.actions.record_test import Entry
from tests.support.plans import Shop, factor
from tests.support.workshop import BACKEND, NOW, made, person, put, turns_of


def bracket() -> bytes:
    """An angle of 60 × 20 × 6 with a lip 40 high and a hole, as an STL in mm."""
    foot = trimesh.creation.box((60, 20, 6)).apply_translation((30, 10, 3))
    lip = trimesh.creation.box((6, 20, 40)).apply_translation((3, 10, 20))
    hole = trimesh.creation.cylinder(3, 30, sections=48).apply_translation((50, 10, 3))
    joined = trimesh.boolean.union([foot, lip], engine="manifold")
    return trimesh.boolean.difference([joined, hole], engine="manifold").export(file_type="stl")


def bar(long=80.0) -> bytes:
    """A plain bar of 10 × 4."""
    return trimesh.creation.box((10, long, 4)).export(file_type="stl")


class Parts(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.plans = Shop(cls.user)
        cls.shop = cls.plans.shop

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def sent(self, data, name="Bracket", file="bracket.stl", **more):
        return self.client.post(
            "/library/parts/new/",
            {"name": name, "file": SimpleUploadedFile(file, data), **more},
            follow=True,
        )

    def part(self, data=None, name="Bracket") -> SpecimenVariant:
        return add_part(self.shop, name, data or bracket(), "bracket.stl")

    def marked(self, part, load=(0.0, 70.0, None), at=20.0, **more) -> SpecimenVariant:
        marks = Marks(load=load, axis="y", at=at, **more)
        return mark_part(part, marks)

    def broken(self, part, outcome="broke", **inputs):
        """A campaign of three with the part, one of them tested."""
        procedure = add_procedure(
            self.shop, ProcedureDraft(f"Break {part.name}", "part-break", f"own-{part.pk}")
        )
        one = made(self.plans.plan(factor("condition", "room", "60 °C"), procedures=[procedure]), self.user)  # fmt: skip
        first = turns_of(one).first()
        entry = Entry(uuid4(), NOW, inputs, outcome, place=self.place, untimely="now")
        return one, put(first, self.user, entry).test

    place = ""

    def test_from_file_to_newtons_and_stress(self):
        """A cantilever of 10 × 4 with 50 mm to the section: k = 6·50/(10·16) = 1.875 MPa/N."""
        page = self.sent(bar(), "Bar")
        part = SpecimenVariant.objects.get()
        self.assertContains(page, "on its largest face")
        self.assertEqual(part.sizes, {"width": 10, "overall": 80, "thickness": 4, "volume": 3200})
        part = self.marked(part, places=[("inner corner", (None, 20.0, 2.0))], fixtures="M6 bolt")
        self.assertAlmostEqual(part.part["stress_per_load"], 1.875e6, places=0)
        key = part.part["places"][0]["key"]
        self.place = key
        one, test = self.broken(part, force="10 kgf", mass="4 g")
        found = dict(Result.objects.filter(turn=test.turn).values_list("property_key", "lower"))
        self.assertAlmostEqual(found["peak_load"], 98.0665)
        self.assertAlmostEqual(found["section_stress"] / 1e6, 98.0665 * 1.875, places=3)
        bench = self.client.get(f"/campaigns/{one.pk}/bench/", follow=True)
        self.assertContains(bench, "M6 bolt")
        self.assertContains(bench, "inner corner")
        for page in ("", "compare/", "ask/", "print/", "report/"):
            self.assertEqual(self.client.get(f"/campaigns/{one.pk}/{page}").status_code, 200, page)
        self.assertContains(
            self.client.get(f"/specimens/{test.turn.specimen.code}/"), "inner corner"
        )

    def test_cracked_at_assembly_is_a_failure_at_no_load(self):
        part = self.part()
        one, test = self.broken(part, "cracked_at_assembly")
        self.assertEqual(test.outcome, "cracked_at_assembly")
        found = Result.objects.get(turn=test.turn, property_key="peak_load")
        self.assertEqual((found.lower, found.upper), (None, 0.0))
        self.assertTrue(test.turn.specimen.spent)
        page = self.client.get(f"/campaigns/{one.pk}/compare/")
        self.assertContains(page, "1 of 1 failed")
        self.assertContains(page, "≤ 0")

    def test_its_plate_file_holds_the_part_as_it_stands(self):
        part = self.part()
        draft = ProcedureDraft("Break", "part-break", f"own-{part.pk}", orientation="upright")
        procedure = add_procedure(self.shop, draft)
        one = self.plans.plan(factor("condition", "room", "60 °C"), procedures=[procedure])  # fmt: skip
        batch = self.plans.print_all(one)[0]
        data = self.client.get(f"/batches/{batch.pk}/plate-1.3mf").content
        scene = trimesh.load_scene(io.BytesIO(data), file_type="3mf")
        for body in scene.geometry.values():
            self.assertAlmostEqual(body.volume / part.sizes["volume"], 1, places=4)
            self.assertAlmostEqual(body.extents[2], part.part["boxes"]["upright"][2], places=3)
        code = one.specimens.first().code
        self.assertEqual(self.client.get(f"/specimens/{code}/print.stl").status_code, 200)
        for address in ("labels/", "measure/", "print/"):
            self.assertEqual(self.client.get(f"/campaigns/{one.pk}/{address}").status_code, 200)

    def test_another_face_turns_what_is_marked_with_it(self):
        part = self.marked(self.part(bar(), "Bar"), places=[("root", (0.0, 2.0, 4.0))])
        part = lay_part(part, "flat", 4)
        self.assertAlmostEqual(part.sizes["thickness"], 80.0, places=3)
        self.assertAlmostEqual(part.sizes["volume"], 3200, places=2)
        self.assertIsNone(part.part["section"])
        self.assertAlmostEqual(sum(abs(c) for c in part.part["load"]["direction"]), 1, places=5)
        low, high = sorted((part.part["load"]["point"][2], part.part["places"][0]["point"][2]))
        self.assertAlmostEqual(high - low, 68.0, places=2)
        page = self.client.post(f"/library/parts/{part.pk}/lay/", {"orientation": "flat", "face": "19"})  # fmt: skip
        self.assertContains(page, "no such face", status_code=422)

    def test_once_planned_it_is_copied_not_changed(self):
        part = self.marked(self.part(bar(), "Bar"))
        self.broken(part, force="90 N")
        with self.assertRaisesRegex(InputError, "Copy it"):
            lay_part(part, "upright", 1)
        with self.assertRaisesRegex(InputError, "Copy it"):
            self.marked(part, at=30.0)
        self.marked(part, fixtures="two washers")
        again = copy_part(part, "Bar, longer arm")
        again = self.marked(again, at=10.0)
        self.assertAlmostEqual(again.part["stress_per_load"], 6 * 60 / 160 * 1e6, places=0)
        part.refresh_from_db()
        self.assertAlmostEqual(part.part["stress_per_load"], 1.875e6, places=0)

    def test_larger_than_the_bed_is_said_before_it_is_planned(self):
        part = self.part(bar(300.0), "Long bar")
        page = self.client.get(f"/library/parts/{part.pk}/")
        self.assertContains(page, "fits upright.")
        procedure = add_procedure(
            self.shop, ProcedureDraft("Break", "part-break", f"own-{part.pk}")
        )
        one = self.plans.plan(factor("condition", "room", "60 °C"), procedures=[procedure])
        with self.assertRaisesRegex(InputError, "bed"):
            self.plans.print_all(one)
        big = trimesh.creation.box((300, 300, 280)).export(file_type="stl")
        page = self.client.get(f"/library/parts/{self.part(big, 'Big').pk}/")
        self.assertContains(page, "larger than the bed in every orientation")

    def test_two_parts_as_levels_of_a_design(self):
        short, long = self.part(bar(60), "Short"), self.part(bar(90), "Long")
        procedure = add_procedure(
            self.shop, ProcedureDraft("Break", "part-break", f"own-{short.pk}")
        )
        plan = factor("design", "Short", "Long", name="Design", variants=[short, long])
        one = made(self.plans.plan(plan, procedures=[procedure]), self.user)
        self.assertEqual({s.geometry.overall for s in one.specimens.all()}, {60.0, 90.0})
        self.assertEqual(self.client.get(f"/campaigns/{one.pk}/").status_code, 200)

    def test_what_is_refused_keeps_what_was_typed(self):
        for data, words in ((b"x" * 200, "no STL"), (b"", "empty"), (bar()[:-70], "its end")):
            page = self.client.post(
                "/library/parts/new/", {"name": "X", "file": SimpleUploadedFile("a.stl", data)}
            )
            self.assertContains(page, words, status_code=422)
        part = self.part()
        base = {"place-TOTAL_FORMS": "1", "place-INITIAL_FORMS": "0", "fixtures": "a nut"}
        cases = (
            ({"load_x": "500", "load_y": "3"}, "outside the part"),
            ({"load_x": "5"}, "two of the three"),
            ({"section_axis": "y"}, "position of the section"),
            ({"section_axis": "y", "section_at": "-40"}, "lies beside it"),
            ({"load_x": "0", "load_y": "20", "direction": "own", "own_direction": "0 0 0"}, "not all zero"),
            ({"place-0-name": "nowhere"}, "Set its position"),
            ({"place-0-x": "1", "place-0-y": "2"}, "Give the place a name"),
            ({"load_x": "soon", "load_y": "1 N"}, "soon"),
        )  # fmt: skip
        for more, words in cases:
            page = self.client.post(f"/library/parts/{part.pk}/mark/", base | more)
            self.assertContains(page, words, status_code=422)
            self.assertContains(page, "a nut", status_code=422)
        other = person("elsewhere")
        self.client.force_login(other, backend=BACKEND)
        self.assertEqual(self.client.get(f"/library/parts/{part.pk}/").status_code, 404)

    def test_twelve_places_in_any_script(self):
        names = ["قاعدة", "孔", "corner", "corner 2", "x" * 40, "É", "…", "1", "hook", "lip", "foot", "edge"]  # fmt: skip
        part = self.part()
        part = mark_part(
            part, Marks(places=[(n, (0.0, 5.0 + i, None)) for i, n in enumerate(names)])
        )
        places = part.places
        self.assertEqual(len({p.key for p in places}), 13)
        letters = [p.letter for p in places if p.letter]
        self.assertEqual(len(letters), len(set(letters)))
        self.assertFalse(set("SUTBHLWV") & set(letters))
        self.assertEqual(self.client.get(f"/library/parts/{part.pk}/").status_code, 200)
        with self.assertRaisesRegex(InputError, "twice"):
            mark_part(part, Marks(places=[("a", (0.0, 5.0, None)), ("a", (0.0, 6.0, None))]))

    def test_it_comes_along_in_a_package(self):
        part = self.marked(self.part(bar(), "Bar"))
        one, _ = self.broken(part, force="90 N")
        content = package_of(self.shop, [one], one.question)
        again = store(read_package(content), "Read back")
        copy = SpecimenVariant.objects.get(workshop=again)
        self.assertEqual(copy.part["digest"], part.part["digest"])
        self.assertEqual(bytes(copy.mesh.source), bar())
        found = campaigns_in(again)[0]
        specimen = found.specimens.first()
        self.assertAlmostEqual(specimen.geometry.part.mesh().volume, 3200, places=2)
