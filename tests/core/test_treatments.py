"""Treatments: kinds, what does not suit, changes of size, effects against a control."""

import unittest

import numpy as np
from scipy import stats

from brunt_core.errors import InputError
from brunt_core.observations import Observation
from brunt_core.scheduling.room import Room, room
from brunt_core.treatments.change import axis_changes, axis_of, distortion, sentences
from brunt_core.treatments.effect import each_confidence, in_a_sentence, treatment_effects
from brunt_core.treatments.kind import composed, step_seconds
from brunt_core.treatments.kinds import KINDS, kind_for
from brunt_core.treatments.suits import TreatedPart, objections


def said(kind, part, **texts):
    """What speaks against a treatment: (whether it stops, sentence)."""
    one = KINDS[kind]
    return [(o.stops, o.sentence) for o in objections(one, one.read(texts), [part])]


class Kinds(unittest.TestCase):
    def test_every_kind_is_whole(self):
        for key, kind in KINDS.items():
            with self.subTest(key):
                values = kind.read({})
                self.assertTrue(kind.steps and kind.cautions)
                self.assertTrue(kind.cautions[-1].startswith("Your safety data sheet"))
                self.assertTrue(all(step_seconds(s, values) >= 0 for s in kind.steps))
                self.assertGreater(kind.duration(values), 0)
                keys = {p.key for p in kind.parameters}
                for step in kind.steps:
                    self.assertTrue(isinstance(step.minutes, float) or step.minutes in keys, step)
                    self.assertTrue(not step.heat or step.heat in keys, step)
                    self.assertIn(step.ends, ("key", "time", "core", "settled"))
                self.assertIn(kind.event, ("treated", "conditioned"))

    def test_a_level_names_its_kind(self):
        for words, event, key in (
            ("annealed 95 °C, 2 h", "treated", "anneal-oven"),
            ("hot water 80 °C, 45 min", "treated", "anneal-water"),
            ("remelted in salt 190 °C", "treated", "remelt"),
            ("acetone vapour", "treated", "vapour"),
            ("acclimatised 90 d", "conditioned", "acclimatised"),
            ("60 °C", "conditioned", "hot-soak"),
            ("23 °C", "conditioned", "standard-atmosphere"),
        ):
            self.assertEqual(kind_for(words, event).key, key, words)
        self.assertIsNone(kind_for("blessed by the vicar"))

    def test_standard_atmospheres(self):
        """ISO 291: 23 °C, 50 % RH, usually 88 h or more; ISO 1110: 70 °C, 62 % RH (both recalled)."""
        for key, kelvin, humidity, hours in (
            ("standard-atmosphere", 296.15, 0.50, 88),
            ("accelerated", 343.15, 0.62, 168),
        ):
            values = KINDS[key].read({})
            self.assertAlmostEqual(values["temperature"], kelvin)
            self.assertAlmostEqual(values["humidity"], humidity)
            self.assertAlmostEqual(values["time"] / 3600, hours)

    def test_parameters_that_cannot_be(self):
        for texts, field in (
            ({"time": "-1 h"}, "time"),
            ({"temperature": "-400 °C"}, "temperature"),
            ({"held": "by a string"}, "held"),
            ({"time": "soon"}, "time"),
        ):
            with self.subTest(texts), self.assertRaises(InputError) as caught:
                KINDS["anneal-oven"].read(texts)
            self.assertEqual(caught.exception.field, field)

    def test_own_kinds(self):
        good = ({"label": "Tumble", "ends": "time", "minutes": 30},)
        self.assertEqual(composed("own", "Tumble", good, "treated").duration({}), 1800)
        for name, steps, sentence in (
            ("", good, "name"),
            ("A", (), "one step"),
            ("A", ({"label": " "},), "no words"),
            ("A", ({"label": "x", "ends": "magic"},), "no known way"),
            ("A", ({"label": "x", "minutes": 0},), "no time"),
        ):
            with self.subTest(sentence), self.assertRaisesRegex(InputError, sentence):
                composed("own", name, steps, "treated")


