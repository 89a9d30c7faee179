"""Specimen geometry: areas, second moments and volumes against mesh integration and polygon
integration by independent libraries (trimesh, shapely) to 0.1 %, and published sizes (ISO 527-2,
ASTM D638, ISO 178, ASTM D790, ISO 179-1, ASTM D695; all recalled, none confirmed)."""

import io
import re
import unittest
import zipfile

import numpy as np
import trimesh

from brunt_core.errors import InputError
from brunt_core.specimens import mesh
from brunt_core.specimens.drawing import dimension_lines
from brunt_core.specimens.marking import text_polygons
from brunt_core.specimens.types import TYPES, make_type, specimen_type

PUBLISHED = {
    "tension-1a": {
        "overall": 170,
        "parallel": 80,
        "radius": 24,
        "wide": 20,
        "narrow": 10,
        "thickness": 4,
        "gauge": 75,
    },
    "tension-1b": {
        "overall": 150,
        "parallel": 60,
        "radius": 60,
        "wide": 20,
        "narrow": 10,
        "thickness": 4,
        "gauge": 50,
    },
    "tension-1ba": {
        "overall": 75,
        "parallel": 30,
        "radius": 30,
        "wide": 10,
        "narrow": 5,
        "thickness": 2,
        "gauge": 25,
    },
    "tension-5a": {
        "overall": 75,
        "parallel": 25,
        "radius": 8,
        "outer_radius": 12.5,
        "wide": 12.5,
        "narrow": 4,
        "thickness": 2,
        "gauge": 20,
    },
    "tension-i": {
        "overall": 165,
        "parallel": 57,
        "radius": 76,
        "wide": 19,
        "narrow": 13,
        "thickness": 3.2,
        "gauge": 50,
    },
    "tension-iv": {
        "overall": 115,
        "parallel": 33,
        "radius": 14,
        "outer_radius": 25,
        "wide": 19,
        "narrow": 6,
        "gauge": 25,
    },
    "tension-v": {
        "overall": 63.5,
        "parallel": 9.53,
        "radius": 12.7,
        "wide": 9.53,
        "narrow": 3.18,
        "gauge": 7.62,
    },
    "bend-80": {"overall": 80, "width": 10, "thickness": 4},
    "bend-127": {"overall": 127, "width": 12.7, "thickness": 3.2},
    "impact-80-a": {
        "overall": 80,
        "width": 10,
        "thickness": 4,
        "notch_depth": 2,
        "notch_radius": 0.25,
        "notch_angle": 45,
    },
    "cylinder-12": {"diameter": 12.7, "overall": 25.4},
    "heat-80": {"overall": 80, "width": 10, "thickness": 4},
}


class Geometry(unittest.TestCase):
    def test_published_sizes(self):
        for key, sizes in PUBLISHED.items():
            self.assertEqual({k: TYPES[key].sizes[k] for k in sizes}, sizes, key)

    def test_volume_by_mesh_integration(self):
        for key, kind in TYPES.items():
            body = mesh.body(kind)
            self.assertTrue(body.is_watertight, key)
            self.assertAlmostEqual(body.volume / kind.volume, 1, delta=1e-3, msg=key)

    def test_section_by_slicing_the_mesh(self):
        """The tested section is cut from the mesh and integrated: area and second moment."""
        for key, kind in TYPES.items():
            if kind.shape_key in ("notched", "block", "ring", "pin"):
                continue
            cut = mesh.body(kind).section(
                plane_origin=(0, kind.overall / 2, 0), plane_normal=(0, 1, 0)
            )
            flat, _ = cut.to_2D()
            polygon = flat.polygons_full[0]
            self.assertAlmostEqual(polygon.area / kind.area, 1, delta=1e-3, msg=key)
            self.assertAlmostEqual(
                _least_second_moment(polygon) / min(kind.second_moment, _turned(kind)),
                1,
                delta=1e-3,
                msg=key,
            )

    def test_round_sections_and_ring(self):
        """Cylinder and tube: cross-section of the standing mesh."""
        for key in ("shear-pin", "cylinder-12", "ring-30"):
            kind = TYPES[key]
            flat, _ = (
                mesh.body(kind)
                .section(plane_origin=(0, 0, kind.overall / 2), plane_normal=(0, 0, 1))
                .to_2D()
            )
            outside, *holes = sorted(flat.polygons_closed, key=lambda p: -p.area)
            area = outside.area - sum(h.area for h in holes)
            moment = _least_second_moment(outside) - sum(_least_second_moment(h) for h in holes)
            self.assertAlmostEqual(area / kind.area, 1, delta=1e-3, msg=key)
            self.assertAlmostEqual(moment / kind.second_moment, 1, delta=1e-3, msg=key)

    def test_impossible_is_refused_by_its_size(self):
        good = dict(TYPES["tension-1ba"].sizes)
        for change, field in (
            ({"radius": 2000.0}, "radius"),
            ({"radius": 0.5}, "radius"),
            ({"gauge": -1}, "gauge"),
            ({"gauge": 40}, "gauge"),
            ({"wide": 3}, "wide"),
            ({"overall": 40}, "radius"),
            ({"thickness": 0}, "thickness"),
        ):
            with self.subTest(change), self.assertRaises(InputError) as caught:
                make_type("x", "X", "dumbbell", good | change)
            self.assertEqual(caught.exception.field, field)
        for shape, sizes, field in (
            ("notched", TYPES["impact-80-a"].sizes | {"notch_depth": 12}, "notch_depth"),
            ("ring", TYPES["ring-30"].sizes | {"wall": 16}, "wall"),
            ("block", TYPES["insert-block"].sizes | {"hole": 30}, "hole"),
            ("round-rod", TYPES["torsion-round"].sizes | {"parallel": 120}, "parallel"),
        ):
            with self.assertRaises(InputError) as caught:
                make_type("x", "X", shape, sizes)
            self.assertEqual(caught.exception.field, field)
        with self.assertRaises(InputError):
            specimen_type("nothing")


