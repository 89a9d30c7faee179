"""CONTRIBUTING is followed as a newcomer would: a method, a view, a property, a treatment, piece by piece."""

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

from brunt_core.computation import compute
from brunt_core.methods.registry import method
from brunt_core.properties import PROPERTIES, Property
from brunt_core.treatments.kinds import KINDS
from brunt_web.comparison.tabs import VIEWS, CompareView
from tests.support.whole import (
    DRAWINGS,
    ROOT,
    missing_of_method,
    missing_of_property,
    missing_of_treatment,
    missing_of_view,
)

TEXT = (ROOT / "CONTRIBUTING.md").read_text()


class Method(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.root = Path(folder.name)
        for path in (DRAWINGS, "docs/methods", "tests/reference"):
            (self.root / path).mkdir(parents=True)

    def put(self, path, text):
        """One of the pieces; the text of CONTRIBUTING names its place."""
        (self.root / path).write_text(text)

    def test_a_method_is_whole_after_the_five_places(self):
        known = method("tension")
        result = replace(known.results[0], property="peel_strength")
        peel = replace(known, key="peel", name="Peel", drawing="peel", results=(result,))
        properties = dict(PROPERTIES)

        def missing():
            return list(missing_of_method(peel, self.root, properties))

        self.assertEqual(
            missing(),
            [
                f"peel: its drawing at the bench is missing: {DRAWINGS}/peel.svg.",
                "peel: its page is missing: docs/methods/peel.md.",
                "peel: no test in tests/reference holds its result against an outside number.",
                "peel: the property “peel_strength” is missing in brunt_core/properties.py.",
            ],
        )
        for place in ("drawings/<drawing>.svg", "docs/methods/<key>.md", "tests/reference", "properties.py"):  # fmt: skip
            self.assertIn(place, TEXT)
        self.put(f"{DRAWINGS}/peel.svg", "<svg/>")
        self.put("docs/methods/peel.md", "# Peel")
        self.assertIn(
            f"peel: docs/methods/peel.md does not show the formula “{result.formula}”.", missing()
        )
        said = " ".join([result.formula, *(i.label for i in peel.inputs)])
        self.put("docs/methods/peel.md", said)
        self.put("tests/reference/test_methods.py", '"peel"')
        properties["peel_strength"] = Property("peel_strength", "Peel strength", "σ", "stress", "MPa")  # fmt: skip
        self.assertEqual(
            missing(),
            ["peel_strength: its usual range is missing in brunt_core/plausibility/bands.py."],
        )
        self.assertIn("brunt_core/plausibility/bands.py", TEXT)

    def test_the_method_computes_as_soon_as_it_is_there(self):
        """What CONTRIBUTING promises: the form, the working and ``compute`` follow from the one ``METHOD``."""
        peel = replace(method("tension"), key="peel", name="Peel")
        done = compute(peel, {"force": "100 N", "width": "10 mm", "thickness": "2 mm"})
        self.assertAlmostEqual(done.results[0].observation.anchor, 5e6)  # 100 N over 20 mm²


class View(unittest.TestCase):
    def test_a_view_is_whole_after_the_four_places(self):
        views = VIEWS | {"rainflow": CompareView("Rainflow", "w", "other_pages.rainflow")}
        self.assertEqual(
            list(missing_of_view("rainflow", views)),
            [
                "rainflow: brunt_web/comparison/pages has no other_pages.rainflow.",
                "rainflow: docs/guide/compare.md does not say what “Rainflow” shows.",
            ],
        )
        taken = VIEWS | {"rainflow": CompareView("Summary", "p", "other_pages.compare_kinds_view")}
        self.assertEqual(
            list(missing_of_view("rainflow", taken)),
            ["rainflow: its key “p” opens another view too."],
        )
        for place in ("comparison/tabs.py", "comparison/pages/", "docs/guide/compare.md"):
            self.assertIn(place, TEXT)


class Others(unittest.TestCase):
    def test_a_property_without_its_range_is_named(self):
        new = Property("smell", "Smell", "s", "ratio", "")
        self.assertEqual(
            list(missing_of_property(new)),
            ["smell: its usual range is missing in brunt_core/plausibility/bands.py."],
        )

    def test_a_treatment_that_heats_by_nothing_is_named(self):
        kind = KINDS["anneal-oven"]
        step = replace(kind.steps[0], label="Heat up", heat="heat")
        self.assertEqual(
            list(missing_of_treatment(replace(kind, steps=(step,), cautions=()))),
            [
                "anneal-oven: it has no cautions.",
                "anneal-oven: its step “Heat up” lasts or heats by “heat”, which is no parameter of it.",
            ],
        )
        self.assertIn("brunt_core/treatments/kinds.py", TEXT)
