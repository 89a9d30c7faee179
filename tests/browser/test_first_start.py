"""From nothing: the first person of `./brunt start` signs in, finds an empty workshop and comes to a ranking."""

import io
import os
import re
from unittest import mock

from django.contrib.auth import get_user_model
from django.core.management import call_command

from brunt_web.campaigns.models import Campaign
from brunt_web.people.models import Workshop
from brunt_web.results.models import Result
from tests.support.browser import BrowserTestCase


class FirstStart(BrowserTestCase):
    def setUp(self):
        super().setUp()
        self.context.clear_cookies()
        get_user_model().objects.all().delete()
        Workshop.objects.all().delete()
        with mock.patch.dict(os.environ, {"BRUNT_FIRST_PASSWORD": "seven wet ropes"}):
            call_command("first_person", "--name", "Quill Marsh", "--workshop", "Lock house", stdout=io.StringIO())  # fmt: skip

    def test_from_the_first_password_to_what_won(self):
        self.open("/")
        self.page.locator("summary").first.click()
        self.page.get_by_label("Name").fill("Quill Marsh")
        self.page.get_by_label("Password").fill("seven wet ropes")
        self.page.get_by_role("button", name="Sign in").click()
        self.sees("No campaign yet")
        self.page.get_by_role("link", name="Start the first campaign").click()
        self.page.get_by_role("link", name="Which of several materials").click()
        self.page.wait_for_load_state("networkidle")
        self.page.keyboard.type("Which for the cable guide?")
        for n, (name, family) in enumerate((("Weir PP", "pp"), ("Fernhall PLA", "pla")), 1):
            self.page.get_by_label(f"New material {n}, name").fill(name)
            self.page.get_by_label(f"New material {n}, family").select_option(family)
        self.page.get_by_role("checkbox", name="Layer adhesion, upright").uncheck()
        self.page.get_by_label(re.compile("How many")).fill("2")
        self.sees("4", "#panel .tally strong >> nth=1")
        self.page.get_by_role("button", name="Create specimens").click()
        self.sees("4 specimens have their IDs")
        self.page.keyboard.press("b")
        self.page.get_by_role("link", name="Fill plates, or mark").click()
        self.page.get_by_role("button", name="Mark all as made").click()
        self.sees("4 specimens made")
        self.page.get_by_role("link", name="To the bench").click()
        self.page.wait_for_load_state("networkidle")
        self.bars_read("500 N", "300 N", "520 N", "310 N")
        self.page.get_by_role("link", name="See the results").click()
        self.page.wait_for_load_state("networkidle")
        one = Campaign.objects.get()
        self.assertEqual(Result.objects.filter(turn__campaign=one).count(), 4)
        self.assertEqual(self.page.locator(".ranking-chart tbody tr").count(), 2)
