"""Clocks, curves, photos, flags and procedures: what their actions keep and refuse."""

import re
from datetime import timedelta
from io import BytesIO
from pathlib import Path
from uuid import uuid4

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.utils import timezone
from PIL import Image

from brunt_core.errors import InputError
from brunt_web.campaigns.models import Turn
from brunt_web.library.models import Recipe
from brunt_web.results.models import Result
from brunt_web.testing import queries
from brunt_web.testing.actions import curves, timed
from brunt_web.testing.actions.in_hand import take_next
from brunt_web.testing.actions.photos import add_photo
from brunt_web.testing.actions.record_test import Entry
from brunt_web.testing.attempt import attempt_result
from brunt_web.testing.curve_queries import unpacked_points
from brunt_web.testing.flags import flag_of
from brunt_web.testing.models import AskedCurve, Clock, Curve, Photo, Test, TimedReading
from brunt_web.testing.timed_queries import timed_of, unlike
from tests.support.bench import TYPED, bench_of
from tests.support.curves import pulled
from tests.support.media import own_media
from tests.support.workshop import BACKEND, NOW, campaign, entry, fill, person, put


class Benches(TestCase):
    def setUp(self):
        self.user = person()
        self.client.force_login(self.user, backend=BACKEND)

    def one(self, method: str, **changed) -> Turn:
        return self.again(bench_of(self.user, method, **changed).specimens.first())

    def again(self, specimen) -> Turn:
        return queries.turn_of(self.user.seat.workshop, specimen.code)


