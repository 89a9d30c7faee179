"""Two hundred campaigns: the one that is meant is found, page by page and by what is typed."""

from datetime import timedelta

from brunt_web.campaigns.models import Campaign
from tests.support.browser import BrowserTestCase
from tests.support.workshop import NOW, campaign, fill


class TwoHundred(BrowserTestCase):
    def test_search_and_pages(self):
        shop = self.user.seat.workshop
        Campaign.objects.bulk_create(
            Campaign(workshop=shop, question=f"Question {i:03d} of the season?", created_by=self.user, created_at=NOW - timedelta(days=i))
            for i in range(200)
        )  # fmt: skip
        one = campaign(self.user, orientations=("flat",), question="Which for the louvre pawl?")
        fill(one, self.user, {"Fernhall PLA": ["500", "501", "502"]})
        Campaign.objects.filter(pk=one.pk).update(created_at=NOW - timedelta(days=400))
        self.open("/")
        self.sees("201 campaigns")
        seen = set()
        for _ in range(9):
            seen |= set(self.page.locator(".card h2").all_inner_texts())
            older = self.page.get_by_role("link", name="Older")
            if not older.count():
                break
            older.click()
            self.page.wait_for_load_state()
        self.assertEqual(len(seen), 201)
        for typed in ("louvre", "Fernhall", one.specimens.first().code.lower()):
            self.open("/")
            self.page.fill("[name=q]", typed)
            self.page.keyboard.press("Enter")
            self.page.wait_for_url("**q=**")
            self.assertEqual(
                self.page.locator(".card h2").all_inner_texts(), ["Which for the louvre pawl?"]
            )
        self.open("/?q=nothing+of+the+kind")
        self.sees("No campaign matches")
