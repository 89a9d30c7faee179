"""``screenshots``: one picture of each main view from the running demo, for the README."""

import json
import sys
from io import BytesIO
from typing import Any

from brunt_command import debian
from brunt_command.places import ROOT, STATE
from brunt_command.problem import Problem

TARGET = ROOT / "docs" / "screenshots"
# These share a picture, at half their size.
SHEETS = {
    "more": (
        "grid",
        "all-campaigns",
        "material",
        "change",
        "check",
        "import-data",
        "campaigns",
        "ways",
    ),
    "keeping": ("changes", "rig", "live", "picture", "people", "phone"),
}
SMALL = {name for names in SHEETS.values() for name in names}


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
        browser_path = debian.ensure_program("chromium", debian.chromium, "The browser Chromium")
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

    def __init__(self, page: Any, base: str) -> None:
        self.page, self.base = page, base
        self.small: dict[str, bytes] = {}

    def take(self) -> None:
        """Sign in and photograph each view."""
        self.page.goto(f"{self.base}/sign-in/")
        self.page.get_by_role("button", name="Open the demo workshop").click()
        campaign = self._campaign("Which plain filament")
        self._shot("rack", campaign)
        self._shot("ask", f"{campaign}ask/")
        self._bench("bench", campaign, "Layer adhesion, upright", ("5.02 5.01 5.03", "2.01", "48"))
        self._shot("ranking", f"{campaign}compare/")
        self._preview(f"{campaign}import-data/")
        self._methods(self._campaign("louvre pawl"))
        self._histories()
        self._printing()
        self._treating()
        self._comparing()
        self._publishing()
        self._library()
        self._keeping()
        self._composed()

    def _campaign(self, words: str) -> str:
        """The address of a campaign."""
        self.page.goto(f"{self.base}/")
        self.page.get_by_text(words).first.click()
        self.page.wait_for_load_state("networkidle")
        return self.page.url.removeprefix(self.base)

    def _methods(self, campaign: str) -> None:
        self.page.goto(self.base + campaign)
        self.page.goto(f"{self.base}{campaign}compare/")
        self.page.locator(".ranking-chart a.value").first.click()
        for code in self.page.locator("#working dd a").all_inner_texts():
            self.page.goto(f"{self.base}/specimens/{code}/curve/")
            if self.page.locator("[data-plot]").count():
                return self._save("curve")

    def _waiting(self, campaign: str, procedure: str, clock: bool = False) -> None:
        """To a specimen of the procedure that waits at the bench, or whose clock runs."""
        self.page.goto(self.base + campaign)
        states = ("timed test running",) if clock else (", printed", ", planned", ", made", ", cut")
        column = self.page.locator("thead th").all_inner_texts()
        at = next(i for i, t in enumerate(column) if procedure.split(",")[0].split(" at")[0] in t)
        cell = self.page.locator(f"tbody td:nth-of-type({at})")
        wanted = ", ".join(f"a.spec[title*='{state}']" for state in states)
        link = cell.locator(wanted).first.get_attribute("href")
        self.page.goto(f"{self.base}{link}bench/")
        self.page.wait_for_load_state("networkidle")

    def _bench(self, name: str, campaign: str, procedure: str, texts: Any, more: str = "") -> None:
        self._waiting(campaign, procedure)
        away = self.page.get_by_role("button", name="Hide cautions")
        if away.count():
            away.click()
            self.page.locator(".cautions-open").wait_for(state="detached")
        for text in texts[:-1]:
            self.page.keyboard.type(text)
            self.page.keyboard.press("Enter")
        self.page.keyboard.type(texts[-1])
        key, _, value = more.partition("=")
        if key:
            self.page.locator("summary", has_text="More readings").click()
            self.page.locator(f"#f-{key}").fill(value)
        self.page.wait_for_timeout(900)
        self._save(name)

    def _treating(self) -> None:
        """A pack in the oven, the bath before and after, the day."""
        self.page.goto(f"{self.base}{self._campaign('pack of salt')}treat/")
        self.page.locator("a.runcard").first.click()
        self.page.wait_for_load_state("networkidle")
        self._save("run")
        self._shot("change", f"{self._campaign('hot bath')}treat/change/")
        self.page.goto(f"{self.base}/day/")
        self.page.get_by_role("button", name="Schedule").first.click()
        self._shot("day", "/day/")

    def _shot(self, name: str, address: str) -> None:
        self.page.goto(self.base + address)
        self.page.wait_for_load_state("networkidle")
        self._save(name)

    def _save(self, name: str) -> None:
        self.page.wait_for_timeout(300)
        if name in SMALL:
            self.small[name] = self.page.screenshot()
            return
        self.page.screenshot(path=str(TARGET / f"{name}.png"))
        print(f"docs/screenshots/{name}.png")

    def _library(self) -> None:
        """Swatches, a recipe's cut, a part of one's own, a procedure's rig, the campaigns."""
        self._shot("campaigns", "/")
        self._shot("library", "/library/")
        self.page.get_by_role("link", name="Everyday parts, version 2").click()
        self.page.wait_for_load_state("networkidle")
        self.page.get_by_label("Of", exact=True).select_option(label="Fernhall PETG")
        self.page.locator("[name=walls]").focus()
        self.page.keyboard.press("ArrowUp")
        self.page.wait_for_timeout(700)
        self._save("recipe")
        self.page.goto(f"{self.base}/library/types/")
        self.page.get_by_role("link", name="Cable guide").click()
        self.page.wait_for_load_state("networkidle")
        self._save("part")
        self.page.goto(f"{self.base}/library/procedures/")
        self.page.get_by_role("link", name="Flexure, flat").click()
        self.page.wait_for_load_state("networkidle")
        self._save("procedure")

    def _composed(self) -> None:
        """The smaller views on one sheet, two across."""
        from PIL import Image

        wide, high = 640, 400
        for sheet_name, names in SHEETS.items():
            rows = -(-len(names) // 2)
            sheet = Image.new("RGB", (2 * wide, rows * high), "white")
            for i, name in enumerate(names):
                view = Image.open(BytesIO(self.small[name])).convert("RGB")
                size = (wide * view.width // 1280, high) if view.width == 1280 else (high * view.width // view.height, high)  # fmt: skip
                place = (i % 2 * wide + (wide - size[0]) // 2, i // 2 * high)
                sheet.paste(view.resize(size), place)
            sheet.save(TARGET / f"{sheet_name}.png")
            print(f"docs/screenshots/{sheet_name}.png")

    def _keeping(self) -> None:
        """Who changed what, a rig, a live bench, picks on a photo, people, the bench on a telephone."""
        self._shot("changes", "/changes/")
        self._shot("people", "/people/")
        self._shot("ways", "/workshop/")
        self.page.goto(f"{self.base}/library/procedures/")
        self.page.locator("a[href^='/library/rigs/']").first.click()
        self.page.wait_for_load_state("networkidle")
        self._save("rig")
        self._live()
        self._picture()
        campaign = self._campaign("Which plain filament")
        self.page.set_viewport_size({"width": 390, "height": 844})
        self._shot("phone", campaign)
        self.page.set_viewport_size({"width": 1280, "height": 800})

    def _live(self) -> None:
        self._waiting(self._campaign("Which plain filament"), "Layer adhesion, upright")
        for name, text in (("width", "5.02"), ("thickness", "2.01")):
            self.page.locator(f"#f-{name}").fill(text)
        self.page.get_by_role("button", name="Connect").click()
        self.page.wait_for_timeout(900)
        self.page.get_by_role("button", name="Start").click()
        self.page.locator("[data-live-says]", has_text="held as the peak").wait_for()
        self.page.wait_for_timeout(500)
        self._save("live")
        self.page.get_by_role("button", name="Disconnect").click()

    def _picture(self) -> None:
        self.page.goto(f"{self.base}{self._photographed()}")
        self.page.wait_for_load_state("networkidle")
        self._save("picture")

    def _photographed(self) -> str:
        """The photo of the demo that something is measured on."""
        for words in ("Which plain filament",):
            self.page.goto(self.base + self._campaign(words))
            for link in [a.get_attribute("href") for a in self.page.locator("a.spec").all()]:
                self.page.goto(self.base + (link or "/"))
                found = self.page.get_by_role("link", name="Measure on it")
                if found.count():
                    return str(found.first.get_attribute("href"))
        raise SystemExit("brunt: no photo of the demo is measured on.")

    def _comparing(self) -> None:
        """Properties beside one another, a setting swept, two factors, all campaigns, a load case."""
        pawl = self._campaign("louvre pawl be made")
        self._shot("profile", f"{pawl}compare/profile/")
        self._shot("one-factor", f"{self._campaign('How hot should')}compare/one-factor/")
        self._shot("grid", f"{self._campaign('Slow crank')}compare/two-factors/")
        self._shot("all-campaigns", "/all-campaigns/")
        self.page.goto(f"{self.base}{pawl}decide/")
        self.page.get_by_text("Louvre pawl, cranked").click()
        self.page.wait_for_load_state("networkidle")
        self._save("load-case")

    def _publishing(self) -> None:
        """A report, a material's page, a check standard."""
        self._shot("report", f"{self._campaign('Which plain filament')}report/")
        self.page.goto(f"{self.base}/library/")
        self.page.get_by_role("link", name="Fernhall PLA", exact=True).click()
        self.page.wait_for_load_state("networkidle")
        self._save("material")
        self.page.goto(f"{self.base}/checks/")
        self.page.get_by_role("link", name="Fernhall PLA, pulled flat").click()
        self.page.wait_for_load_state("networkidle")
        self._save("check")

    def _printing(self) -> None:
        campaign = self._campaign("How hot should the PETG")
        self._shot("print", f"{campaign}print/")

    def _histories(self) -> None:
        """The history of one that was swapped."""
        oven = self._campaign("worth the oven")
        self.page.goto(self.base + oven)
        treated = self.page.locator("a.spec[title*='MPa']").last.get_attribute("href")
        self._shot("history", treated)

    def _preview(self, address: str) -> None:
        self.page.goto(self.base + address)
        self.page.get_by_label("or paste its lines").fill(
            "material;orientation;load [kgf];width [mm];thickness [mm];outcome\nFernhall PLA;upright;30,1;5,02;2,01;\n"
            "Tarn PA12;upright;88 lbf;5,00;2,02;held\nTarn ABS;upright;21;5,0;2,0;\nTarn ASA;upright;24 psi;5,0;2,0;\n"
        )
        self.page.get_by_role("button", name="Preview", exact=True).click()
        self._save("import-data")


if __name__ == "__main__":
    sys.exit(main())