class Clocks(Benches):
    def taken(self, specimen, seconds, text, due, load_step="", key="readings"):
        at = NOW + timedelta(seconds=seconds)
        return timed.take(specimen, self.user, timed.Taken(uuid4(), at, key, due, text, load_step))

    def test_a_creep_test_from_loading_to_result(self):
        specimen = self.one("creep")
        with self.assertRaisesRegex(InputError, "Start the clock"):
            self.taken(specimen, 1, "1.0", 60)
        timed.start_clock(specimen, self.user, NOW)
        with self.assertRaisesRegex(InputError, "runs already"):
            timed.start_clock(specimen, self.user, NOW)
        for seconds, text, due in ((61, "1.02", 60), (3610, "1.10", 3600), (90000, "1.31", 86400)):
            self.taken(specimen, seconds, text, due)
        with self.assertRaisesRegex(InputError, "already saved"):
            self.taken(specimen, 99, "1.0", 60)
        state = timed_of(self.again(specimen), NOW + timedelta(seconds=100_000))
        self.assertEqual(
            [d.apart for d in state.dues if d.taken], ["1 s late", "10 s late", "1 h late"]
        )
        self.assertEqual(state.current.due, 259200.0)
        self.assertEqual(self.again(specimen).state, "running")
        timed.finish(specimen, self.user, Entry(uuid4(), NOW, {"width": "10", "thickness": "4"}))
        self.assertFalse(Clock.objects.exists())
        result = Result.objects.get(property_key="creep_deflection")
        self.assertAlmostEqual(result.lower * 1e3, 0.29, places=9)
        self.assertAlmostEqual(result.at_time, 90000)

    def test_the_same_reading_arrives_once_and_is_taken_back(self):
        specimen = self.one("creep")
        timed.start_clock(specimen, self.user, NOW)
        once = timed.Taken(uuid4(), NOW + timedelta(seconds=60), "readings", 60, "1.02")
        self.assertEqual(
            timed.take(specimen, self.user, once).pk, timed.take(specimen, self.user, once).pk
        )
        timed.undo_take(specimen, self.user, NOW)
        self.assertEqual((TimedReading.objects.count(), Clock.objects.count()), (0, 1))
        timed.undo_take(specimen, self.user, NOW)
        self.assertEqual(Clock.objects.count(), 0)

    def test_bad_timed_readings(self):
        specimen = self.one("clamp-retention")
        timed.start_clock(specimen, self.user, NOW)
        for text, key, sentence in (
            ("", "heights", "is missing"),
            ("high", "heights", "does not start with a number"),
            ("3 N", "heights", "is a force"),
            ("3 mm", "bogus", "no reading of the method"),
        ):
            with self.assertRaisesRegex(InputError, sentence):
                self.taken(specimen, 1, text, 0, key=key)
        with self.assertRaisesRegex(InputError, "No reading yet"):
            timed.finish(specimen, self.user, Entry(uuid4(), NOW))

    def test_a_missed_reading_is_passed_and_wanted_again(self):
        specimen = self.one("creep")
        timed.start_clock(specimen, self.user, timezone.now())
        base = f"/specimens/{specimen.code}/clock/"
        page = self.client.get(f"/specimens/{specimen.code}/bench/")
        self.assertContains(page, "Skip this reading")
        first, second = specimen.procedure.reading_times[:2]
        self.client.post(base + "pass/", {"input": "readings", "due": first})
        state = timed_of(self.again(specimen), timezone.now())
        self.assertEqual((state.dues[0].passed, state.current.due), (True, second))
        self.assertContains(self.client.get(f"/specimens/{specimen.code}/"), "missed, skipped")
        self.client.post(base + "pass/", {"input": "readings", "due": first})
        self.assertEqual(timed_of(self.again(specimen), timezone.now()).current.due, first)
        wrong = self.client.post(base + "pass/", {"input": "readings", "due": 77})
        self.assertContains(wrong, "no reading of the procedure", status_code=422)

    def test_a_reading_written_down_earlier_has_its_own_time(self):
        specimen = self.one("creep")
        begun = timezone.localtime().replace(hour=0, minute=5, second=0, microsecond=0)
        timed.start_clock(specimen, self.user, begun - timedelta(days=1))
        address = f"/specimens/{specimen.code}/clock/take/"
        form = {"key": str(uuid4()), "input": "readings", "due": "3600", "text": "1.02"}
        stamp = (begun - timedelta(days=1)).strftime("%Y-%m-%d")
        self.client.post(address, {**form, "read_at": f"{stamp} 01:07"})
        self.assertAlmostEqual(TimedReading.objects.get().elapsed, 62 * 60)
        for said, sentence in (
            ("soon", "Write the time as 14:05"),
            ("2999-01-01 10:00", "in the future"),
            ("2000-01-01 10:00", "before the clock was started"),
        ):
            sent = {**form, "key": str(uuid4()), "due": "60", "read_at": said}
            self.assertContains(self.client.post(address, sent), sentence, status_code=422)

    def test_what_is_read_so_far_is_in_compare(self):
        specimen = self.one("creep")
        timed.start_clock(specimen, self.user, NOW)
        self.taken(specimen, 60, "1.02", 60)
        self.taken(specimen, 3600, "1.10", 3600)
        page = self.client.get(f"/campaigns/{specimen.campaign_id}/compare/")
        self.assertContains(page, f"{specimen.code} is running: 0.0800 mm after 1 h")

    def test_a_reading_in_inches_is_asked_about_and_kept_when_meant(self):
        specimen = self.one("creep")
        timed.start_clock(specimen, self.user, NOW)
        self.taken(specimen, 60, "1.35", 60)
        with self.assertRaisesRegex(InputError, "reads like inches"):
            self.taken(specimen, 3600, "0.0531", 3600)
        with self.assertRaisesRegex(InputError, "no reading time"):
            self.taken(specimen, 5, "1.35", 77)
        base = f"/specimens/{specimen.code}/clock/take/"
        form = {"key": str(uuid4()), "input": "readings", "due": "3600", "text": "0.0531"}
        asked = self.client.post(base, form, headers={"X-Part": "bench"})
        self.assertContains(asked, 'data-asked-text="0.0531"', status_code=422)
        kept = self.client.post(base, {**form, "kept": "0.0531"}, headers={"X-Part": "outbox"})
        self.assertEqual((kept.status_code, TimedReading.objects.count()), (204, 2))

    def test_unlike_times_are_told(self):
        self.assertFalse(unlike(5.4, 5.0))
        self.assertFalse(unlike(2.2, 1.0))
        self.assertTrue(unlike(9.0, 5.0))
        self.assertTrue(unlike(100_000, 86_400))
        one = bench_of(self.user, "cantilever", replicates=2)
        for i, specimen in enumerate(one.specimens.all()):
            found = self.again(specimen)
            timed.start_clock(found, self.user, NOW)
            read = NOW + timedelta(seconds=5 if i else 60)
            inputs = TYPED["cantilever"]
            put(found, self.user, Entry(uuid4(), NOW, inputs, "held", read_at=read))
        page = self.client.get(f"/campaigns/{one.pk}/compare/")
        self.assertContains(page, "Readings were taken at different times, 5 s to 1 min")

    def test_pages_of_a_clock(self):
        specimen = self.one("creep")
        base = f"/specimens/{specimen.code}/clock"
        self.client.post(f"{base}/start/", headers={"X-Part": "bench"})
        form = {"key": str(uuid4()), "input": "readings", "due": "60", "text": "x"}
        refused = self.client.post(f"{base}/take/", form, headers={"X-Part": "outbox"})
        self.assertContains(refused, "does not start with a number", status_code=422)
        good = self.client.post(
            f"{base}/take/", {**form, "text": "1.2"}, headers={"X-Part": "outbox"}
        )
        self.assertEqual(good.status_code, 204)
        self.assertContains(self.client.get(f"/campaigns/{specimen.campaign_id}/"), "1 running")
        self.client.post(f"{base}/undo/")
        self.assertEqual(TimedReading.objects.count(), 0)


