"""The views of Compare: what each shows, says, and says it cannot."""

from dataclasses import replace
from datetime import timedelta
from uuid import uuid4

from django.test import TestCase

from brunt_core.quantities.rendering import figures
from brunt_web.comparison.strips import common_words, short_names
from brunt_web.comparison.tradeoff_view import tradeoff_of
from brunt_web.library.models import Procedure, Rig
from brunt_web.testing.actions import curves, timed
from brunt_web.testing.actions.change_test import exclude
from brunt_web.testing.actions.record_test import measure
from tests.support.bench import bench_of
from tests.support.plans import Shop, factor
from tests.support.reading import words
from tests.support.workshop import (
    BACKEND,
    NOW,
    campaign,
    entry,
    fill,
    made,
    person,
    put,
    turn,
    turns_of,
)

VIEWS = (
    *(
        "",
        "profile/",
        "one-factor/",
        "two-factors/",
        "paired/",
        "anisotropy/",
        "trade-off/",
        "time/",
        "curves/",
    ),
    *("failure-modes/", "summary/"),
)
PLA, ASA, PC = "Fernhall PLA", "Tarn ASA", "Tarn PC"
FLAT = {PLA: ["500", "505", "498"], ASA: ["400", "404", "409"], PC: ["600", "607", "598"]}
UP = {PLA: ["250", "245", "252"], ASA: ["300", "305", "296"], PC: ["300", "310", "301"]}


class Compared(TestCase):
    def setUp(self):
        self.user = person()
        self.client.force_login(self.user, backend=BACKEND)

    def three(self, flat=None, up=None):
        """Three materials pulled flat and upright."""
        one = campaign(self.user, materials=(PLA, ASA, PC))
        fill(one, self.user, FLAT if flat is None else flat)
        fill(one, self.user, UP if up is None else up, "upright")
        return one

    def see(self, one, name, **query):
        """A view of a campaign."""
        answer = self.client.get(f"/campaigns/{one.pk}/compare/{name}", query)
        self.assertEqual(answer.status_code, 200, name)
        return answer

    def grid(self, n=3, more=0.0):
        """Walls by infill with results that add up, or do more than that."""
        one = Shop(self.user).plan(
            factor("setting", "2", "4", setting="walls", name="Walls"),
            factor("setting", "20 %", "80 %", setting="infill", name="Infill"),
            n=n,
        )
        made(one, self.user)
        for t in turns_of(one):
            w = t.condition.level_words
            load = 300 + 100 * (w["walls"] == "4") + 60 * (w["infill"] == "80 %")
            load += more * (w["walls"] == "4") * (w["infill"] == "80 %")
            put(t, self.user, entry(f"{load + 4 * (t.specimen.replicate % 3)} N"))
        return one


