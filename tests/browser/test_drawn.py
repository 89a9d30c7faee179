"""What charts look like once drawn: strokes and fills that are there, marks at their scale's place."""

from datetime import timedelta
from uuid import uuid4

from brunt_web.testing.actions import curves, timed
from tests.support.bench import bench_of
from tests.support.browser import BrowserTestCase
from tests.support.drawn import UNRULED
from tests.support.plans import Shop, factor
from tests.support.workshop import NOW, campaign, entry, fill, made, put, turn, turns_of

LINES = "travel,load\nmm,N\n" + "\n".join(f"{i / 20},{8 * i}" for i in range(41))


class Drawn(BrowserTestCase):
    def look(self, address: str) -> None:
        """Open a chart; no shape in it lacks its rule."""
        self.open(address)
        self.assertEqual(self.page.evaluate(UNRULED), [], address)

    def stroked(self, selector: str) -> None:
        """A line is drawn as a line: stroked in a colour, and not filled."""
        shown = self.page.locator(selector).first.evaluate(
            "(e) => [getComputedStyle(e).fill, getComputedStyle(e).stroke, e.getTotalLength() > 20]"
        )
        self.assertEqual((shown[0], shown[2]), ("none", True), selector)
        self.assertNotIn(shown[1], ("none", "rgb(0, 0, 0)"), selector)

    def test_load_curves_and_series_are_lines(self):
        one = bench_of(self.user, "tension", replicates=2)
        for bar in one.specimens.order_by("pk"):
            curves.bring_curve(turn(bar), self.user, NOW, "a.csv", LINES.encode())
        self.look(f"/campaigns/{one.pk}/compare/curves/")
        self.stroked("path.l-one-factor")
        self.stroked("path.l-axis")
        creep = bench_of(self.user, "creep", replicates=2)
        for i, specimen in enumerate(creep.specimens.order_by("pk")):
            at = turn(specimen)
            timed.start_clock(at, self.user, NOW)
            for seconds, value in ((60, 1.0), (3600, 1.2), (86400, 1.9)):
                when = NOW + timedelta(seconds=seconds)
                taken = timed.Taken(uuid4(), when, "readings", seconds, f"{value + 0.01 * i}", "")
                timed.take(at, self.user, taken)
        self.look(f"/campaigns/{creep.pk}/compare/time/")
        self.stroked("path.l-one-factor")

    def test_one_factor_and_two_factors_are_lines(self):
        heats = ("200 °C", "215 °C", "230 °C", "245 °C")
        one = Shop(self.user).plan(
            factor("setting", *heats, setting="nozzle_temperature", name="Nozzle"),
            factor("setting", "2", "4", setting="walls", name="Walls"),
            n=3,
        )
        made(one, self.user)
        for t in turns_of(one):
            heat = float(t.condition.level_words["nozzle"].split()[0])
            load = 500 - 0.15 * (heat - 224) ** 2 + 3 * (t.specimen.replicate % 4)
            put(t, self.user, entry(f"{load:.0f} N"))
        for view in ("one-factor/", "two-factors/"):
            self.look(f"/campaigns/{one.pk}/compare/{view}")
            self.stroked("path.l-one-factor")
            self.stroked("path.l-axis")

    def test_a_familys_bar_and_its_rows_stand_on_one_scale(self):
        """The bar of a family spans the means of its rows, to the pixel."""
        one = campaign(self.user, materials=("Fernhall PLA", "Weir PLA", "Tarn ASA"))
        loads = {
            "Fernhall PLA": ["500", "505", "498"],
            "Weir PLA": ["600", "606", "598"],
            "Tarn ASA": ["900", "905", "910"],
        }
        fill(one, self.user, loads)
        self.look("/all-campaigns/")
        spread, means = self.page.evaluate(
            """() => {
              const bar = document.querySelector('.lg-spread').getBoundingClientRect();
              const rows = [...document.querySelectorAll('.lg-spread')][0].closest('tbody');
              const means = [...rows.querySelectorAll('.l-mean')].map((m) => m.getBoundingClientRect());
              return [[bar.left, bar.right], means.map((m) => (m.left + m.right) / 2)];
            }"""
        )
        self.assertEqual(len(means), 2)
        self.assertAlmostEqual(spread[0], min(means), delta=1.5)
        self.assertAlmostEqual(spread[1], max(means), delta=1.5)