class Flags(Benches):
    def test_a_outlier_specimen_is_flagged_kept_and_both_means_are_shown(self):
        one = campaign(self.user, replicates=5, orientations=("flat",))
        fill(one, self.user, {"Fernhall PLA": ["500", "503", "498", "501", "760"]})
        odd = Test.objects.get(readings__text="760").turn.specimen
        found = self.again(odd)
        self.assertTrue(flag_of(found).outlier)
        self.assertIsNone(
            flag_of(self.again(one.specimens.exclude(pk=odd.pk).filter(spent=True)[0]))
        )
        page = self.client.get(f"/specimens/{odd.code}/")
        self.assertContains(page, "Suspected outlier")
        self.assertContains(
            self.client.get(f"/campaigns/{one.pk}/"), f"{odd.code} suspected outlier"
        )
        self.client.post(f"/specimens/{odd.code}/another/")
        self.assertEqual(one.specimens.filter(condition=odd.condition).count(), 6)
        self.client.post(
            f"/specimens/{odd.code}/leave-out/", {"reason": "a second look at the jaw"}
        )
        for address in (f"/campaigns/{one.pk}/", f"/campaigns/{one.pk}/compare/"):
            self.assertContains(self.client.get(address), "55.2 with all")
        self.client.post(f"/specimens/{odd.code}/count/")
        self.assertNotContains(self.client.get(f"/campaigns/{one.pk}/"), "with all")

    def test_bands_of_every_kind_ask_about_units(self):
        for method, texts, reads in (
            ("flexure", {"force": "13.4", "width": "10", "thickness": "4"}, "kgf"),
            ("torsion", {"torque": "360", "diameter": "8"}, "N·cm"),
            ("torsion", {"torque": "3.6", "diameter": "4"}, "the radius"),
            (
                "tension",
                {"force": "5000", "width": "5", "thickness": "2"},
                "a misplaced decimal point",
            ),
            ("double-shear", {"force": "100", "diameter": "6"}, "kgf"),
            ("heat-sag", {"temperature_at_sag": "240"}, "°F"),
        ):
            tried = attempt_result(self.one(method), texts, "")
            self.assertIn(
                f"reads like {reads}", tried.unit_mixup.sentence if tried.unit_mixup else "", method
            )

    def test_a_sparse_infill_widens_what_is_expected(self):
        turn = self.one("tension")
        weak = {"force": "60 N", "width": "5", "thickness": "2"}
        self.assertIsNotNone(attempt_result(turn, weak, "").unit_mixup)
        settings = {"infill": {"value": 0.15, "shown": "15 %"}}
        recipe = Recipe.objects.create(
            workshop=self.user.seat.workshop, name="Sparse", kind="filament", settings=settings
        )
        turn.condition.recipe = recipe
        turn.condition.save()
        self.assertIsNone(attempt_result(self.again(turn), weak, "").unit_mixup)

    def test_a_size_far_from_the_drawing_is_told_even_when_the_result_fits(self):
        specimen = self.one("impact")
        texts = {"end_angle": "10.02", "width": "4.01", "thickness": "128.5"}
        page = self.client.post(f"/specimens/{specimen.code}/bench/try/", texts)
        self.assertContains(page, "Thickness is 128 mm; nominal is 4.00 mm.")
        fine = {"end_angle": "128", "width": "10.2", "thickness": "4.1"}
        self.assertEqual(attempt_result(specimen, fine, "").odd_sizes, [])

    def test_unlike_breaks_are_never_averaged(self):
        one = bench_of(
            self.user, "impact", replicates=3, materials=("Fernhall PLA", "Fernhall PETG")
        )
        ends = iter((("128", "broke"), ("127", "broke"), ("100", "hinged")) * 2)
        for specimen in one.specimens.order_by("condition", "replicate"):
            angle, outcome = next(ends)
            inputs = {**TYPED["impact"], "end_angle": angle}
            put(self.again(specimen), self.user, Entry(uuid4(), NOW, inputs, outcome))
        page = self.client.get(f"/campaigns/{one.pk}/compare/").content.decode()
        self.assertIn("never averaged with complete", page)
        self.assertContains(self.client.get(f"/campaigns/{one.pk}/"), "1 other failure mode")

    def test_one_hinged_group_does_not_silence_the_rest(self):
        names = ("Fernhall PLA", "Fernhall PETG", "Tarn ASA")
        one = bench_of(self.user, "impact", replicates=3, materials=names)
        ends = {"Fernhall PLA": ("130", "broke"), "Fernhall PETG": ("110", "broke")}
        for i, specimen in enumerate(one.specimens.order_by("condition", "replicate")):
            angle, outcome = ends.get(specimen.condition.label, ("60", "hinged"))
            inputs = {**TYPED["impact"], "end_angle": str(int(angle) + i % 3)}
            if i == 0:
                outcome = "partial"
            put(self.again(specimen), self.user, Entry(uuid4(), NOW, inputs, outcome))
        page = self.client.get(f"/campaigns/{one.pk}/compare/")
        text = " ".join(page.content.decode().split())
        self.assertIn("ranked within each, never across", text)
        self.assertRegex(text, r"<strong>Fernhall PETG leads, [^<]* times Fernhall PLA")
        self.assertIn("<h2>Broke hinged</h2>", text)
        self.assertIn("2 of 3 complete, 1 of 3 partial", text)
        hinged = one.conditions.get(label="Tarn ASA").pk
        shown = self.client.get(f"/campaigns/{one.pk}/compare/?working={hinged}")
        self.assertContains(shown, "worked-panel")