class Profile(Compared):
    def test_strips_heads_and_the_chosen(self):
        one = self.three()
        page = self.see(one, "profile/")
        found = page.context["profile"]
        self.assertEqual([h.leader for h in found.heads], [PC, "Tarn PC = Tarn ASA"])
        self.assertTrue(found.heads[0].lead.startswith("by "))
        self.assertIn("Tarn PC is best or shared best in 2 of 2.", words(page))
        rows = [r for b in found.bands for r in b.rows]
        self.assertEqual([r.name for r in rows], [PC, PLA, ASA])
        self.assertEqual((rows[0].chosen, rows[0].cells[0].leads), (True, True))
        self.assertEqual(rows[1].cells[0].against, "−17 %")
        self.assertEqual(rows[2].cells[1].against, "= Tarn PC")
        self.assertEqual(sum(len(m.cells[0].marks) for m in rows), 9)
        pla = one.conditions.get(label=PLA)
        page = self.see(
            one, "profile/", chosen=pla.pk, lit=f"{pla.pk},99999", sort=2, apart="family"
        )
        found = page.context["profile"]
        self.assertEqual(found.chosen, pla)
        self.assertEqual(page.context["sort"], 2)
        self.assertEqual([b.title for b in found.bands], ["PLA", "ASA"])
        self.assertIn("beats", words(self.see(one, "profile/", chosen=pla.pk, lit=one.conditions.first().pk + 1)))  # fmt: skip
        only = self.see(one, "profile/", chosen=pla.pk, only="1").context["profile"]
        self.assertEqual([r.name for b in only.bands for r in b.rows], [PLA])

    def test_less_is_better_lies_to_the_right_too(self):
        from brunt_web.comparison.profile import profile_of

        one = self.three()
        strip = self.see(one, "profile/").context["profile"].heads[0].strip
        shown = profile_of([strip], list(one.conditions.all()), None, 0, "nothing", set())
        means = {r.name: r.cells[0].mean for b in shown.bands for r in b.rows}
        self.assertGreater(means[PC], means[ASA])
        object.__setattr__(strip.prop, "better", "lower")
        try:
            del strip.__dict__["ranking"], strip.__dict__["places"]
            shown = profile_of([strip], list(one.conditions.all()), None, 0, "nothing", set())
            means = {r.name: r.cells[0].mean for b in shown.bands for r in b.rows}
            self.assertLess(means[PC], means[ASA])
        finally:
            object.__setattr__(strip.prop, "better", "higher")

    def test_enough_and_what_to_test_next(self):
        one = campaign(self.user, materials=(PLA, ASA), replicates=8, orientations=("flat",))
        fill(one, self.user, {PLA: ["500", "515", "508"], ASA: ["470", "490", "480"]})
        page = self.see(one, "profile/")
        head = page.context["profile"].heads[0]
        self.assertEqual(head.state, "not settled yet")
        self.assertIn("Test next", words(page))
        self.assertIn("2 more of", page.context["profile"].next)

    def test_names_say_what_differs(self):
        one = self.grid()
        conditions = list(one.conditions.all())
        self.assertEqual(common_words(conditions), [])
        alike = campaign(self.user, materials=("Weir PLA, silk", "Weir PLB, silk"))
        conditions = list(alike.conditions.all())
        self.assertEqual(common_words(conditions), ["silk"])
        self.assertEqual(sorted(short_names(conditions).values()), ["Weir PLA", "Weir PLB"])
        self.assertContains(self.see(alike, "profile/"), "Common to all: silk.")


class Settings(Compared):
    def test_a_one_factor_with_its_optimum(self):
        one = Shop(self.user).plan(
            factor("setting", "200 °C", "215 °C", "230 °C", "245 °C", setting="nozzle_temperature", name="Nozzle"),
            n=4,
        )  # fmt: skip
        made(one, self.user)
        for t in turns_of(one):
            heat = float(t.condition.level_words["nozzle"].split()[0])
            load = 500 - 0.15 * (heat - 224) ** 2 + 3 * (t.specimen.replicate % 4)
            put(t, self.user, entry(f"{load:.0f} N"))
        page = self.see(one, "one-factor/")
        (course,) = page.context["one_factor"].courses
        self.assertEqual(course.found.model, "curved")
        self.assertAlmostEqual(course.found.optimum.value, 224, delta=2)
        self.assertTrue(course.band and course.lane and course.loss)
        self.assertIn("Nozzle: best at 22", words(page))
        self.assertEqual(len(course.marks), 16)

    def test_two_factors_their_edges_and_no_more_than_a_sum(self):
        page = self.see(self.grid(), "two-factors/")
        grid = page.context["grid"]
        self.assertIn("4 with 80 % is first", grid.headline)
        self.assertIn("No interaction is detectable", words(page))
        self.assertEqual([e.title for e in grid.edges], ["Walls", "Infill"])
        self.assertTrue(all("makes a difference" in e.verdict for e in grid.edges))
        self.assertEqual(len(grid.cells), 4)
        self.assertFalse(any(c.real for c in grid.cells))
        swapped = self.see(
            page.context["campaign"], "two-factors/", along=grid_factor(page, "Infill")
        )
        self.assertEqual([p.label for p in swapped.context["grid"].panels][0], "Infill 20 %")

    def test_an_interaction_is_marked_where_it_is(self):
        grid = self.see(self.grid(more=120), "two-factors/").context["grid"]
        self.assertTrue(any(c.real for c in grid.cells))
        self.assertIn("is not additive", " ".join(grid.rest))
        self.assertEqual(len(grid.table), 4)

    def test_one_each_claims_no_interaction(self):
        page = self.see(self.grid(n=1), "two-factors/")
        self.assertIn("without replicates", words(page))

    def test_pairs_by_a_factor(self):
        one = self.grid()
        shown = self.see(one, "paired/").context["shown"]
        self.assertEqual([(r.first, r.second) for r in shown.rows], [("2", "4")] * 2)
        self.assertTrue(all(r.verdict == "better" for r in shown.rows))
        self.assertEqual(shown.headline, "Of 2 pairs: 2 better.")

    def test_pairs_of_one_each_claim_nothing(self):
        shown = self.see(self.grid(n=1), "paired/").context["shown"]
        self.assertEqual({r.verdict for r in shown.rows}, {"not tested enough"})
        self.assertEqual(shown.headline, "Of 2 pairs: 2 not tested enough.")

    def test_addresses_of_before_lead_to_the_same_views(self):
        one = self.grid()
        base = f"/campaigns/{one.pk}/compare/"
        for old, new in (("grid/?along=1", "two-factors/?along=1"), ("sweep/", "one-factor/?")):
            answer = self.client.get(base + old)
            self.assertEqual((answer.status_code, answer["Location"]), (301, base + new))
        self.assertRedirects(self.client.get("/league/?series=x"), "/all-campaigns/?series=x", 301)


