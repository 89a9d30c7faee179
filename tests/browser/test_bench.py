"""The bench by keyboard: one full test of each of the five named methods, a timed one, and no server."""

from datetime import timedelta
from io import BytesIO

from django.utils import timezone
from PIL import Image

from brunt_web.results.models import Result
from brunt_web.testing.models import Clock, Curve, Photo, Test, TimedReading
from tests.support.bench import bench_of
from tests.support.browser import BrowserTestCase
from tests.support.workshop import entry, person, put


def value(key: str) -> float:
    """The one stored result of a property."""
    return Result.objects.get(property_key=key).observation.anchor


class FiveMethods(BrowserTestCase):
    def bench(self, method: str, **changed):
        one = bench_of(self.user, method, **changed)
        self.open(f"/campaigns/{one.pk}/bench/")
        self.first = self.heading()
        return one

    def keys(self, letters: str):
        """Leave the field, then single letters; failure modes by Alt and their digit."""
        self.page.keyboard.press("Escape")
        for letter in letters:
            self.page.keyboard.press(f"Alt+{letter}" if letter.isdigit() else letter)

    def test_one_that_is_still_being_stored_is_not_brought_again(self):
        one = self.bench("tension", replicates=1)

        def late(route):
            if route.request.headers.get("x-part") == "outbox":
                self.page.wait_for_timeout(900)
            route.continue_()

        self.page.route("**/bench/", late)
        for _ in range(2):
            code = self.heading()
            self.page.wait_for_function("() => document.activeElement.id === 'f-width'")
            for text in ("5", "2", "500"):
                self.type_and_enter(text)
            self.page.wait_for_function(
                "(was) => document.querySelector('h1').innerText !== was", arg=code
            )
        self.sees("Nothing is ready to test")
        self.assertEqual(Test.objects.filter(turn__campaign=one).count(), 2)

    def test_tension(self):
        self.bench("tension")
        self.type_and_enter("5.00")
        self.type_and_enter("2.00")
        self.page.keyboard.type("50.985811 kgf")
        self.sees("50.0", "#answer .answer")
        self.keys("bf2")
        self.page.keyboard.press("Enter")
        self.goes_on(self.first)
        test = Test.objects.get()
        self.assertEqual(
            (test.outcome, test.place, test.mode), ("broke", "upper_fillet", "across_the_beads")
        )
        self.assertAlmostEqual(value("tensile_strength") / 50e6, 1, places=6)

    def test_layer_adhesion(self):
        self.bench("layer-adhesion")
        self.type_and_enter("5")
        self.type_and_enter("2")
        self.page.keyboard.type("300 N")
        self.sees("30.0", "#answer .answer")
        self.keys("g1")
        self.page.keyboard.press("Enter")
        self.goes_on(self.first)
        self.assertEqual(Test.objects.get().mode, "along_a_layer_line")
        self.assertAlmostEqual(value("layer_adhesion_strength") / 30e6, 1, places=6)

    def test_flexure_that_does_not_break(self):
        """72 MPa by 3FL/(2bh²); the deflection in the further readings; the bar bends on the screen."""
        self.bench("flexure")
        self.type_and_enter("10")
        self.type_and_enter("4")
        self.page.keyboard.type("120 N")
        self.page.locator("summary", has_text="More readings").click()
        self.page.locator("#f-deflection").fill("6")
        self.sees("deflection drawn", "#drawing")
        self.page.locator("#f-deflection").press("Escape")
        self.page.keyboard.press("h")
        self.sees("≥ 72.0", "#answer .answer")
        self.page.keyboard.press("Enter")
        self.goes_on(self.first)
        kinds = {r.property_key: r.observation.kind for r in Result.objects.all()}
        self.assertEqual(kinds, {"flexural_strength": "at_least", "flexural_strain": "at_least"})

    def test_impact(self):
        """The pendulum swings to the angle, shows height and loss; hinged is one key."""
        self.bench("impact")
        self.type_and_enter("10")
        self.type_and_enter("4")
        self.page.keyboard.type("128")
        self.sees("lost to friction and air", "#drawing")
        turned = self.page.locator("#drawing [data-hammer]").get_attribute("transform")
        self.assertEqual(turned, "rotate(-128.0 310 190)")
        self.keys("h")
        self.page.keyboard.press("Enter")
        self.goes_on(self.first)
        self.assertEqual(Test.objects.get().outcome, "hinged")
        self.assertGreater(value("impact_strength"), value("absorbed_energy"))

    def test_torsion_and_a_slipped_unit_kept(self):
        """A rod of 8 mm at 0.36 reads like a slipped decimal; it is asked, kept, and the answer stays."""
        self.bench("torsion")
        self.type_and_enter("8")
        self.page.keyboard.type("0.36")
        self.sees("Check this value.")
        self.page.keyboard.press("Enter")
        self.page.keyboard.press("Enter")
        self.goes_on(self.first)
        self.assertIn("reads like", Test.objects.get().answers[0]["asked"])
        self.assertAlmostEqual(value("peak_torque"), 0.36)

    def test_beyond_the_rig_is_at_least_by_one_key(self):
        self.bench("torsion")
        self.type_and_enter("8")
        self.page.keyboard.type("25")
        self.sees("More than")
        self.keys("l")
        self.sees("≥", "#answer .answer")

    def test_cautions_are_put_away_beside_what_is_typed(self):
        self.bench("flexure")
        self.type_and_enter("10")
        self.page.get_by_role("button", name="Hide cautions").click()
        self.page.locator(".cautions-open").wait_for(state="detached")
        self.assertEqual(self.page.locator("#f-width").input_value(), "10")
        self.type_and_enter("4")
        self.page.keyboard.type("120 N")
        self.sees("72.0", "#answer .answer")
        self.assertEqual(self.page.locator("#answer aside").count(), 0)

    def test_skip_and_the_break_place_on_the_outline(self):
        self.bench("flexure")
        self.page.keyboard.press("Escape")
        self.page.keyboard.press("s")
        self.goes_on(self.first)
        self.page.locator("[data-zone=off_load]").click()
        self.assertTrue(self.page.locator("[name=place][value=off_load]").is_checked())


