"""``./brunt gcode`` and ``./brunt mesh``."""

import io
import json
import tempfile
import unittest
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from unittest import mock

import trimesh

from brunt_command import print as commands
from brunt_core.specimens.types import TYPES
from tests.core.test_gcode import COMMA_PAIRS, MANY_IN_A_LINE, TAIL_EQUALS


def call(*words):
    out, err = io.StringIO(), io.StringIO()
    with (
        redirect_stdout(out),
        redirect_stderr(err),
        mock.patch("sys.argv", ["brunt", *map(str, words)]),
    ):
        code = commands.main()
    return code, out.getvalue(), err.getvalue()


class Commands(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def test_settings_by_the_names_of_a_recipe(self):
        for lines in (TAIL_EQUALS, MANY_IN_A_LINE, COMMA_PAIRS):
            file = self.folder / "a.gcode"
            file.write_text("\n".join(lines), encoding="utf-8")
            code, out, _ = call("gcode", file, "--json")
            self.assertEqual(code, 0)
            found = json.loads(out)["settings"]
            told = {k: (found[k]["value"], found[k]["unit"]) for k in found}
            self.assertEqual(told["fan"], (80.0, "%"))
            self.assertEqual(told["infill"], (35.0, "%"))
            self.assertEqual(told["pattern"], ("gyroid", ""))
            self.assertEqual(told["flow"], (97.0, "%"))
            self.assertEqual(told["nozzle_temperature"], (238.0, "°C"))
            self.assertEqual(told["filament_mass"], (11.42, "g"))
            self.assertEqual(told["print_time"][1], "s")
            line = found["infill"]["line"]
            self.assertIn("35", "\n".join(lines).splitlines()[line - 1])

    def test_nonsense_ends_with_two(self):
        file = self.folder / "a.gcode"
        for content in (b"hello\n" * 40, b"", b"\0\1\2" * 50):
            file.write_bytes(content)
            code, _, err = call("gcode", file, "--json")
            self.assertEqual((code, err.count("\n")), (2, 1))
        self.assertEqual(call("gcode", self.folder / "none.gcode")[0], 2)

    def test_a_mesh_by_a_mesh_library(self):
        for key in TYPES:
            for kind in ("stl", "3mf"):
                file = self.folder / f"{key}.{kind}"
                code, out, _ = call("mesh", "--type", key, "--out", file, "--json")
                self.assertEqual(code, 0, key)
                body = trimesh.load(file, force="mesh")
                body.merge_vertices()
                self.assertTrue(body.is_watertight, key)
                self.assertAlmostEqual(body.volume / json.loads(out)["volume_mm3"], 1, places=4)
                # The drawn volume is of the true arcs, the mesh has facets.
                self.assertAlmostEqual(body.volume / TYPES[key].volume, 1, delta=0.02)

    def test_with_an_id_and_refusals(self):
        file = self.folder / "m.stl"
        code, out, _ = call("mesh", "--type", "bend-80", "--id", "K7-3HD", "--out", file, "--json")
        self.assertEqual((code, json.loads(out)["marked"]), (0, True))
        for words in (("--type", "nothing", "--out", file), ("--type", "bend-80", "--out", "x.obj"),
                      ("--type", "bend-80", "--id", "??", "--out", file), ("--type", "bend-80", "--out", "/no/such/x.stl")):  # fmt: skip
            code, _, err = call("mesh", *words)
            self.assertEqual((code, err.count("\n")), (2, 1), words)