def grid_factor(page, name):
    return page.context["campaign"].factors.get(name=name).pk


class Others(Compared):
    def test_directions(self):
        shown = self.see(self.three(), "anisotropy/").context["shown"]
        self.assertEqual(
            {r.name: r.verdict for r in shown.rows}, dict.fromkeys((PLA, ASA, PC), "worse")
        )
        self.assertIn("× 0.50", [r.ratio for r in shown.rows])

    def test_a_trade_off_its_edge_and_scores(self):
        one = self.three()
        page = self.see(one, "trade-off/")
        trade = page.context["trade"]
        self.assertEqual([s.name for s in trade.spots if s.on_edge], [PC])
        self.assertIn("best in both", trade.headline)
        scored = page.context["scored"]
        self.assertEqual([r.name for r in scored.rows][0], PC)
        self.assertEqual(scored.rows[0].score.leads, 1.0)
        weights = {f"w{p.pk}": "0" for p in one.procedures.all()}
        self.assertIn("not all zero", words(self.see(one, "trade-off/", **weights)))
        self.assertIn("two properties", tradeoff_of(None, None, []).why_not)

    def test_kinds_of_break(self):
        one = self.three()
        found = self.see(one, "failure-modes/").context["kinds"]
        self.assertTrue(found)
        self.assertTrue(
            all(b.total == sum(p.count for p in b.parts) for k in found for b in k.bars)
        )

    def test_campaign_summary_have_their_proof_and_what_the_lead_hangs_on(self):
        one = campaign(self.user, materials=(PLA, ASA), replicates=5, orientations=("flat",))
        fill(one, self.user, {PLA: ["500", "505", "498", "502", "501"], ASA: ["480", "481", "479", "482", "700"]})  # fmt: skip
        page = self.see(one, "summary/")
        for _, said in page.context["parts"]:
            for s, url in said:
                self.assertTrue(s.strong or s.rest)
                self.assertEqual(self.client.get(url).status_code, 200, url)
        self.assertIn("Without the suspected outlier", words(page))
        self.assertIn("Fernhall PLA leads", words(page))
        self.assertIsNotNone(page.context["variation"])
        self.assertIn("all were recorded at the same time", words(page))

    def test_what_is_excluded_is_seen_everywhere(self):
        one = self.three()
        turn = turns_of(one, state="broken").first()
        exclude(turn.test, "a void in the face", self.user, NOW)
        for view in ("profile/", "trade-off/", "summary/"):
            self.assertIn("a void in the face", words(self.see(one, view)), view)

    def test_the_all_campaigns_over_campaigns(self):
        one, other = self.three(), campaign(self.user, materials=(PLA, PC), question="Again?")
        fill(other, self.user, {PLA: ["520", "525", "518"]})
        page = self.client.get("/all-campaigns/")
        all_campaigns = page.context["all_campaigns"]
        self.assertEqual((all_campaigns.chosen.campaigns, all_campaigns.chosen.count), (2, 12))
        families = {f.title: [e.name for e in f.entries] for f in all_campaigns.families}
        self.assertEqual(families["PLA"].count(PLA), 2)
        self.assertContains(page, "Again?")
        up = next(s for s in all_campaigns.series if s.key != all_campaigns.chosen.key)
        self.assertContains(self.client.get("/all-campaigns/", {"series": up.key}), up.title)
        self.assertTrue(one.pk)

    def test_an_old_series_on_a_smaller_rig_is_marked(self):
        """600 N on the drawn section: what held there may be better than shown."""
        self.three()
        old = campaign(self.user, materials=(PLA, PC), question="In the old frame?")
        flat = old.procedures.get(orientation="flat")
        small = Rig.objects.create(workshop=self.user.seat.workshop, name="Old frame", capacity=600.0, resolution=1)  # fmt: skip
        copy = Procedure.objects.get(pk=flat.pk)
        copy.pk, copy.rig, copy.name = None, small, f"{flat.name}, old frame"
        copy.save()
        turns_of(old, procedure=flat).update(procedure=copy)
        for t in turns_of(old, procedure=copy, condition__label=PC):
            put(t, self.user, entry("> 590 N", "limit"))
        page = self.client.get("/all-campaigns/")
        marked = [e for f in page.context["all_campaigns"].families for e in f.entries if e.limited]
        self.assertEqual([(e.name, e.question) for e in marked], [(PC, "In the old frame?")])
        self.assertIn(f"Old frame reads to {figures(600 / flat.geometry.area)} MPa", words(page))
        self.assertIn("may be better than shown", words(page))