class Timed(BrowserTestCase):
    def test_a_ladder_by_keyboard_survives_a_reload(self):
        one = bench_of(
            self.user,
            "deflection-ladder",
            reading_times=[0.0, 1.0],
            parameters={"span": "64 mm", "arrangement": "three-point", "loads": "5 N; 10 N"},
        )
        self.open(f"/campaigns/{one.pk}/bench/")
        first = self.heading()
        self.page.keyboard.press("Escape")
        for load, (early, late) in (("5 N", ("0.21", "0.22")), ("10 N", ("0.41", "0.43"))):
            self.sees(f"Hang {load}")
            self.page.keyboard.press("t")
            self.sees(load, ".big-field")
            self.type_and_enter(early)
            self.stored()
            self.page.reload()
            self.page.wait_for_load_state("networkidle")
            self.sees("at 1 s", ".big-field")
            self.type_and_enter(late)
            self.stored()
        self.sees("All readings are taken")
        self.page.locator("#f-width").fill("10")
        self.page.locator("#f-thickness").fill("4")
        self.page.locator("#f-thickness").press("Enter")
        self.goes_on(first)
        self.assertEqual(TimedReading.objects.count(), 4)
        self.assertFalse(Clock.objects.exists())
        self.assertIn("flexural_modulus", Result.objects.values_list("property_key", flat=True))

    def test_one_reading_at_a_set_time_keeps_when_it_was_typed(self):
        one = bench_of(self.user, "cantilever")
        self.open(f"/campaigns/{one.pk}/bench/")
        first = self.heading()
        self.type_and_enter("10")
        self.type_and_enter("4")
        self.page.keyboard.press("Escape")
        self.page.keyboard.press("t")
        self.sees("read in", ".clockline")
        Clock.objects.update(started_at=timezone.now() - timedelta(seconds=5))
        self.page.locator("#f-deflection").press_sequentially("2.4")
        self.page.wait_for_timeout(1500)
        self.page.keyboard.press("Enter")
        self.goes_on(first)
        taken = Result.objects.get(property_key="flexural_modulus").at_time
        self.assertTrue(5.0 <= taken < 6.4, taken)

    def test_a_outlier_and_a_bad_reading_stay_in_the_field(self):
        one = bench_of(self.user, "creep", reading_times=[0.0, 1.0])
        self.open(f"/campaigns/{one.pk}/bench/")
        self.page.keyboard.press("Escape")
        self.page.keyboard.press("t")
        self.page.locator("#f-take").wait_for()
        self.type_and_enter("low")
        self.sees("does not start with a number", "#take-error")
        self.assertEqual(self.page.locator("#f-take").input_value(), "low")
        self.page.locator("#f-take").fill("1.35")
        self.page.keyboard.press("Enter")
        self.sees("at 1 s", ".big-field")
        self.type_and_enter("0.0531")
        self.sees("reads like inches", "#take-error")
        self.assertEqual(TimedReading.objects.count(), 1)
        self.page.keyboard.press("Enter")
        self.sees("All readings are taken")
        self.assertEqual(TimedReading.objects.count(), 2)