class Suits(unittest.TestCase):
    def test_solvent_against_family(self):
        self.assertIn(
            "does not dissolve PLA", said("vapour", TreatedPart("pla"), solvent="acetone")[0][1]
        )
        self.assertEqual(said("vapour", TreatedPart("abs"), solvent="acetone"), [])
        self.assertEqual(said("brushed", TreatedPart("pvb"), solvent="isopropanol"), [])
        self.assertTrue(said("brushed", TreatedPart("asa"), solvent="isopropanol")[0][0])

    def test_a_remelt_needs_solid_parts(self):
        self.assertIn("40 %", said("remelt", TreatedPart("pla", infill=0.4))[0][1])
        self.assertEqual(said("remelt", TreatedPart("pla")), [])
        self.assertIn(
            "only anneals", said("remelt", TreatedPart("pa6"), temperature="150 °C")[0][1]
        )

    def test_free_thin_parts_of_an_amorphous_family(self):
        thin = TreatedPart("petg", thickness=2e-3)
        self.assertTrue(said("anneal-oven", thin, temperature="95 °C")[0][0])
        self.assertEqual(said("anneal-oven", thin, temperature="95 °C", held="clamped"), [])
        self.assertEqual(said("anneal-oven", thin, temperature="70 °C"), [])
        self.assertFalse(
            said("anneal-oven", TreatedPart("petg", thickness=6e-3), temperature="95 °C")[0][0]
        )

    def test_marks_supports_and_soaks_too_hot(self):
        self.assertIn(
            "mark by pen",
            said("anneal-oven", TreatedPart("pla", mark="pen"), temperature="110 °C")[0][1],
        )
        self.assertEqual(
            said("anneal-oven", TreatedPart("pla", mark="raised"), temperature="110 °C"), []
        )
        self.assertIn(
            "support", said("anneal-water", TreatedPart("pla", soluble_support=True))[0][1]
        )
        self.assertIn(
            "hotter than PLA can bear",
            said("hot-soak", TreatedPart("pla"), temperature="110 °C")[0][1],
        )

    def test_each_reason_is_said_once(self):
        kind = KINDS["vapour"]
        found = objections(
            kind, kind.read({}), [TreatedPart("pla"), TreatedPart("pla"), TreatedPart("petg")]
        )
        self.assertEqual(len(found), 2)


class Sizes(unittest.TestCase):
    def test_the_factor_goes_round(self):
        """Specimens to print with the factor comes out as it was wanted: arithmetic."""
        rng = np.random.default_rng(1)
        was = {str(i): {"length": 75 + rng.normal(0, 0.05)} for i in range(5)}
        now = {k: {"length": v["length"] * 0.981} for k, v in was.items()}
        (x,) = axis_changes(was, now, "flat")
        self.assertAlmostEqual(75 * x.factor * (1 + x.mean), 75, places=9)
        self.assertAlmostEqual(x.factor, 1 / 0.981, places=9)

    def test_mean_and_interval_are_the_t_interval(self):
        shares = (-0.021, -0.019, -0.018, -0.022)
        was = {str(i): {"length": 80.0} for i in range(4)}
        now = {str(i): {"length": 80.0 * (1 + s)} for i, s in enumerate(shares)}
        (x,) = axis_changes(was, now, "upright")
        low, high = stats.t.interval(0.95, 3, np.mean(shares), stats.sem(shares))
        self.assertEqual(x.axis, "z")
        self.assertAlmostEqual(x.low, low, places=9)
        self.assertAlmostEqual(x.high, high, places=9)

    def test_holes_apart_and_one_alone_has_no_interval(self):
        found = axis_changes(
            {"A": {"width": 10, "hole": 6}}, {"A": {"width": 9.9, "hole": 5.8}}, "flat"
        )
        self.assertEqual([(c.axis, c.low) for c in found], [("y", None), ("hole", None)])
        self.assertEqual(axis_of("diameter", "flat"), "across")
        self.assertEqual(axis_changes({"A": {"width": 10}}, {"B": {"width": 9}}, "flat"), [])

    def test_out_of_square_by_the_law_of_cosines(self):
        a, b, phi = 80.0, 10.0, np.radians(0.8)
        d1 = np.sqrt(a * a + b * b + 2 * a * b * np.sin(phi))
        d2 = np.sqrt(a * a + b * b - 2 * a * b * np.sin(phi))
        found = distortion(
            {"length": a, "width": b, "diagonal": d1, "other_diagonal": d2, "bow": 0.2}
        )
        self.assertAlmostEqual(found.slant, 0.8, places=9)
        self.assertTrue(found.doubtful)
        self.assertFalse(found.incurable)
        self.assertEqual(distortion({}).doubtful, False)

    def test_what_it_means_in_words(self):
        was = {k: {"width": 10.0, "thickness": 4.0} for k in "AB"}
        now = {"A": {"width": 9.8, "thickness": 4.2}, "B": {"width": 9.8, "thickness": 4.25}}
        text = " ".join(
            sentences(axis_changes(was, now, "flat"), {"A": distortion({"length": 80, "bow": 5})})
        )
        self.assertIn("A is bowed", text)
        self.assertIn("too large for a scale factor", text)
        self.assertIn("take stress on it", text)