class Thin(Compared):
    def test_every_view_says_what_it_lacks(self):
        empty = campaign(self.user, materials=(PLA, ASA))
        single = campaign(self.user, materials=(PLA, ASA), question="One?")
        fill(single, self.user, {PLA: ["500"]})
        held = campaign(self.user, materials=(PLA, ASA), question="Held?")
        fill(held, self.user, {PLA: [">500", ">510"], ASA: [">520", ">505"]})
        alike = campaign(self.user, materials=(PLA, ASA), question="Alike?")
        fill(alike, self.user, {PLA: ["500", "500", "500"], ASA: ["500", "500", "500"]})
        out = campaign(self.user, materials=(PLA, ASA), question="Out?")
        fill(out, self.user, {PLA: ["500", "510"], ASA: ["520"]})
        for t in turns_of(out, state="broken"):
            exclude(t.test, "wrong spool", self.user, NOW)
        for one in (empty, single, held, alike, out):
            for view in VIEWS:
                with self.subTest(one=one.question, view=view):
                    self.see(one, view)
        self.assertEqual(self.client.get("/all-campaigns/").status_code, 200)

    def test_what_the_address_cannot_mean_falls_back(self):
        one = self.three()
        odd = "1e9,x," + "9" * 30
        for view in VIEWS:
            for key in ("view", "property", "sort", "chosen", "lit", "apart", "only", "per", "across",
                        "up", "along", "factor", "show", "order", "reference", "working", "pairs", "by", "family"):  # fmt: skip
                self.see(one, view, **{key: odd})
        self.assertEqual(self.client.get(f"/campaigns/{one.pk}/compare/nothing/").status_code, 404)
        self.assertEqual(self.client.get("/campaigns/99999/compare/profile/").status_code, 404)
        self.assertEqual(self.client.get("/all-campaigns/", {"series": odd}).status_code, 200)

    def test_strangers_see_nothing(self):
        one = self.three()
        other = person("stranger")
        self.client.force_login(other, backend=BACKEND)
        for view in VIEWS:
            answer = self.client.get(f"/campaigns/{one.pk}/compare/{view}")
            self.assertEqual(answer.status_code, 404, view)
        self.assertNotContains(self.client.get("/all-campaigns/"), PC)

    def test_picks_survive_a_change_of_view(self):
        one = self.three()
        page = self.see(one, "profile/", chosen=one.conditions.first().pk, lit="3,4")
        urls = {word: url for word, url, _, _ in page.context["tabs"]}
        for word in ("Ranking", "Two factors", "Trade-off"):
            self.assertIn("lit=3%2C4", urls[word])
            self.assertIn(f"chosen={one.conditions.first().pk}", urls[word])

    def test_queries_do_not_grow_with_specimens(self):
        few, many = self.three(), campaign(self.user, materials=(PLA, ASA, PC), replicates=8, question="More?")  # fmt: skip
        fill(many, self.user, {k: [str(int(v[0]) + i) for i in range(8)] for k, v in FLAT.items()})
        for view in VIEWS:
            with self.subTest(view):
                counts = []
                for one in (few, many):
                    with self.assertNumQueriesAtMost(60) as seen:
                        self.see(one, view)
                    counts.append(len(seen))
                self.assertLessEqual(counts[1], counts[0] + 2)

    def assertNumQueriesAtMost(self, most):
        from django.db import connection
        from django.test.utils import CaptureQueriesContext

        case = self

        class Most(CaptureQueriesContext):
            def __exit__(self, *error):
                super().__exit__(*error)
                if error[0] is None:
                    case.assertLessEqual(len(self), most)

        return Most(connection)


