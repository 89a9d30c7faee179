"""What is typed is never lost: a sign-in that ran out, forty entries without a server, a store that takes nothing."""

from django.contrib.sessions.models import Session

from brunt_web.campaigns.models import Campaign
from brunt_web.testing.models import Measurement, Test
from tests.support.bench import bench_of
from tests.support.browser import BrowserTestCase
from tests.support.workshop import campaign

WORD = "seven wet ropes"


class SignedOut(BrowserTestCase):
    def setUp(self):
        super().setUp()
        self.with_password(WORD)

    def sign_in_here(self, word=WORD):
        dialog = self.page.get_by_role("dialog")
        dialog.get_by_label("Name").fill(self.user.username)
        dialog.get_by_label("Password").fill(word)
        dialog.get_by_role("button", name="Sign in").click()

    def test_at_the_bench_one_signs_in_there_and_the_entry_arrives_once(self):
        one = bench_of(self.user, "tension")
        self.open(f"/campaigns/{one.pk}/bench/")
        code = self.heading()
        Session.objects.all().delete()
        self.page.locator("#f-width").fill("5")
        self.sees("You were signed out", "dialog")
        self.sign_in_here("not it at all")
        self.sees("do not match an account", "dialog")
        self.sign_in_here()
        self.page.wait_for_function("() => !document.querySelector('dialog')")
        for name, text in (("width", "5"), ("thickness", "2"), ("force", "500 N")):
            self.page.locator(f"#f-{name}").fill(text)
        self.page.locator("#f-force").press("Enter")
        self.page.wait_for_function(
            "(was) => document.querySelector('h1').innerText !== was", arg=code
        )
        for _ in range(200):
            if Test.objects.exists():
                break
            self.page.wait_for_timeout(50)
        self.assertEqual([t.turn.code for t in Test.objects.all()], [code])

    def test_waved_away_it_waits_and_says_so(self):
        one = bench_of(self.user, "tension")
        self.open(f"/campaigns/{one.pk}/bench/")
        self.page.wait_for_timeout(300)
        Session.objects.all().delete()
        self.page.locator("#f-width").fill("5")
        self.page.get_by_role("button", name="Not now").click()
        self.sees("You are signed out", "#signed-out")
        self.page.get_by_role("button", name="Sign in here").click()
        self.sign_in_here()
        self.page.wait_for_function("() => !document.querySelector('#signed-out')")
        self.assertEqual(self.page.locator("#f-width").input_value(), "5")

    def test_while_measuring(self):
        one = campaign(self.user)
        self.open(f"/campaigns/{one.pk}/measure/")
        Session.objects.all().delete()
        row = self.page.locator("tr[data-row]").first
        row.locator("[name=width]").fill("5.02")
        row.locator("[name=width]").press("Tab")
        self.sign_in_here()
        self.page.wait_for_function(
            "() => document.querySelector('[data-says]').textContent.includes('stored')"
        )
        self.assertEqual(Measurement.objects.get().text, "5.02")

    def test_a_plan_is_kept_and_sent_after_signing_in(self):
        campaign(self.user)
        self.open("/campaigns/new/?shape=rank")
        self.page.get_by_label("The question").fill("Which would hold?")
        for box in self.page.locator("[name=materials]").all():
            box.check()
        self.page.wait_for_load_state("networkidle")
        before = Campaign.objects.count()
        Session.objects.all().delete()
        self.page.evaluate("() => document.querySelector('form.asking').submit()")
        self.sees("nothing is lost")
        self.page.get_by_label("Name").fill(self.user.username)
        self.page.get_by_label("Password").fill(WORD)
        self.page.get_by_role("button", name="Sign in").click()
        self.sees("Which would hold?")
        self.page.get_by_role("button", name="Send", exact=True).click()
        self.page.wait_for_load_state("networkidle")
        self.assertEqual(Campaign.objects.count(), before + 1)


class Away(BrowserTestCase):
    def test_forty_entries_without_a_server(self):
        one = bench_of(self.user, "tension", replicates=24)
        self.open(f"/campaigns/{one.pk}/bench/")
        self.context.set_offline(True)
        codes = []
        for n in range(40):
            codes.append(self.heading())
            for name, text in (("width", "5"), ("thickness", "2"), ("force", f"{500 + n} N")):
                self.page.locator(f"#f-{name}").fill(text)
            self.page.locator("#f-force").press("Enter")
            self.page.wait_for_function(
                "(was) => document.querySelector('h1').innerText !== was", arg=codes[-1]
            )
        self.assertEqual(len(set(codes)), 40)
        self.assertEqual(Test.objects.count(), 0)
        self.context.set_offline(False)
        self.page.wait_for_function("() => document.querySelector('#outbox').hidden")
        stored = {t.turn.code: t.readings.get(key="force").text for t in Test.objects.all()}
        self.assertEqual(stored, {code: f"{500 + n} N" for n, code in enumerate(codes)})

    def test_a_store_that_takes_nothing_is_told(self):
        one = bench_of(self.user, "tension")
        self.page.add_init_script(
            "Storage.prototype.setItem = () => { throw new DOMException('full', 'QuotaExceededError'); };"
        )
        self.open(f"/campaigns/{one.pk}/bench/")
        code = self.heading()
        self.context.set_offline(True)
        for name, text in (("width", "5"), ("thickness", "2"), ("force", "500 N")):
            self.page.locator(f"#f-{name}").fill(text)
        self.page.locator("#f-force").press("Enter")
        self.sees("store is full or forbidden", "#outbox")
        self.context.set_offline(False)
        self.page.wait_for_function("() => document.querySelector('#outbox').hidden")
        self.assertEqual([t.turn.code for t in Test.objects.all()], [code])