class Curves(Benches):
    LINES = "Travel [mm];Load [N]\n" + "\n".join(
        f"{x / 1000:.3f};{min(2.0 * x, 500):.1f}".replace(".", ",") for x in range(0, 400, 2)
    )

    def test_data_import_picked_restored_and_taken_off(self):
        specimen = self.one("tension")
        curve = curves.bring_curve(specimen, self.user, NOW, "a.csv", self.LINES.encode("utf-16"))
        self.assertEqual(curve.points, 200)
        texts = queries.entered_values(self.again(specimen))
        self.assertEqual(texts["force"], "500 N")
        self.assertEqual(texts["slope"], "2000000 N/m")
        curves.move_pick(curve, "peak", 0.0001)
        self.assertEqual(queries.entered_values(self.again(specimen))["force"], "200 N")
        with self.assertRaisesRegex(InputError, "not a point"):
            curves.move_pick(curve, "toe", 0.0)
        curves.restore_picks(curve, "peak")
        self.assertEqual(Curve.objects.get().picks, {})
        curves.remove_curve(specimen)
        self.assertNotIn("slope", queries.entered_values(self.again(specimen)))

    def test_refused_files_keep_what_was_pasted(self):
        specimen = self.one("tension")
        address = f"/specimens/{specimen.code}/curve/"
        answer = self.client.post(address, {"pasted": "a;b\nc;d"})
        self.assertContains(answer, "No two columns of numbers", status_code=422)
        self.assertContains(answer, "c;d", status_code=422)
        self.assertContains(self.client.post(address, {}), "Choose a file first", status_code=422)
        self.client.post(address, {"pasted": self.LINES})
        self.assertContains(self.client.get(address), "linear to here")
        moved = self.client.post(
            f"{address}pick/", {"pick": "peak", "at": "x"}, headers={"X-Part": "curve"}
        )
        self.assertContains(moved, "not a point on the curve", status_code=422)
        with self.assertRaisesRegex(InputError, "takes no curve"):
            curves.bring_curve(self.one("impact"), self.user, NOW, "a", self.LINES.encode())