class FortyRows(Compared):
    def test_the_ladder_lights_what_cannot_be_told(self):
        names = tuple(f"Material {i:02d} " + "x" * 60 for i in range(16))
        one = campaign(self.user, materials=names, orientations=("flat",))
        fill(one, self.user, {n: [str(400 + 12 * i + d) for d in (0, 9, 4)] for i, n in enumerate(names)})  # fmt: skip
        page = self.see(one, "").context["page"]
        self.assertTrue(page.crowded)
        self.assertEqual([line.chosen for line in page.lines].count(True), 1)
        self.assertTrue(page.lines[1].alike)
        self.assertFalse(page.lines[-1].alike)
        self.assertIsNone(self.see(one, "").context["pairs"])
        self.assertEqual(len(self.see(one, "", pairs="1").context["pairs"]), 120)
        last = page.lines[-1].group.condition.pk
        page = self.see(one, "", chosen=last).context["page"]
        self.assertTrue(page.lines[-1].chosen)
        self.assertTrue(page.lines[-2].alike)


class Working(Compared):
    def test_what_else_is_known_of_one(self):
        one = self.three(flat={**FLAT, PC: [">600", "607", "598"]})
        for label, seen in (
            (PLA, ("median 50.0, smallest 49.8", "90 % reach at least", "modulus")),
            (
                PC,
                (
                    "non-parametric",
                    "those that did not fail at their load",
                    "without a distribution it takes 29",
                ),
            ),
        ):
            condition = one.conditions.get(label=label)
            page = words(self.see(one, "", working=condition.pk))
            for text in seen:
                self.assertIn(text, page, label)

    def test_alike_is_a_question_of_its_own(self):
        one = self.three(flat={PLA: ["500", "501", "500"], ASA: ["501", "500", "501"], PC: ["600", "607", "598"]})  # fmt: skip
        pairs = self.see(one, "", pairs="1", alike="10").context["pairs"]
        said = {(p["first"], p["second"]): p["alike"] for p in pairs}
        self.assertEqual(sorted(said.values()), ["cannot be said", "cannot be said", "yes"])
        self.assertNotIn("<th>equivalent within", self.see(one, "", alike="x").content.decode())

    def test_against_the_reference_only_asks_less(self):
        one = self.three()
        pla = one.conditions.get(label=PLA)
        every = {(p["first"], p["second"]): p["p"] for p in self.see(one, "", reference=pla.pk).context["pairs"]}  # fmt: skip
        control = self.see(one, "", reference=pla.pk, control="1").context["pairs"]
        self.assertEqual(len(control), 2)
        for p in control:
            self.assertIn(PLA, (p["first"], p["second"]))
            self.assertLessEqual(p["p"], every[p["first"], p["second"]])

    def test_without_the_outlier(self):
        one = campaign(self.user, materials=(PLA, ASA), replicates=5, orientations=("flat",))
        fill(one, self.user, {PLA: ["500", "505", "498", "502", "501"], ASA: ["480", "481", "479", "482", "700"]})  # fmt: skip
        first = self.see(one, "")
        self.assertIn("Without the suspected outlier", words(first))
        self.assertContains(first, "without outliers")
        page = self.see(one, "", order="without").context["page"]
        self.assertEqual([line.row.name for line in page.lines], [PLA, ASA])
        self.assertEqual(page.lines[1].row.summary.n, 4)
        self.assertIn("excluded by the option", words(self.see(one, "", order="without")))
        self.assertEqual(self.see(one, "", order="worst").context["page"].lines[0].row.name, PLA)

    def test_only_the_lit_ones_in_every_view(self):
        one = self.three()
        lit = ",".join(str(c.pk) for c in one.conditions.exclude(label=ASA))
        for view in VIEWS:
            page = self.see(one, view, lit=lit, keep="lit")
            told = page.content.decode().split("<main")[1]
            self.assertNotIn(ASA, told, view)
        self.assertContains(self.see(one, "profile/", lit=lit), "only the selected ones")

    def test_what_it_hangs_on_is_said_in_every_view(self):
        one = self.three()
        waiting = turns_of(one, state="waiting").first()
        self.assertIsNone(waiting)
        bar = turns_of(one).first().specimen
        put(bar, self.user, entry("505 N", untimely="the room was hot"), replace=True)
        for view in ("", "profile/", "trade-off/", "failure-modes/"):
            self.assertIn("the room was hot", words(self.see(one, view)), view)


