"""What a method's table says of itself, series as they are written down, slips, sweeps."""

import unittest
from dataclasses import replace

from brunt_core.computation import Instrument, compute
from brunt_core.errors import InputError
from brunt_core.methods.base import Estimated
from brunt_core.methods.clamp_retention import trend_word
from brunt_core.methods.deflection_ladder import ladder_slope
from brunt_core.methods.heat_sag import beside_standard
from brunt_core.methods.registry import held_outcomes, method, methods
from brunt_core.observations import Observation as O
from brunt_core.plausibility.bands import FAMILIES, band
from brunt_core.plausibility.unit_mixups import expected_range, find_unit_mixup
from brunt_core.properties import PROPERTIES, own_property
from brunt_core.quantities.dimensions import DIMENSIONS
from brunt_core.quantities.series import SeriesRow, parse_rows
from brunt_core.statistics.ranking import rank

BAR = {"width": "10 mm", "thickness": "4 mm"}


class Tables(unittest.TestCase):
    def test_every_method_is_whole(self):
        """Keys are unique, letters of one group too, units are known, needs can be met."""
        for key, one in methods().items():
            with self.subTest(key):
                keys = [i.key for i in one.inputs]
                self.assertEqual(len(keys), len(set(keys)))
                self.assertTrue(
                    all(i.dimension in (*DIMENSIONS, "text", "trial") for i in one.inputs)
                )
                letters = [x.letter for x in (*one.outcomes, *one.places, *one.modes)]
                self.assertEqual(len(letters), len(set(letters)), letters)
                self.assertFalse(set("SUT") & set(letters), "S skips, U undoes, T starts the clock")
                self.assertTrue(one.cautions[-1].startswith("Your safety data sheet"))
                self.assertTrue(all(r.property in PROPERTIES for r in one.results))

    def test_the_big_reading_is_what_the_ranked_property_rests_on(self):
        for key, prop, reading in (
            ("tension", "tensile_strength", "force"),
            ("cantilever", "flexural_modulus", "deflection"),
            ("cantilever", "break_moment", "break_force"),
            ("impact", "impact_strength", "end_angle"),
            ("torsion", "torsional_stress_at_90", "torque_at_90"),
            ("flexure", "flexural_modulus", "slope"),
        ):
            self.assertEqual(method(key).reading_for(prop).key, reading, (key, prop))

    def test_only_the_most_frequent_kind_of_break_is_averaged(self):
        impact = method("impact")
        self.assertEqual(impact.averaged_outcome(["broke", "hinged", "hinged"]), "hinged")
        self.assertEqual(impact.averaged_outcome(["hinged", "broke"]), "broke")
        self.assertEqual(impact.averaged_outcome(["hinged", "hinged"]), "")
        self.assertEqual(method("tension").averaged_outcome(["broke", "held"]), "")

    def test_held_outcomes_of_all_methods(self):
        self.assertEqual(held_outcomes(), {"held", "limit", "squashed", "buckled", "recovered"})

    def test_own_property_takes_its_words(self):
        prop = own_property({"name": "Friction", "unit": "µ", "better": "lower"})
        self.assertEqual((prop.name, prop.unit, prop.better), ("Friction", "µ", "lower"))
        self.assertEqual(own_property({}).better, "higher")