class NeverLost(BrowserTestCase):
    def enter(self, load: str):
        self.page.wait_for_function("() => document.activeElement.id === 'f-width'")
        self.type_and_enter("5")
        self.type_and_enter("2")
        self.type_and_enter(load)

    def test_lost_connection_reload_and_back(self):
        """Three readings without a server, a reload, and each arrives once when it is back."""
        one = bench_of(self.user, "tension")
        self.open(f"/campaigns/{one.pk}/bench/")
        codes = []
        self.context.set_offline(True)
        for load in ("500", "510", "520"):
            codes.append(self.heading())
            self.enter(load)
            self.page.wait_for_function(
                "(was) => document.querySelector('h1').innerText !== was", arg=codes[-1]
            )
        self.sees("Not saved yet")
        for code in codes:
            self.sees(code, "#outbox")
        self.assertEqual(Test.objects.count(), 0)
        self.context.set_offline(False)
        self.page.reload()
        self.stored()
        self.assertEqual(
            {t.turn.code: t.readings.get(key="force").text for t in Test.objects.all()},
            dict(zip(codes, ("500", "510", "520"), strict=True)),
        )
        self.assertTrue(self.page.locator("#outbox").is_hidden())

    def test_refused_afterwards_is_said_and_kept(self):
        """Somebody else's test stands by the time the entry arrives: it is shown, not lost."""
        one = bench_of(self.user, "tension")
        self.open(f"/campaigns/{one.pk}/bench/")
        code = self.heading()
        self.context.set_offline(True)
        self.enter("500")
        self.sees("Not saved yet")
        other = person("other", one.workshop)
        put(one.specimens.get(code=code), other, entry("490 N"))
        self.context.set_offline(False)
        self.sees(f"{code} was not saved")
        self.sees("already has a test, recorded by other", "#outbox")
        self.page.get_by_role("button", name="Discard this entry").click()
        self.assertEqual(Test.objects.count(), 1)


class Outlier(BrowserTestCase):
    def test_another_replicate_by_one_key(self):
        """Four alike and a fifth that is not: flagged with its numbers, A adds one more, Enter stores."""
        one = bench_of(self.user, "tension", replicates=5)
        mine = one.specimens.filter(condition__label="Fernhall PLA").order_by("replicate")
        for specimen, load in zip(mine[:4], ("500 N", "503 N", "498 N", "501 N"), strict=True):
            put(specimen, self.user, entry(load))
        self.open(f"/specimens/{mine[4].code}/bench/")
        self.type_and_enter("5")
        self.type_and_enter("2")
        self.page.keyboard.type("700")
        self.sees("is above 1.7150 for n = 5", "#answer")
        self.page.keyboard.press("Escape")
        self.page.keyboard.press("a")
        self.sees("is added to Fernhall PLA", ".readout")
        self.assertEqual(mine.count(), 6)


class CurvesAndPhotos(BrowserTestCase):
    def test_a_curve_is_drawn_moved_and_fills_the_reading(self):
        one = bench_of(self.user, "tension")
        self.open(f"/campaigns/{one.pk}/bench/")
        code = self.heading()
        rows = "\n".join(
            f"{x / 1000:.3f};{min(2.0 * x, 500.0):.1f}".replace(".", ",") for x in range(0, 400, 2)
        )
        self.open(f"/specimens/{code}/curve/")
        self.page.get_by_label("or paste its lines").fill("Travel [mm];Load [N]\n" + rows)
        self.page.get_by_role("button", name="Unpin").click()
        self.sees("linear from here")
        peak = self.page.locator("[data-point=peak]")
        before = peak.get_attribute("data-mm")
        peak.focus()
        self.page.keyboard.press("ArrowRight")
        self.sees("is moved by hand")
        self.assertNotEqual(self.page.locator("[data-point=peak]").get_attribute("data-mm"), before)
        self.page.get_by_role("button", name="where it was found").click()
        self.eventually(lambda: Curve.objects.get().picks == {})
        self.open(f"/specimens/{code}/bench/")
        self.assertEqual(self.page.locator("#f-force").input_value(), "500 N")

    def test_a_photo_is_attached(self):
        out = BytesIO()
        Image.new("RGB", (40, 30), "grey").save(out, "PNG")
        one = bench_of(self.user, "tension")
        code = one.specimens.first().code
        self.open(f"/specimens/{code}/")
        self.page.locator("#photo").set_input_files(
            {"name": "a.png", "mimeType": "image/png", "buffer": out.getvalue()}
        )
        self.page.get_by_label("Caption").fill("break face")
        self.page.get_by_role("button", name="Add photo").click()
        self.sees("break face")
        self.assertEqual(Photo.objects.count(), 1)