class DoubtfulCurves(Benches):
    """Resources in several ways is asked; spikes are excluded on request."""

    def setUp(self):
        super().setUp()
        self.specimen = self.one("tension")
        self.address = f"/specimens/{self.specimen.code}/curve/"
        self.rows = list(zip(*pulled(), strict=True))

    def send(self, line, head=""):
        rows = [line(*row) for row in self.rows]
        return self.client.post(
            self.address, {"pasted": "\n".join([head, *rows] if head else rows)}
        )

    def test_asked_with_a_drawing_of_each_and_answered(self):
        self.send(lambda t, x, f: f"{t} {x:.4f} {f:.1f}")
        page = self.client.get(self.address)
        self.assertContains(page, "can be read in more than one way")
        self.assertContains(page, "<polyline", count=2)
        self.assertFalse(Curve.objects.exists())
        wrong = self.client.post(f"{self.address}answer/", {"chosen": "9:9:."})
        self.assertContains(wrong, "not one of the ways", status_code=422)
        key = re.findall(r'name="chosen" value="([^"]+)"', page.content.decode())[1]
        self.client.post(f"{self.address}answer/", {"chosen": key})
        self.assertEqual(Curve.objects.get().points, len(self.rows))
        self.assertFalse(AskedCurve.objects.exists())
        self.assertNotContains(self.client.get(self.address), "more than one way")

    def two_pulls(self):
        """A file of two specimens: 1 800 N, then a head again and 2 340 N. The second was joined to the first."""

        def rows(peak):
            return [f"{i / 50:.3f};{i / 60 * peak:.2f}" for i in range(61)] + [
                "1.22;0.5",
                "1.24;0.3",
            ]

        head = "displacement mm;force N"
        text = "\n".join([head, *rows(1800), "", "Specimen 2", head, *rows(2340)])
        self.client.post(self.address, {"pasted": text, "named": "two.csv"})
        return self.client.get(self.address)

    def test_a_file_of_two_specimens_is_parted_and_each_pull_given_to_its_own(self):
        page = self.two_pulls()
        self.assertContains(page, "holds 2 curves, one after the other. Assign each")
        self.assertContains(page, "peak 1800 N")
        self.assertContains(page, "peak 2340 N")
        self.assertFalse(Curve.objects.exists())
        mine = self.specimen
        other = next(t for t in page.context["offered"] if t.pk != mine.pk)
        both = {"key": ["#1", "#2"], "to": [str(mine.pk), str(mine.pk)]}
        self.assertContains(
            self.client.post(f"{self.address}share/", both),
            "cannot belong to one specimen",
            status_code=422,
        )
        self.assertContains(
            self.client.post(f"{self.address}share/", {}), "Assign at least one", status_code=422
        )
        odd = {"key": ["#7"], "to": [str(mine.pk)]}
        self.assertContains(
            self.client.post(f"{self.address}share/", odd), "not one of the curves", status_code=422
        )
        self.assertFalse(Curve.objects.exists())
        both["to"] = [str(mine.pk), str(other.pk)]
        self.client.post(f"{self.address}share/", both)
        peaks = {
            c.turn_id: round(float(unpacked_points(c).force.max())) for c in Curve.objects.all()
        }
        self.assertEqual(peaks, {mine.pk: 1800, other.pk: 2340})
        self.assertIn("curve 2 of 2 in the file", Curve.objects.get(turn=other).notes)
        self.assertFalse(AskedCurve.objects.exists())

    def test_one_specimen_loaded_twice_may_keep_all_of_it(self):
        self.two_pulls()
        self.client.post(f"{self.address}answer/", {"chosen": "#0"})
        self.assertEqual(Curve.objects.get().points, 126)

    def test_pulls_beside_each_other(self):
        rows = [f"{i / 50:.3f};{i * 30:.1f};{i / 50:.3f};{i * 39:.1f}" for i in range(60)]
        head = "S1 displacement mm;S1 force N;S2 displacement mm;S2 force N"
        self.client.post(self.address, {"pasted": "\n".join([head, *rows])})
        page = self.client.get(self.address)
        self.assertContains(page, "2 curves in columns next to each other")
        keys = re.findall(r'name="key" value="([^"]+)"', page.content.decode())
        mine = self.specimen
        self.client.post(f"{self.address}share/", {"key": keys, "to": ["", str(mine.pk)]})
        self.assertAlmostEqual(float(unpacked_points(Curve.objects.get()).force.max()), 2301.0)

    def test_turned_over_or_left(self):
        self.send(lambda t, x, f: f"{x:.3f};{-f:.1f}", "Weg [mm];Kraft [N]")
        self.assertContains(self.client.get(self.address), "Flip sign")
        self.client.post(f"{self.address}forget/")
        self.assertNotContains(self.client.get(self.address), "Flip sign")
        gone = self.client.post(f"{self.address}answer/", {"chosen": "0:1:.:turned"})
        self.assertContains(gone, "no file waiting", status_code=422)
        self.send(lambda t, x, f: f"{x:.3f};{-f:.1f}", "Weg [mm];Kraft [N]")
        self.client.post(f"{self.address}answer/", {"chosen": "0:1:.:turned"})
        texts = queries.entered_values(self.again(self.specimen))
        self.assertAlmostEqual(float(texts["force"].split()[0]), max(f for *_, f in self.rows), 0)

    def test_an_answer_does_not_lose_the_curve_before(self):
        self.send(lambda t, x, f: f"{x:.3f};{f:.1f}", "Weg [mm];Kraft [N]")
        self.send(lambda t, x, f: f"{t} {x:.4f} {f:.1f}")
        self.assertTrue(Curve.objects.exists())
        self.client.post(f"{self.address}forget/")
        self.assertTrue(Curve.objects.exists())

    def test_spikes_are_ringed_excluded_and_counted_again(self):
        self.rows[20] = (*self.rows[20][:2], 4000.0)
        self.send(lambda t, x, f: f"{x:.3f};{f:.1f}", "Weg [mm];Kraft [N]")
        page = self.client.get(self.address)
        self.assertContains(page, "1 reading")
        self.assertContains(page, "a spike rather than the peak?")
        self.assertEqual(queries.entered_values(self.again(self.specimen))["force"], "4000 N")
        self.client.post(f"{self.address}spikes/out/")
        self.assertLess(
            float(queries.entered_values(self.again(self.specimen))["force"].split()[0]), 1900
        )
        self.assertContains(self.client.get(self.address), "Include again")
        self.client.post(f"{self.address}spikes/in/")
        self.assertEqual(queries.entered_values(self.again(self.specimen))["force"], "4000 N")

    def test_method_window_and_residuals_are_on_show(self):
        self.send(lambda t, x, f: f"{x:.3f};{f:.1f}", "Weg [mm];Kraft [N]")
        page = self.client.get(self.address).content.decode()
        self.assertIn("Residuals of the linear part", page)
        self.assertIn("fitted together", page)
        self.assertRegex(page, r"±\s+[\d.]+")