class Lines(Compared):
    LINES = "Travel [mm];Load [N]\n" + "\n".join(
        f"{x / 1000:.3f};{min(2.0 * x, 500):.1f}" for x in range(0, 400, 2)
    )

    def test_series_over_time_say_where_they_go(self):
        one = bench_of(self.user, "creep", replicates=2)
        for i, specimen in enumerate(one.specimens.order_by("pk")):
            at = turn(specimen)
            timed.start_clock(at, self.user, NOW)
            for seconds, due, value in ((60, 60, 1.0), (3600, 3600, 1.2), (86400, 86400, 1.9)):
                when = NOW + timedelta(seconds=seconds)
                taken = timed.Taken(uuid4(), when, "readings", due, f"{value + 0.01 * i}", "")
                timed.take(at, self.user, taken)
        page = self.see(one, "time/")
        shown = page.context["shown"]
        self.assertEqual(sum(len(c.traces) for c in shown.courses), one.specimens.count())
        self.assertIn("accelerates on the logarithm of time", words(page))
        self.assertTrue(all(c.mean and c.band for c in shown.courses))
        self.assertEqual([label for _, label in shown.x_ticks][0], "1 min")

    def test_curves_with_their_mean(self):
        one = bench_of(self.user, "tension", replicates=2)
        bars = list(one.specimens.order_by("pk"))
        for bar in bars:
            curves.bring_curve(turn(bar), self.user, NOW, "a.csv", self.LINES.encode())
        shown = self.see(one, "curves/").context["shown"]
        self.assertEqual(sum(len(c.traces) for c in shown.courses), len(bars))
        self.assertTrue(shown.courses[0].mean)
        self.assertIn("2 curves; the mean as far as the first of them goes", shown.courses[0].words)
        self.assertIn("No load curve", words(self.see(self.three(), "curves/")))
        self.assertIn("has no timed readings", words(self.see(one, "time/")))

    def test_more_properties_beside_the_ranked(self):
        one = bench_of(self.user, "tension", replicates=2)
        for bar in one.specimens.order_by("pk"):
            curves.bring_curve(turn(bar), self.user, NOW, "a.csv", self.LINES.encode())
            one_entry = entry("500 N")
            put(
                bar,
                self.user,
                replace(one_entry, inputs={**one_entry.inputs, "slope": "2000000 N/m"}),
            )
        page = self.see(one, "profile/")
        links = dict(page.context["more"])
        self.assertTrue(links)
        more = self.client.get(next(iter(links.values())))
        self.assertEqual(len(more.context["profile"].heads), 2)


