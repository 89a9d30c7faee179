"""Two tabs in two workshops: each says where it belongs, and a reading is stored there."""

from brunt_web.people.actions.seats import open_to, sit_down
from brunt_web.people.models import Workshop
from brunt_web.testing.models import Test
from tests.support.bench import bench_of
from tests.support.browser import BrowserTestCase


class TwoTabs(BrowserTestCase):
    def test_a_tab_left_behind_stores_where_it_belongs_and_offers_the_way_back(self):
        one = bench_of(self.user, "tension", replicates=2)
        own = self.user.seat.workshop
        other = Workshop.objects.create(name="Other bench", first_id=own.first_id)
        open_to(self.user, other, "owner")
        self.open(f"/campaigns/{one.pk}/bench/")
        code = self.heading()
        second = self.context.new_page()
        second.goto(f"{self.live_server_url}/packages/")
        second.get_by_role("button", name="Switch to “Other bench”").click()
        second.wait_for_load_state("networkidle")
        self.sees("you switched to “Other bench” in another tab")
        self.page.locator("#f-width").focus()
        for text in ("5.02", "2.02", "505"):
            self.type_and_enter(text)
        self.goes_on(code)
        test = Test.objects.get()
        self.assertEqual((test.turn.specimen.code, test.turn.campaign.workshop), (code, own))
        self.page.get_by_role("button", name=f"Switch back to {own.name}").click()
        self.page.wait_for_load_state("networkidle")
        self.assertIn("/bench/", self.page.url)
        self.user.seat.refresh_from_db()
        self.assertEqual(self.user.seat.workshop, own)

    def test_an_outbox_entry_says_its_workshop_elsewhere(self):
        one = bench_of(self.user, "tension", replicates=2)
        own = self.user.seat.workshop
        self.open(f"/campaigns/{one.pk}/bench/")
        code = self.heading()
        self.context.set_offline(True)
        for text in ("5.02", "2.02", "505"):
            self.type_and_enter(text)
        self.sees("Not saved yet")
        other = Workshop.objects.create(name="Other bench", first_id=own.first_id)
        open_to(self.user, other, "owner")
        sit_down(self.user, other.pk)
        self.context.set_offline(False)
        self.eventually(lambda: Test.objects.count() == 1)
        test = Test.objects.get()
        self.assertEqual((test.turn.specimen.code, test.turn.campaign.workshop), (code, own))
