"""Own parts against analytic bodies: volume, section and stress by hand, rests by statics.

Sources: solid geometry (sphere, cylinder, ring); second moments of rectangle, circle and angle from any
handbook; beam stress 6·F·a/(b·h²) and F/A + M/W from any handbook of strength of materials.
"""

import io
import unittest
import zipfile
from math import pi

import numpy as np
import shapely
import trimesh

from brunt_core.errors import InputError
from brunt_core.parts.laying import lying, rest_faces, usual_poses
from brunt_core.parts.reading import read_solid
from brunt_core.parts.sections import cut, stress_per_load
from brunt_core.parts.views import VIEWS, draw, outline, point_on

PI = pi


def stl(mesh) -> bytes:
    return mesh.export(file_type="stl")


def three_mf(*meshes) -> bytes:
    scene = trimesh.Scene()
    for i, mesh in enumerate(meshes):
        scene.add_geometry(mesh, node_name=f"b{i}", geom_name=f"b{i}")
    return scene.export(file_type="3mf")


def reunited(data: bytes, **swap: str) -> bytes:
    """A 3MF with words of its model changed."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:  # fmt: skip
        for part in old.infolist():
            body = old.read(part)
            if part.filename.endswith(".model"):
                for a, b in swap.items():
                    body = body.replace(a.encode(), b.encode())
            new.writestr(part.filename, body)
    return out.getvalue()


class Reading(unittest.TestCase):
    def test_volumes_of_analytic_bodies(self):
        """A faceted round body comes near the round one; a box is exact; any placing and unit."""
        cases = (
            (trimesh.creation.box((10, 20, 30)), 6000.0, 1e-6),
            (trimesh.creation.icosphere(subdivisions=5, radius=7), 4 / 3 * PI * 343, 2e-3),
            (trimesh.creation.cylinder(4, 25, sections=256), PI * 16 * 25, 1e-3),
            (trimesh.creation.annulus(3, 6, 10, sections=256), PI * 27 * 10, 1e-3),
        )
        turn = trimesh.transformations.random_rotation_matrix(np.array((0.2, 0.5, 0.8)))
        for mesh, volume, near in cases:
            for unit, factor in (("mm", 1.0), ("inch", 25.4), ("cm", 10.0)):
                placed = mesh.copy().apply_scale(1 / factor).apply_transform(turn)
                found = read_solid(stl(placed), "stl", unit).mesh
                self.assertAlmostEqual(found.volume / volume, 1, delta=near + 1e-5)
                laid, _ = lying(found, rest_faces(found)[0].normal)
                self.assertAlmostEqual(laid.volume, found.volume, places=3)
                self.assertAlmostEqual(laid.bounds[0][2], 0, places=6)
                self.assertGreaterEqual(laid.extents[1], laid.extents[0] - 1e-6)

    def test_a_3mf_says_its_unit(self):
        box = three_mf(trimesh.creation.box((1, 2, 3)))
        for said, factor in (("millimeter", 1.0), ("inch", 25.4), ("centimeter", 10.0)):
            data = reunited(box, **{'unit="millimeter"': f'unit="{said}"'})
            found = read_solid(data, "3mf")
            self.assertAlmostEqual(found.mesh.volume, 6 * factor**3, places=2)
            self.assertEqual(bool(found.remarks), factor != 1)

    def test_bodies_of_one_file_are_united(self):
        one = trimesh.creation.box((10, 10, 10))
        other = trimesh.creation.box((10, 10, 10)).apply_translation((5, 0, 0))
        found = read_solid(three_mf(one, other), "3mf")
        self.assertAlmostEqual(found.mesh.volume, 1500, places=3)

    def test_inside_out_is_turned_back_and_said(self):
        inside = trimesh.creation.box((10, 20, 30))
        inside.invert()
        mixed = trimesh.creation.box((10, 20, 30))
        faces = mixed.faces.copy()
        faces[3] = faces[3][::-1]
        for mesh in (inside, trimesh.Trimesh(mixed.vertices, faces, process=False)):
            found = read_solid(stl(mesh), "stl")
            self.assertAlmostEqual(found.mesh.volume, 6000, places=3)
            self.assertIn("turned", " ".join(found.remarks))

    def test_what_is_no_part_is_refused_with_its_reason(self):
        box = trimesh.creation.box((10, 20, 30))
        opened = box.copy()
        opened.update_faces(np.arange(len(box.faces)) != 4)
        fins = trimesh.util.concatenate(
            [box, trimesh.creation.box((10, 20, 30)).apply_translation((10, 20, 0))]
        )
        flat = trimesh.Trimesh([(0, 0, 0), (1, 0, 0), (0, 1, 0)], [(0, 1, 2), (0, 2, 1)], process=False)  # fmt: skip
        lost = stl(box)
        nowhere = stl(box)[:84] + b"\x00\x00\xc0\x7f" * 12 + stl(box)[132:]
        bomb = io.BytesIO()
        with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as file:
            file.writestr("3D/3dmodel.model", b"0" * 60_000_000)
        entities = reunited(three_mf(box), **{"<model": "<!DOCTYPE m [<!ENTITY a 'b'>]><model"})
        cases = (
            (b"", "stl", "", "empty"),
            (b"hello", "stl", "", "no STL"),
            (b"solid x\nfacet nonsense", "stl", "", "STL|face"),
            (lost[:-60], "stl", "", "its end is missing"),
            (lost, "obj", "", "STL or a 3MF"),
            (lost, "stl", "parsec", "not a unit"),
            (lost, "stl", "m", "larger than any printer"),
            (lost, "stl", "micron", "too small"),
            (nowhere, "stl", "", "not numbers|open"),
            (stl(opened), "stl", "", "open: 3 edges"),
            (stl(fins), "stl", "", "more than two faces meet"),
            (stl(flat), "stl", "", "open|volume|face"),
            (b"PK nothing", "3mf", "", "no 3MF"),
            (bomb.getvalue(), "3mf", "", "Unpacked"),
            (entities, "3mf", "", "entities"),
        )
        for data, kind, unit, words in cases:
            with self.subTest(words), self.assertRaisesRegex(InputError, words):
                read_solid(data, kind, unit)


class Sections(unittest.TestCase):
    def test_moments_of_handbook_sections(self):
        """Rectangle b·h³/12, circle π·d⁴/64, ring, and an angle by parts."""
        ring = trimesh.creation.annulus(3, 6, 40, sections=256)
        angle = trimesh.creation.extrude_polygon(
            shapely.Polygon([(0, 0), (30, 0), (30, 5), (5, 5), (5, 30), (0, 30)]), 50
        )
        rod = trimesh.creation.cylinder(5, 40, sections=512)
        at = 25.0
        cases = (
            (trimesh.creation.box((10, 4, 60)), 0.0, 40.0, 10 * 4**3 / 12, 4 * 10**3 / 12, 0.0),
            (rod, 0.0, PI * 25, PI * 10**4 / 64, PI * 10**4 / 64, 0.0),
            (ring, 0.0, PI * 27, PI * (12**4 - 6**4) / 64, PI * (12**4 - 6**4) / 64, 0.0),
        )
        for mesh, z, area, across, along, mixed in cases:
            found = cut(mesh, "z", z)
            self.assertAlmostEqual(found.area / area, 1, delta=2e-3)
            self.assertAlmostEqual(found.i_uu / across, 1, delta=3e-3)
            self.assertAlmostEqual(found.i_vv / along, 1, delta=3e-3)
            self.assertAlmostEqual(found.i_uv, mixed, places=2)
        # Two rectangles 30 × 5 and 5 × 25: centroid and moments by the parallel-axis theorem.
        found, area = cut(angle, "z", at), 150 + 125
        c = (150 * 15 + 125 * 2.5) / area
        other = (150 * 2.5 + 125 * 17.5) / area
        i_uu = (
            30 * 5**3 / 12 + 150 * (2.5 - other) ** 2 + 5 * 25**3 / 12 + 125 * (17.5 - other) ** 2
        )
        i_uv = 150 * (15 - c) * (2.5 - other) + 125 * (2.5 - c) * (17.5 - other)
        self.assertAlmostEqual(found.area, area, places=3)
        self.assertAlmostEqual(found.centroid[0], c, places=4)
        self.assertAlmostEqual(found.i_uu, i_uu, places=1)
        self.assertAlmostEqual(found.i_uv, i_uv, places=1)

    def test_stress_of_beams_by_hand(self):
        bar = trimesh.creation.box((10, 200, 4))
        section = cut(bar, "y", -20.0)
        cases = (
            ((0, 100, 0), (0, 1, 0), 1 / 40, 0.0),
            ((0, 100, 0), (0, -1, 0), 0.0, -1 / 40),
            ((0, 30, 0), (0, 0, -1), 6 * 50 / (10 * 16), -6 * 50 / (10 * 16)),
            ((0, 30, 0), (1, 0, 0), 6 * 50 / (4 * 100), -6 * 50 / (4 * 100)),
            # Pulled off its middle: F/A + F·e/W with e = 2 mm, W = 10·4²/6.
            ((0, 100, 2), (0, 1, 0), 1 / 40 + 2 * 6 / 160, 1 / 40 - 2 * 6 / 160),
            # On the other side of the section the same pull is a pull.
            ((0, -100, 0), (0, -1, 0), 1 / 40, 0.0),
        )
        for point, way, pull, push in cases:
            found = stress_per_load(section, point, way)
            self.assertAlmostEqual(found.pull, max(pull, 0), places=6)
            self.assertAlmostEqual(found.push, min(push, 0), places=6)
        both = stress_per_load(section, (3, 30, 0), (0, 0, -2))
        self.assertAlmostEqual(both.twist, 3, places=6)
        self.assertAlmostEqual(both.shear, 1 / 40, places=6)

    def test_an_angle_bends_askew(self):
        """Moment about one axis of an angle by its principal axes, worked another way."""
        polygon = shapely.Polygon([(0, 0), (30, 0), (30, 5), (5, 5), (5, 30), (0, 30)])
        section = cut(trimesh.creation.extrude_polygon(polygon, 100), "z", 10.0)
        found = stress_per_load(section, (*section.centroid[:2], 60.0), (0, -1, 0))
        inertia = np.array([[section.i_uu, -section.i_uv], [-section.i_uv, section.i_vv]])
        # Curvature vector from M = I·κ, stress from κ × r.
        bend = np.linalg.solve(inertia, np.array([50.0, 0.0]))
        corners = np.array(polygon.exterior.coords) - np.array(section.centroid[:2])
        stress = bend[0] * corners[:, 1] - bend[1] * corners[:, 0]
        self.assertAlmostEqual(found.largest, float(np.abs(stress).max()), places=4)

    def test_beside_the_part(self):
        box = trimesh.creation.box((10, 20, 30))
        for axis, at in (("y", 11.0), ("q", 0.0), ("x", float("nan"))):
            with self.assertRaises(InputError):
                cut(box, axis, at)
        with self.assertRaises(InputError):
            stress_per_load(cut(box, "y", 0.0), (0, 5, 0), (0, 0, 0))


class Laying(unittest.TestCase):
    def test_rests_where_it_does_not_tip(self):
        """A tall wedge with its weight beyond its foot does not stand on that foot."""
        leaning = trimesh.creation.extrude_polygon(
            shapely.Polygon([(0, 0), (5, 0), (60, 80), (55, 80)]), 10
        )
        for face in rest_faces(leaning):
            laid, _ = lying(leaning, face.normal)
            self.assertAlmostEqual(laid.extents[2], face.height, places=2)
            self.assertFalse(face.height > 75 and face.contact < 60)

    def test_contact_height_and_overhang_of_a_table(self):
        top = trimesh.creation.box((40, 60, 4)).apply_translation((0, 0, 32))
        leg = trimesh.creation.box((10, 10, 30)).apply_translation((0, 0, 15))
        table = trimesh.boolean.union([top, leg], engine="manifold")
        faces = rest_faces(table)
        over = next(f for f in faces if f.normal[2] > 0.99)
        self.assertAlmostEqual(over.contact, 2400, places=1)
        self.assertAlmostEqual(over.overhang, 0, places=3)
        under = next(f for f in faces if f.normal[2] < -0.99)
        self.assertAlmostEqual(under.overhang, 2300, places=1)
        self.assertEqual(set(usual_poses(faces)), {"flat", "edge", "upright"})

    def test_drawn_as_it_is(self):
        """The silhouette's area is the shadow's; a pressed point lies on the surface."""
        bracket = trimesh.boolean.difference(
            [
                trimesh.creation.box((20, 60, 10)).apply_translation((0, 30, 5)),
                trimesh.creation.cylinder(4, 30, sections=128).apply_translation((0, 45, 5)),
            ],
            engine="manifold",
        )
        areas = {"above": 1200 - PI * 16, "side": 600, "end": 200}
        for key in VIEWS:
            shown = draw(bracket, key)
            rings = [shapely.Polygon(o) for o in shown.outlines]
            found = sum(r.area if r.exterior.is_ccw else -r.area for r in rings)
            self.assertAlmostEqual(found / areas[key], 1, delta=2e-3)
        self.assertIsNone(point_on(bracket, "above", 70, 0))
        self.assertEqual(point_on(bracket, "above", 10, 3), (3.0, 10.0, 10.0))
        self.assertEqual(point_on(bracket, "side", 10, 5), (-10.0, 10.0, 5.0))
        self.assertEqual(point_on(bracket, "end", 2, 5), (2.0, 0.0, 5.0))
        self.assertEqual(len(outline(bracket)), 4)