class Normalised(Compared):
    """By another section, by mass, price, hours: on the result by name, and in every view."""

    def lone(self, view="", **query):
        """The flat bars' ladder, and the mean of each material."""
        page = self.see(self.one, view, view=str(self.flat.pk), **query)
        return page, {
            x.group.condition.label: x.row.summary.mean for x in page.context["page"].lines
        }

    def setUp(self):
        super().setUp()
        self.one = self.three()
        self.flat = self.one.procedures.get(orientation="flat")
        for m, density, price in zip(
            (PLA, ASA, PC), (1240.0, 1070.0, 1200.0), (20, 30, None), strict=True
        ):
            self.user.seat.workshop.materials.filter(name=m).update(density=density, price=price)

    def test_on_the_section_as_drawn(self):
        """Tested on 5 × 2 mm; nominal is what it says: the load divided by that, by hand."""
        page, means = self.lone(by="drawn")
        area = self.flat.geometry.area
        self.assertAlmostEqual(means[PLA], 501 / area, places=4)
        self.assertIn("on the section as drawn", words(page))
        _, plain = self.lone()
        self.assertAlmostEqual(plain[PLA], 50.1, places=4)

    def test_per_density_and_what_lacks_it(self):
        _, means = self.lone(by="density")
        self.assertAlmostEqual(means[ASA], 40.43333 / 1.07, places=3)
        page, priced = self.lone(by="price")
        self.assertNotIn(PC, priced)
        self.assertIn(
            "the price of its material is not known",
            words(self.see(self.one, "profile/", by="price")),
        )
        self.assertEqual(page.status_code, 200)

    def test_by_mass_only_where_weighed(self):
        geometry = self.flat.geometry
        solid = geometry.volume * 1e-3 * 1.24
        for t in turns_of(self.one, condition__label=PLA, procedure=self.flat)[:2]:
            measure(t.specimen, self.user, NOW, {"mass": f"{solid / 2} g"})
        page, means = self.lone(by="mass")
        line = next(x for x in page.context["page"].lines if x.group.condition.label == PLA)
        self.assertEqual((line.row.summary.n, len(line.group.excluded)), (2, 1))
        both = [500, 505, 498]
        held = [o.anchor for o in line.row.observations]
        self.assertTrue(all(any(abs(v - 2 * f / geometry.area) < 1e-3 for f in both) for v in held))
        self.assertNotIn(ASA, means)

    def test_per_gram_foreseen_per_hour_only_with_a_recipe(self):
        _, means = self.lone(by="gram")
        grams = self.flat.geometry.volume * 1e-3 * 1.24
        self.assertGreater(means[PLA], 50.1 / grams * 0.99)
        page, hours = self.lone(by="hour")
        self.assertEqual(hours, {})

    def test_the_ratio_is_normalised_on_both_sides_and_says_so(self):
        plain = self.see(self.one, "", view="ratio")
        drawn = self.see(self.one, "", view="ratio", by="drawn")
        self.assertIn("Upright ÷ flat, on the section as drawn", words(drawn))
        up = self.one.procedures.get(orientation="upright")
        same = self.flat.geometry.area / up.geometry.area
        rows = [
            {r.name: r.summary.mean for r in p.context["page"].ranking.rows} for p in (plain, drawn)
        ]
        self.assertAlmostEqual(rows[1][PLA] / rows[0][PLA], same, places=6)

    def test_every_view_carries_it(self):
        for name in VIEWS:
            for by in ("drawn", "fracture", "density", "hour", "nonsense"):
                page = self.see(self.one, name, by=by)
                if by == "density" and name:
                    self.assertIn("per density", words(page), name)

    def test_the_reader_chooses_the_distribution(self):
        pk = self.one.conditions.get(label=PLA).pk
        for family, said in (
            ("", "by likelihood"),
            ("weibull", "median, Weibull"),
            ("lognormal", "median, log-normal"),
            ("normal", "as chosen"),
            ("none", "it takes 29 to state that"),
        ):
            page = self.see(self.one, "", working=str(pk), family=family, view=str(self.flat.pk))
            self.assertIn(said, words(page), family)
