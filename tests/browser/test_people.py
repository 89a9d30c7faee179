"""Several people in browsers of their own: invited and joined, refused what is not theirs, a conflict resolved; keys off."""

from django.test import Client

from brunt_web.testing.models import Test
from tests.support.bench import bench_of
from tests.support.browser import BrowserTestCase
from tests.support.workshop import BACKEND, campaign, entry, person, put, turns_of


class Several(BrowserTestCase):
    def another(self, user=None):
        """A page of another browser; somebody's, or a stranger's."""
        context = self.browser.new_context(viewport={"width": 1280, "height": 800})
        self.addCleanup(context.close)
        if user:
            client = Client()
            client.force_login(user, backend=BACKEND)
            cookie = client.cookies["sessionid"].value
            context.add_cookies(
                [{"name": "sessionid", "value": cookie, "url": self.live_server_url}]
            )
        page = context.new_page()
        page.set_default_timeout(60_000)
        return page

    def test_invited_by_a_link_joined_and_refused_an_exclusion(self):
        one = campaign(self.user)
        turn = turns_of(one).first()
        put(turn, self.user, entry("500 N"))
        self.open("/people/")
        self.page.get_by_label("Role", exact=True).select_option("tester")
        self.page.get_by_role("button", name="Create link").click()
        link = self.page.get_by_label("The link").input_value()
        guest = self.another()
        guest.goto(link)
        guest.get_by_label("Name").fill("Quill Marsh")
        guest.get_by_label("Password").fill("seven wet ropes")
        guest.get_by_role("button", name="Join").click()
        guest.wait_for_load_state("networkidle")
        guest.goto(f"{self.live_server_url}/specimens/{turn.code}/")
        self.assertFalse(guest.get_by_role("button", name="Exclude", exact=True).is_visible())
        guest.evaluate(
            "() => { const f = document.querySelector('form[action*=leave-out]'); f.reason.value = 'odd'; f.submit(); }"
        )
        guest.get_by_text("this is for a lead").wait_for()
        self.assertFalse(Test.objects.get().excluded)
        self.open("/people/")
        self.sees("Quill Marsh")

    def test_two_exclude_at_once_and_the_second_chooses(self):
        one = campaign(self.user)
        turn = turns_of(one).first()
        put(turn, self.user, entry("500 N"))
        other = self.another(person("quill", self.user.seat.workshop))
        address = f"/specimens/{turn.code}/"
        self.open(address)
        other.goto(self.live_server_url + address)
        other.get_by_label("give a reason").fill("a bubble")
        other.get_by_role("button", name="Exclude", exact=True).click()
        other.locator("p.hot", has_text="a bubble").wait_for()
        self.page.get_by_label("give a reason").fill("slipped")
        self.page.get_by_role("button", name="Exclude", exact=True).click()
        self.sees("changed by quill")
        self.sees("the reason is now a bubble, you have slipped")
        self.assertEqual(Test.objects.get().exclusion_reason, "a bubble")
        self.page.get_by_role("button", name="Include again").click()
        self.page.wait_for_load_state("networkidle")
        self.assertFalse(Test.objects.get().excluded)

    def test_letters_alone_can_be_switched_off(self):
        one = bench_of(self.user, "tension")
        self.open("/account/")
        self.page.get_by_label("Single letters act").uncheck()
        self.page.get_by_role("button", name="Save", exact=True).click()
        self.sees("Your account is saved")
        self.open(f"/campaigns/{one.pk}/bench/")
        code = self.heading()
        self.page.keyboard.press("Escape")
        for key in ("h", "s", "u", "v", "/"):
            self.page.keyboard.press(key)
        self.page.wait_for_timeout(300)
        self.assertEqual(self.heading(), code)
        self.assertEqual(
            self.page.locator("[name=outcome]:checked").get_attribute("value"), "broke"
        )
        self.page.locator("#f-force").fill("500 N")
        self.assertEqual(self.page.locator("#f-force").input_value(), "500 N")
        self.page.locator("[name=outcome]:checked").focus()
        self.page.keyboard.press("ArrowRight")
        self.assertNotEqual(
            self.page.locator("[name=outcome]:checked").get_attribute("value"), "broke"
        )
