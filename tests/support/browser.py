"""A real browser on a live server."""

import time

from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.test import tag
from playwright.sync_api import sync_playwright

from brunt_command.debian import chromium
from tests.support.workshop import BACKEND, person

FLAGS = [
    "--no-sandbox",
    "--disable-dev-shm-usage",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--font-render-hinting=none",
]


@tag("browser")
class BrowserTestCase(StaticLiveServerTestCase):
    """Signed in, at 1280 × 800; a script error or a foreign request fails the test."""

    host = "127.0.0.1"
    allowed: tuple[str, ...] = ()

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.playwright = sync_playwright().start()
        cls.browser = cls.playwright.chromium.launch(executable_path=str(chromium()), args=FLAGS)

    @classmethod
    def tearDownClass(cls):
        cls.browser.close()
        cls.playwright.stop()
        super().tearDownClass()

    def setUp(self):
        self.user = person()
        self.client.force_login(self.user, backend=BACKEND)
        self.context = self.browser.new_context(viewport={"width": 1280, "height": 800})
        self.context.add_cookies(
            [
                {
                    "name": "sessionid",
                    "value": self.client.cookies["sessionid"].value,
                    "url": self.live_server_url,
                }
            ]
        )
        self.page = self.context.new_page()
        self.page.set_default_timeout(60_000)
        self.troubles: list[str] = []
        self.page.on("pageerror", lambda e: self.troubles.append(str(e)))
        self.page.on(
            "request",
            lambda r: (
                r.url.startswith((self.live_server_url, "data:", "blob:", *self.allowed))
                or self.troubles.append(f"foreign: {r.url}")
            ),
        )

    def with_password(self, word: str, *addresses: str):
        """The person signs in with a password from now on, and is signed in at these addresses."""
        self.user.set_password(word)
        self.user.save()
        self.client.force_login(self.user, backend=BACKEND)
        cookie = self.client.cookies["sessionid"].value
        for url in (self.live_server_url, *addresses):
            self.context.add_cookies([{"name": "sessionid", "value": cookie, "url": url}])

    def tearDown(self):
        self.context.close()
        self.assertEqual(self.troubles, [])

    def _fixture_teardown(self):
        """Emptied again where a request of the closed page was still being answered."""
        for left in (2, 1, 0):
            try:
                return super()._fixture_teardown()
            except Exception:
                if not left:
                    raise
                time.sleep(1)

    def open(self, path: str):
        """Open an address and wait for its scripts."""
        self.page.goto(self.live_server_url + path)
        self.ready()

    def ready(self):
        """Wait until the page is loaded and its scripts listen."""
        self.page.wait_for_load_state("load")
        self.page.wait_for_function(
            "() => 'ready' in document.documentElement.dataset || !document.querySelector('script[src*=\"/line\"]')"
        )

    def type_and_enter(self, text: str):
        """Type into whatever has the focus, then Enter."""
        self.page.keyboard.type(text)
        self.page.keyboard.press("Enter")

    def eventually(self, holds):
        """Wait up to a minute until something holds on the server."""
        for _ in range(1200):
            if holds():
                return
            self.page.wait_for_timeout(50)
        self.fail("It never came to hold.")

    def heading(self) -> str:
        """The page's heading: at the bench the specimen's ID."""
        return self.page.locator("h1").inner_text()

    def stored(self):
        """Wait until the server has everything that was entered."""
        self.page.wait_for_function(
            "() => !JSON.parse(localStorage.getItem('brunt-outbox') || '[]').length"
        )

    def goes_on(self, was: str):
        """Wait until another specimen is at the bench and the one before is stored."""
        self.page.wait_for_function(
            "(was) => document.querySelector('h1').innerText !== was", arg=was
        )
        self.stored()

    def bars_read(self, *loads: str):
        """The specimens at the bench in turn: 5 × 2 mm, and these loads."""
        for load in loads:
            self.page.wait_for_function("() => document.activeElement.id === 'f-width'")
            self.type_and_enter("5")
            self.type_and_enter("2")
            code = self.heading()
            self.type_and_enter(load)
            self.goes_on(code)

    def sees(self, text: str, within: str = "body"):
        """Wait until the text shows."""
        self.page.locator(within).get_by_text(text).locator("visible=true").first.wait_for()