class Effects(unittest.TestCase):
    def groups(self, seed, k=3, n=5, shift=0.0):
        rng = np.random.default_rng(seed)
        make = lambda m: [Observation.exact(v) for v in rng.normal(m, 2, n)]  # noqa: E731
        return {str(i): make(50 + shift) for i in range(k)}, make(50)

    def test_the_family_error_is_held(self):
        """No effect at all: any of three variants significantly different in at most 5 %, 400 simulated."""
        wrong = 0
        for seed in range(400):
            variants, control = self.groups(seed)
            wrong += any(e.good is not None for e in treatment_effects(variants, control).values())
        self.assertLessEqual(wrong / 400, 0.055)

    def test_never_shorter_than_dunnett(self):
        """Šidák's interval against scipy's Dunnett for equal variation: a little longer, on the mean."""
        longer = []
        for seed in range(20):
            variants, control = self.groups(seed, shift=8)
            ours = treatment_effects(variants, control)["0"]
            base = [o.anchor for o in control]
            found = stats.dunnett(*([o.anchor for o in v] for v in variants.values()), control=base)
            interval = found.confidence_interval(0.95)
            theirs = (interval.high[0] - interval.low[0]) / np.mean(base)
            longer.append((ours.ratio.high - ours.ratio.low) / theirs)
        self.assertGreater(np.median(longer), 1.0)
        self.assertAlmostEqual(each_confidence(0.95, 3) ** 3, 0.95)

    def test_verdicts(self):
        O = Observation.exact  # noqa: E741
        control = [O(50.0), O(51.0), O(49.0)]
        found = treatment_effects(
            {
                "up": [O(60.0), O(61.0), O(59.5)],
                "same": [O(50.5), O(49.5), O(50.0)],
                "held": [Observation.at_least(60.0), Observation.at_least(61.0)],
                "one": [O(60.0)],
            },
            control,
        )
        self.assertEqual([e.verdict for e in found.values()], ["more", "open", "bound", "untold"])
        self.assertIn("no change larger than", found["same"].words)
        lower = treatment_effects({"up": [O(60.0), O(61.0), O(59.5)]}, control, better="lower")[
            "up"
        ]
        self.assertFalse(lower.good)
        text = in_a_sentence({"Layers": found["up"], "Tension": found["same"], "Creep": lower})
        self.assertEqual(
            text, "Better in layers, worse in creep, no significant change in tension."
        )
        empty = treatment_effects({"a": []}, control)["a"]
        self.assertEqual(empty.verdict, "untold")


class Rooms(unittest.TestCase):
    def test_as_a_workshop_says_it(self):
        for said, specimens, each in (
            ("12", 12, 1),
            ("6 plates of 8", 48, 8),
            ("2 Trays x 5", 10, 5),
            ("8 l, 0.25 l each", 32, 1),
            ("8 l; 250 ml per specimen", 32, 1),
            ("0.9 l, 0.3 l each", 3, 1),
        ):
            with self.subTest(said):
                self.assertEqual(room(said), Room(specimens, each))
        for said, sentence in (
            ("", "how much it takes"),
            ("lots", "how much it takes"),
            ("8 l", "how much it takes"),
            ("0", "too small for one"),
            ("0 plates of 8", "too small for one"),
            ("0.1 l, 1 l each", "too small for one"),
            ("1e9 l, 1 ml each", "more than 1000"),
            ("5000", "more than 1000"),
            ("8 l, 0 l each", "more than none"),
            ("8 kg, 1 l each", "kg"),
        ):
            with self.subTest(said), self.assertRaisesRegex(InputError, sentence):
                room(said)

    def test_a_plate_begun_is_a_plate_taken(self):
        six = Room(48, 8)
        self.assertEqual([six.taken(n) for n in (0, 1, 8, 9, 60)], [8, 8, 8, 16, 48])
