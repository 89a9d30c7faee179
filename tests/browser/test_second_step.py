"""A passkey of the browser's own (a virtual authenticator of Chromium), and the second step where somebody works."""

import pyotp
from django.contrib.sessions.models import Session
from django.test import override_settings
from django.utils import timezone

from brunt_web.people import second
from brunt_web.people.models import Passkey, SecondFactor
from tests.support.bench import bench_of
from tests.support.browser import BrowserTestCase

WORD = "seven wet ropes"


class SecondStep(BrowserTestCase):
    def setUp(self):
        super().setUp()
        self.here = self.live_server_url.replace("127.0.0.1", "localhost")
        self.with_password(WORD, self.here)
        self.allowed = (f"{self.here}/",)
        hosts = override_settings(ALLOWED_HOSTS=["localhost", "127.0.0.1"])
        hosts.enable()
        self.addCleanup(hosts.disable)

    def test_a_passkey_is_made_and_signs_in(self):
        devices = self.context.new_cdp_session(self.page)
        devices.send("WebAuthn.enable")
        devices.send(
            "WebAuthn.addVirtualAuthenticator",
            {
                "options": {
                    "protocol": "ctap2",
                    "transport": "internal",
                    "hasResidentKey": True,
                    "hasUserVerification": True,
                    "isUserVerified": True,
                    "automaticPresenceSimulation": True,
                }
            },
        )
        self.page.goto(f"{self.here}/account/")
        self.page.get_by_label("Name of a passkey on this device").fill("tablet at the bench")
        self.page.get_by_role("button", name="Add passkey").click()
        self.sees("can be used to sign in")
        self.assertEqual(Passkey.objects.get().name, "tablet at the bench")
        self.context.clear_cookies()
        self.page.goto(f"{self.here}/sign-in/")
        self.page.get_by_text("Sign in with a name").click()
        self.page.get_by_label("Name").fill(self.user.username)
        self.page.get_by_label("Password").fill(WORD)
        self.page.get_by_role("button", name="Sign in", exact=True).click()
        self.sees("The second step")
        self.page.get_by_role("button", name="Use a passkey").click()
        self.sees("Sign out")
        self.assertIsNotNone(Passkey.objects.get().used_at)

    def test_the_code_is_asked_in_the_dialog_too(self):
        factor = second.begin_app(self.user)
        one = bench_of(self.user, "tension")
        self.open(f"/campaigns/{one.pk}/bench/")
        app = pyotp.TOTP(factor.secret)
        codes = second.confirm_app(self.user, app.now(), timezone.now())
        Session.objects.all().delete()
        self.page.locator("#f-width").fill("5")
        dialog = self.page.get_by_role("dialog")
        dialog.get_by_label("Name").fill(self.user.username)
        dialog.get_by_label("Password").fill(WORD)
        dialog.get_by_role("button", name="Sign in").click()
        dialog.get_by_label("Code of your authenticator app").fill("000000")
        dialog.get_by_role("button", name="Sign in").click()
        self.sees("This is not the code", "dialog")
        dialog.get_by_label("Code of your authenticator app").fill(codes[0])
        dialog.get_by_role("button", name="Sign in").click()
        self.page.wait_for_function("() => !document.querySelector('dialog')")
        self.assertEqual(len(SecondFactor.objects.get().codes), 9)
        self.assertEqual(self.page.locator("#f-width").input_value(), "5")