class Photos(Benches):
    def setUp(self):
        super().setUp()
        folder = own_media(self)
        self.folder = Path(folder)

    def picture(self, kind="JPEG", **more) -> SimpleUploadedFile:
        out = BytesIO()
        Image.new("RGB", (64, 48), "grey").save(out, kind, **more)
        return SimpleUploadedFile("where.jpg", out.getvalue())

    def test_location_is_stripped_and_the_file_is_the_workshops_alone(self):
        exif = Image.Exif()
        exif[0x010F] = "a camera"
        exif.get_ifd(0x8825).update({1: "N", 2: (51.0, 30.0, 0.0)})
        specimen = self.one("tension")
        photo = add_photo(specimen.specimen, self.user, NOW, self.picture(exif=exif), "break face")
        with Image.open(self.folder / "photos" / photo.file) as held:
            self.assertEqual(dict(held.getexif()), {})
        self.assertEqual(self.client.get(f"/photos/{photo.pk}.jpg").status_code, 200)
        self.client.force_login(person("stranger"), backend=BACKEND)
        self.assertEqual(self.client.get(f"/photos/{photo.pk}.jpg").status_code, 404)
        self.client.force_login(self.user, backend=BACKEND)
        self.client.post(f"/specimens/{specimen.code}/photo/{photo.pk}/off/")
        kept = [f.name for f in (self.folder / "photos").iterdir()]
        self.assertEqual((Photo.objects.count(), kept), (0, [photo.file]))

    def test_refused_pictures(self):
        specimen = self.one("tension")
        for upload, sentence in (
            (None, "Choose a picture"),
            (SimpleUploadedFile("a.jpg", b"GIF89a not a picture"), "is not a JPEG"),
            (self.picture("GIF"), "is not a JPEG"),
            (SimpleUploadedFile("a.jpg", self.picture().read()[:200]), "its end is missing"),
        ):
            with self.assertRaisesRegex(InputError, sentence):
                add_photo(specimen.specimen, self.user, NOW, upload)


class Hands(Benches):
    def test_two_testers_do_not_take_up_the_same_one(self):
        one = campaign(self.user, replicates=2, orientations=("flat",))
        first = self.again(one.specimens.first())
        other = person("other", one.workshop)
        mine = take_next(first, self.user, NOW)
        theirs = take_next(first, other, NOW)
        self.assertNotEqual(mine, theirs)
        self.assertEqual(take_next(first, other, NOW), theirs)
        self.assertEqual(take_next(first, other, NOW + timedelta(minutes=11)), mine)

    def test_the_last_one_leads_to_the_end(self):
        one = campaign(self.user, replicates=1, orientations=("flat",))
        for specimen in one.specimens.all():
            put(self.again(specimen), self.user, entry())
        self.assertIsNone(take_next(self.again(one.specimens.first()), self.user, NOW))
        self.assertContains(self.client.get(f"/campaigns/{one.pk}/bench/"), "Nothing is ready")
