"""A token made, used by the ten lines of a notebook as the page shows them, and revoked."""

import io

import matplotlib

from tests.support.browser import BrowserTestCase
from tests.support.workshop import campaign, fill

matplotlib.use("Agg")


class Tokens(BrowserTestCase):
    def test_made_used_revoked(self):
        from matplotlib import pyplot

        one = campaign(self.user, orientations=("flat",))
        fill(one, self.user, {"Fernhall PLA": ["500", "501", "502"], "Tarn ASA": ["300", "301", ">320"]})  # fmt: skip
        self.open("/tokens/")
        self.page.fill("#id_name", "Plots")
        self.page.get_by_role("button", name="Create token").click()
        self.sees("shown only once")
        secret = self.page.locator("#secret").input_value()
        code = self.page.locator(".tk-code").inner_text()
        self.assertIn(secret, code)
        self.assertEqual(len(code.splitlines()), 10)
        pyplot.figure()
        space: dict = {}
        exec(compile(code, "notebook", "exec"), space)
        self.assertEqual([t.get_text() for t in pyplot.gca().get_yticklabels()], ["Fernhall PLA", "Tarn ASA"])  # fmt: skip
        self.assertEqual(pyplot.gca().get_xlabel(), "Tension, flat, MPa")
        out = io.BytesIO()
        pyplot.savefig(out)
        self.assertGreater(len(out.getvalue()), 5000)
        pyplot.close("all")
        self.page.get_by_role("button", name="Revoke").click()
        self.sees("is revoked")
        with self.assertRaises(KeyError):
            exec(compile(code, "notebook", "exec"), {})
        pyplot.close("all")