class Remarks(unittest.TestCase):
    def said(self, key: str, **changed: str) -> str:
        one = method(key)
        return " ".join(compute(one, one.example | changed).warnings)

    def test_each_limit_is_said(self):
        for key, changed, words in (
            ("flexure", {"deflection": "12 mm"}, "above 5 %"),
            ("flexure", {"deflection": "12 mm"}, "above 10 % of the span"),
            ("flexure", {"span": "40 mm"}, "under 15 depths"),
            ("cantilever", {"deflection": "9 mm"}, "above 10 % of the reach"),
            ("torsion", {"torque_at_90": "9 N·m"}, "above the peak"),
            ("compression", {"height": "80 mm"}, "may buckle"),
            ("impact", {"free_end_angle": ""}, "No free swing is given"),
            ("impact", {"end_angle": "20°"}, "above 80 %"),
            ("impact-relative", {"dial_with": "104"}, "above its free swing"),
            ("heat-sag", {"temperature_at_collapse": "40 °C"}, "collapsed before it sagged"),
            ("dimensional", {"length_after": "50 mm"}, "is doubtful"),
            ("drop", {"drops": "400: pass"}, "Too few drops"),
            ("clamp-retention", {}, "levelling off"),
        ):
            self.assertIn(words, self.said(key, **changed), key)

    def test_words_for_numbers(self):
        self.assertEqual(beside_standard(0.1e6), "below the standard load B (0.45 MPa)")
        self.assertEqual(beside_standard(9e6), "above the standard load C (8.00 MPa)")
        self.assertEqual(trend_word(0.79), "levelling off")

    def test_a_finer_instrument_narrows_the_result(self):
        one = method("creep")
        coarse = compute(one, one.example).results[0].uncertainty
        fine = compute(one, one.example, "", {"length": Instrument("dial", absolute=1e-6)})
        self.assertLess(fine.results[0].uncertainty, coarse / 5)

    def test_nothing_to_say_is_no_result(self):
        found = compute(method("creep"), {"readings": "1 h: 1.0; 2 h: 1.1"})
        self.assertNotIn("creep_exponent", [r.property.key for r in found.results])
        with self.assertRaises(InputError):
            compute(method("creep"), {"readings": "1 h: 1.0"})
        self.assertEqual(replace(Estimated(O.exact(1.0), 0.1), at_time=3.0).at_time, 3.0)


class Series(unittest.TestCase):
    ALONG = (("force", "N"), ("time", "s"))

    def test_ways_of_writing_rows(self):
        for text in (
            "5 N @ 1 min: 0.4 mm; 1 kgf @ 60 s: 0.8",
            "5@60 = 0.4\n1 kgf@1 min = 0.8 mm",
            "5 @ 60: 400 µm;\n\n9.80665 @ 60: 0.8 mm;",
        ):
            rows = parse_rows(text, self.ALONG, "length", "mm")
            self.assertEqual([r.at[1] for r in rows], [60.0, 60.0])
            self.assertAlmostEqual(rows[1].at[0], 9.80665)
            self.assertAlmostEqual(rows[0].value, 0.4e-3)

    def test_a_bad_row_is_quoted_with_an_example(self):
        for text, words in (
            ("5 N: 0.4", "write it like 10 N @ 30 s: 0.42 mm"),
            ("5 N @ 1 s", "write it like"),
            ("5 N @ 3 mm: 0.4", "In “5 N @ 3 mm: 0.4”"),
            ("x" * 30_000, "longer than any set"),
        ):
            with self.assertRaisesRegex(InputError, words):
                parse_rows(text, self.ALONG, "length", "mm")

    def test_trials_in_words_and_letters(self):
        rows = parse_rows(
            "400 p; 450 mm: F; 400: survived; 450 x", (("length", "mm"),), "trial", ""
        )
        self.assertEqual([r.value for r in rows], [0.0, 1.0, 0.0, 1.0])