class Files(unittest.TestCase):
    def test_marked_meshes_close_and_carry_the_mark(self):
        for key, kind in TYPES.items():
            body = mesh.marked(kind, "K7-3HD")
            self.assertTrue(body.is_watertight, key)
            plain = mesh.body(kind)
            np.testing.assert_allclose(body.extents, plain.extents, atol=1e-6)
            if mesh.has_room(kind):
                self.assertLess(body.volume, plain.volume - 0.5, key)

    def test_the_mark_stays_clear_of_everything_that_serves(self):
        """What was cut away, by the mesh library: off gauge, fillet, support line, notch, hole, socket sides."""
        for key, kind in TYPES.items():
            if not mesh.has_room(kind):
                continue
            s, plain = kind.sizes, mesh.body(kind)
            cut = trimesh.boolean.difference(
                [plain, mesh.marked(kind, "W8-MRX")], engine="manifold"
            )
            low, high = cut.bounds
            with self.subTest(key):
                if kind.shape_key == "dumbbell":
                    straight = [y for x, y in kind.outline if abs(x - s["wide"] / 2) < 1e-6 and y < s["overall"] / 2]  # fmt: skip
                    self.assertLess(high[1], max(straight) - 0.5)
                    self.assertLess(high[1], (s["overall"] - s["parallel"]) / 2)
                elif kind.shape_key in ("round-rod", "square-rod"):
                    self.assertGreater(low[1], s["overall"] - 0.5)
                    self.assertTrue(-s["wide"] / 2 < low[0] and high[0] < s["wide"] / 2)
                elif kind.shape_key == "block":
                    self.assertLess(high[1], s["overall"] / 2 - s["hole"] / 2 - 0.5)
                elif s["width"] < s["overall"]:
                    self.assertLess(high[1], 0.1 * s["overall"] - 1.5)
                self.assertGreater(low[0], plain.bounds[0][0] + 0.3)

    def test_strokes_are_no_thinner_than_a_nozzle_lays_them(self):
        """By the geometry library: opened by a disc of 0.39 mm a letter keeps what it is."""
        for key, kind in TYPES.items():
            face = mesh.mark_place(kind)
            if face is None:
                continue
            for width, height in ((face.width, face.height), (face.height, face.width)):
                for letter in text_polygons("W8-MRX", width, height):
                    inner = letter.buffer(-0.195, join_style="mitre")
                    opened = inner.buffer(0.195, join_style="mitre")
                    self.assertGreater(opened.area / letter.area, 0.97, key)

    def test_stl_is_read_back_in_millimetres(self):
        body = trimesh.load(
            io.BytesIO(mesh.stl(mesh.oriented(mesh.marked(TYPES["bend-80"], "A2-229"), "upright"))),
            file_type="stl",
        )
        self.assertTrue(body.is_watertight)
        np.testing.assert_allclose(body.extents, (10, 4.0, 80), atol=1e-3)

    def test_3mf_names_its_objects(self):
        parts = [
            (code, mesh.oriented(mesh.marked(TYPES["tension-1ba"], code), "flat"), (20.0 * i, 5.0))
            for i, code in enumerate(("A2-229", "J6-TN4"))
        ]
        with zipfile.ZipFile(io.BytesIO(mesh.three_mf(parts))) as package:
            model = package.read("3D/3dmodel.model").decode()
        self.assertEqual(re.findall(r'<object [^>]*name="([^"]+)"', model), ["A2-229", "J6-TN4"])
        self.assertIn('unit="millimeter"', model)

    def test_every_drawing_has_its_length(self):
        for kind in TYPES.values():
            self.assertIn(f"{kind.overall:g}", dimension_lines(kind)[0].label)


def _least_second_moment(polygon) -> float:
    """Smaller principal second moment, by Green's theorem on the polygon's rings (trimesh)."""
    return float(min(trimesh.path.polygons.second_moments(polygon, return_centered=True)[1]))


def _turned(kind) -> float:
    names = kind.shape.section[1]
    first, last = kind.sizes[names[0]], kind.sizes[names[-1]]
    return last * first**3 / 12 if kind.shape.section[0] == "rectangle" else kind.second_moment
