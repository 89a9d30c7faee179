"""``screenshots``: one picture of each main view from the running demo, for the README."""

import json
import sys

from brunt_command import debian
from brunt_command.places import ROOT, STATE
from brunt_command.problem import Problem

TARGET = ROOT / "docs" / "screenshots"


def main() -> int:
    """Take them all at 1280 × 800."""
    from playwright.sync_api import sync_playwright

    try:
        port = json.loads((STATE / "server.json").read_text())["port"]
    except OSError:
        raise SystemExit(
            "brunt: the demo does not run; start it with ./brunt demo first."
        ) from None
    try:
        browser_path = debian.ensure("chromium", debian.chromium, "The browser Chromium")
    except Problem as problem:
        raise SystemExit(f"brunt: {problem}") from None
    TARGET.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as play:
        browser = play.chromium.launch(
            executable_path=str(browser_path),
            args=["--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage"],
        )
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        _Tour(page, f"http://127.0.0.1:{port}").take()
        browser.close()
    return 0


class _Tour:
    """The way through the demo."""

    def __init__(self, page, base: str) -> None:
        self.page, self.base = page, base

    def take(self) -> None:
        """Sign in and photograph each view."""
        self._shot("sign-in", "/sign-in/")
        self.page.get_by_role("button", name="Look round").click()
        self._shot("campaigns", "/")
        self.page.get_by_text("vent-crank arm").first.click()
        self.page.wait_for_load_state("networkidle")
        campaign = self.page.url.removeprefix(self.base)
        self._shot("rack", campaign)
        self._shot("ask", f"{campaign}ask/")
        self._shot("questions", "/campaigns/shapes/")
        self._plan()
        self._bench(f"{campaign}bench/")
        self._shot("ladder", f"{campaign}compare/")
        self._shot("upright-over-flat", f"{campaign}compare/?view=ratio")
        self._preview(f"{campaign}bring-in/")
        self._printing()

    def _shot(self, name: str, address: str) -> None:
        self.page.goto(self.base + address)
        self.page.wait_for_load_state("networkidle")
        self._save(name)

    def _save(self, name: str) -> None:
        self.page.wait_for_timeout(300)
        self.page.screenshot(path=str(TARGET / f"{name}.png"))
        print(f"docs/screenshots/{name}.png")

    def _bench(self, address: str) -> None:
        self.page.goto(self.base + address)
        self.page.wait_for_load_state("networkidle")
        for text in ("5.02 5.01 5.03", "2.01"):
            self.page.keyboard.type(text)
            self.page.keyboard.press("Enter")
        self.page.keyboard.type("29.4 kg")
        self.page.wait_for_timeout(400)
        self._save("bench")

    def _plan(self) -> None:
        self.page.goto(f"{self.base}/campaigns/new/?shape=treated")
        self.page.get_by_label("The question").fill("Is annealing worth the oven?")
        for name in ("Fernhall PLA", "Tarn PA12"):
            self.page.get_by_label(name, exact=True).check()
        self.page.get_by_label("Recipe for all").select_option(label="Solid coupons, version 1")
        self.page.get_by_label("Difference to see, %").fill("12")
        self.page.wait_for_timeout(500)
        self._save("new-campaign")

    def _printing(self) -> None:
        self.page.goto(f"{self.base}/")
        self.page.get_by_text("How hot should the PETG").first.click()
        self.page.wait_for_load_state("networkidle")
        campaign = self.page.url.removeprefix(self.base)
        self._shot("print", f"{campaign}print/")
        self.page.get_by_role("link", name="Batch 1").click()
        self.page.wait_for_load_state("networkidle")
        self._save("batch")
        self.page.get_by_role("link", name="Measure").click()
        self.page.wait_for_load_state("networkidle")
        self._save("measuring")
        self._shot("labels", f"{campaign}labels/")
        self._shot("specimen-type", "/library/types/tension-1ba/")
        self.page.goto(f"{self.base}/library/")
        self.page.get_by_role("link", name="Solid coupons, version 1").click()
        self.page.get_by_label("Compare with").select_option(label="Everyday parts, version 1")
        self.page.wait_for_load_state("networkidle")
        self._save("recipe-difference")

    def _preview(self, address: str) -> None:
        self.page.goto(self.base + address)
        self.page.get_by_label("or paste its lines").fill(
            "material;orientation;load [kgf];width [mm];thickness [mm];outcome\nFernhall PLA;upright;30,1;5,02;2,01;\n"
            "Tarn PA12;upright;88 lbf;5,00;2,02;held\nTarn ABS;upright;21;5,0;2,0;\nTarn ASA;upright;24 psi;5,0;2,0;\n"
        )
        self.page.get_by_role("button", name="Show what it becomes").click()
        self._save("bring-in")


if __name__ == "__main__":
    sys.exit(main())