class Slips(unittest.TestCase):
    def unit_mixup(self, key: str, expected, **texts: str):
        one = method(key)
        given = one.example | texts
        return find_unit_mixup(compute(one, given), given, "", expected, {"diameter": 0.008})

    def test_no_range_no_question(self):
        self.assertIsNone(expected_range(None, [-0.004, -0.005]))
        self.assertIsNone(expected_range(None, [3.0]))
        self.assertEqual(expected_range((330.0, 340.0), [], "temperature"), (290.0, 380.0))

    def test_what_is_fixed_is_never_suspected(self):
        """A hammer's mass in another unit would bring the energy in; only the angle was read."""
        found = self.unit_mixup("impact", (60e3, 90e3), end_angle="135")
        self.assertEqual((found.field, found.instead), ("", ""))

    def test_usual_slips(self):
        for key, expected, texts, instead in (
            ("torsion", (20e6, 60e6), {"torque": "360 N·m"}, "360 N·cm"),
            ("torsion", (20e6, 60e6), {"torque": "3.6", "diameter": "4"}, "8 mm"),
            ("part-break", (50.0, 90.0), {"force": "6 .. 8"}, "6 .. 8 kgf"),
            ("hook", (150.0, 300.0), {"force": "> 21"}, None),
            ("mass", (0.001, 0.01), {"mass_after": "4.012 kg"}, "4.012 g"),
            ("tension", (40e6, 60e6), {"force": "50 N"}, "50 kgf"),
            ("tension", (40e6, 60e6), {"force": "5000 N"}, "500 N"),
        ):
            found = self.unit_mixup(key, expected, **texts)
            self.assertEqual(found.instead if found else None, instead, (key, texts))

    def test_every_property_has_a_band_that_its_example_lies_in(self):
        """The worked examples are of sound readings: none may lie a hundredfold outside its band."""
        for one in methods().values():
            done = compute(one, one.example)
            for result in done.results:
                key = result.property.key
                if key == "own_quantity" or result.property.ordinal:
                    continue
                low, high = band("pla", key)
                with self.subTest(method=one.key, property=key):
                    self.assertLess(low, high)
                    self.assertLessEqual(low, result.observation.anchor * 1.6 + 1e-12)
                    self.assertGreaterEqual(high * 1.6, result.observation.anchor)

    def test_a_change_below_nothing_has_a_range_on_both_sides(self):
        low, high = expected_range((-0.1, 0.2), [0.01, 0.02])
        self.assertAlmostEqual(low, -0.16)
        self.assertAlmostEqual(high, 0.32)
        found = self.unit_mixup("mass", (-0.48, 0.8), mass_after="4.08 oz")
        self.assertEqual(found.instead, "4.08 g")

    def test_bands_lie_in_order(self):
        for family in FAMILIES:
            for prop in (
                "tensile_strength",
                "flexural_modulus",
                "impact_strength",
                "torsional_strength",
            ):
                found = band(family, prop)
                self.assertTrue(found is None or 0 < found[0] < found[1], (family, prop))
        self.assertIsNone(band("metal", "tensile_strength"))
        self.assertIsNone(band("tpu", "sag_temperature"))
        self.assertIsNone(band("cheese", "tensile_strength"))


class Sanity(unittest.TestCase):
    """What readings say against one another, and what they are too coarse to say."""

    def remarks(self, key, outcome="", **inputs):
        return " ".join(compute(method(key), inputs, outcome).warnings)

    def test_one_remark_each(self):
        bar = {"width": "10 mm", "thickness": "4 mm", "gauge_length": "50 mm"}
        for said, key, outcome, inputs in (
            ("above the peak", "tension", "", {**bar, "force": "500 N", "yield_force": "600 N"}),
            (
                "broke before its peak",
                "tension",
                "",
                {**bar, "force": "500 N", "extension_at_peak": "2", "extension_at_break": "1"},
            ),
            (
                "did not happen",
                "heat-sag",
                "held",
                {"temperature_at_sag": "90 °C", "temperature_at_collapse": "95 °C"},
            ),
            (
                "looks like the full width",
                "impact",
                "",
                {**method("impact").example, "notch": "A", "width": "10", "thickness": "4"},
            ),
            (
                "The mass reads like pounds",
                "impact",
                "",
                {
                    **method("impact").example,
                    "hammer_mass": "2.6 kg",
                    "hammer_arm": "310 mm",
                    "start_angle": "140",
                    "hammer_energy": "6.33 J",
                },
            ),
            (
                "pools unlike times",
                "deflection-ladder",
                "",
                {
                    **method("deflection-ladder").example,
                    "ladder": "5 N @ 1 s: 0.2; 10 N @ 60 s: 0.41",
                },
            ),
            (
                "no creep is shown",
                "creep",
                "",
                {"readings": "1 min: 1.02; 1 h: 1.02; 1 d: 1.03; 2 d: 1.02"},
            ),
        ):
            with self.subTest(said):
                self.assertIn(said, self.remarks(key, outcome, **inputs))
        fine = {**method("impact").example, "notch": "A", "width": "8", "thickness": "4"}
        self.assertNotIn("full width", self.remarks("impact", **fine))

    def test_sags_noted_at_several_temperatures(self):
        for rows, kind, anchor in (
            ("50 °C: 0.1; 60 °C: 0.2", "at_least", 333.15),
            ("50 °C: 0.5; 60 °C: 0.9", "at_most", 323.15),
        ):
            found = compute(method("heat-sag"), {"sags": rows}).results[0].observation
            self.assertEqual((found.kind, round(found.anchor, 2)), (kind, anchor))
        fell = {"temperature_at_sag": "80 °C", "springback": "partly"}
        said = self.remarks("heat-sag", "fell", **fell)
        self.assertIn("fell under its own weight", said)
        self.assertIn("sprang back only partly", said)
        with self.assertRaisesRegex(InputError, "is missing"):
            compute(method("heat-sag"), {})

    def test_cracked_at_assembly_failed_at_no_load(self):
        """It bears nothing, is counted, and stands last; no reading is asked for."""
        for key in ("part-break", "hook", "pull-out"):
            done = compute(method(key), {}, "cracked_at_assembly")
            first = done.results[0]
            self.assertEqual((first.observation.kind, first.observation.anchor), ("at_most", 0.0))
        whole, cracked = [O.exact(v) for v in (500.0, 510.0, 490.0)], O.at_most(0.0)
        ranking = rank({"sound": whole, "brittle": [O.exact(520.0), O.exact(530.0), cracked]})
        self.assertEqual([r.name for r in ranking.rows], ["sound", "brittle"])
        all_cracked = rank({"sound": whole, "brittle": [cracked] * 3})
        self.assertEqual([r.name for r in all_cracked.rows], ["sound", "brittle"])

    def test_few_drops_say_so(self):
        few = (
            "400: pass; 450: fail; 400: pass; 450: fail; 400: pass; 450: fail; 400: pass; 450: fail"
        )
        self.assertIn("takes 20 or more", self.remarks("drop", drops=few))

    def test_no_exponent_without_creep(self):
        quiet = compute(
            method("creep"), {"readings": "1 min: 1.02; 1 h: 1.02; 1 d: 1.03; 2 d: 1.02"}
        )
        loud = compute(
            method("creep"), {"readings": "1 min: 1.02; 1 h: 1.10; 1 d: 1.31; 2 d: 1.40"}
        )
        keys = [{r.property.key for r in c.results} for c in (quiet, loud)]
        self.assertNotIn("creep_exponent", keys[0])
        self.assertIn("creep_exponent", keys[1])

    def test_a_perfect_ladder_is_no_surer_than_its_dial(self):
        """σ_m = m·u/√Σ(δ−δ̄)²: with 0.2, 0.4, 0.6 mm and u = 3 µm, 1.06 % of m, by hand."""
        rows = [SeriesRow((5.0 * i, 1.0), 2e-4 * i, "") for i in (1, 2, 3)]
        slope, error = ladder_slope(rows, 3e-6)
        self.assertAlmostEqual(slope, 25_000, places=6)
        self.assertAlmostEqual(error / slope, 3e-6 / (2e-4 * 2**0.5), places=9)

    def test_compression_to_a_set_strain_needs_no_peak(self):
        inputs = {"width": "10", "thickness": "10", "force_at_strain": "5 kN", "set_strain": "25 %"}
        done = compute(method("compression"), inputs, "squashed")
        self.assertAlmostEqual(done.results[0].observation.anchor / 1e6, 50.0)
        with self.assertRaisesRegex(InputError, "peak load is missing"):
            compute(method("compression"), {"width": "10", "thickness": "10"})
