"""Signing in with a second factor: codes by the clock (RFC 6238), recovery codes, passkeys, guesses by address."""

from datetime import timedelta

import pyotp
from axes.models import AccessAttempt
from django.core.exceptions import ValidationError
from django.test import Client, TestCase
from django.utils import timezone

from brunt_core.errors import InputError
from brunt_web.people import second
from brunt_web.people.actions import people
from brunt_web.people.models import Passkey, SecondFactor
from brunt_web.people.passwords import MOST_FROM_ADDRESS, LengthValidator
from brunt_web.publishing.actions import reports
from tests.support.workshop import BACKEND, campaign, person

WORD = "seven wet ropes"


class Codes(TestCase):
    def test_the_published_codes_of_rfc_6238(self):
        """RFC 6238, appendix B, SHA-1 with the secret 12345678901234567890: the last six of the eight figures."""
        secret = "GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ"
        for at, code in ((59, "287082"), (1111111109, "081804"), (2000000000, "279037")):
            self.assertEqual(pyotp.TOTP(secret).at(at), code)

    @classmethod
    def setUpTestData(cls):
        cls.user = person("ida")
        cls.now = timezone.now()
        cls.factor = second.begin_app(cls.user)

    def code(self, minutes=0.0):
        return pyotp.TOTP(self.factor.secret).at(self.now + timedelta(minutes=minutes))

    def test_a_code_counts_once_and_not_long(self):
        with self.assertRaises(InputError):
            second.confirm_app(self.user, "000000", self.now - timedelta(days=9))
        codes = second.confirm_app(self.user, self.code(), self.now)
        self.assertEqual(len(set(codes)), 10)
        self.assertFalse(second.check_code(self.user, self.code(), self.now), "that code was used")
        later = self.now + timedelta(minutes=1)
        self.assertTrue(second.check_code(self.user, self.code(1), later))
        for typed in (self.code(-5), "", "١٢٣٤٥٦", "é" * 6, "\x00", "1" * 5000):
            self.assertFalse(second.check_code(self.user, typed, later + timedelta(hours=1)))
            SecondFactor.objects.update(failed=0)

    def test_a_recovery_code_opens_once(self):
        codes = second.confirm_app(self.user, self.code(), self.now)
        self.assertTrue(second.check_code(self.user, f" {codes[3].upper()} ", self.now))
        self.assertFalse(second.check_code(self.user, codes[3], self.now))
        self.assertEqual(len(SecondFactor.objects.get().codes), 9)
        self.assertNotIn(codes[0], str(SecondFactor.objects.values_list()))

    def test_guesses_close_it_for_a_while(self):
        second.confirm_app(self.user, self.code(), self.now)
        for _ in range(8):
            self.assertFalse(second.check_code(self.user, "000000", self.now))
        with self.assertRaisesRegex(InputError, "blocked for 15 minutes"):
            second.check_code(self.user, self.code(1), self.now + timedelta(minutes=1))
        self.assertTrue(
            second.check_code(self.user, self.code(16), self.now + timedelta(minutes=16))
        )


class SigningIn(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person("ida")
        cls.user.set_password(WORD)
        cls.user.save()

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def set_up(self):
        self.assertContains(self.client.get("/account/"), "Set up an authenticator app")
        self.client.get("/account/app/")
        secret = SecondFactor.objects.get().secret
        wrong = self.client.post("/account/app/", {"code": "12"})
        self.assertContains(wrong, secret, status_code=422)
        made = self.client.post("/account/app/", {"code": pyotp.TOTP(secret).now()})
        self.assertContains(made, "Recovery codes")
        return made.context["codes"]

    def test_password_then_code(self):
        codes = self.set_up()
        other = Client()
        asked = other.post("/sign-in/", {"username": "ida", "password": WORD, "next": "/account/"})
        self.assertContains(asked, "The second step")
        self.assertEqual(
            other.get("/account/").status_code, 302, "the password alone opens nothing"
        )
        self.assertContains(
            other.post("/sign-in/second/", {"code": "000000"}), "not the code", status_code=422
        )
        done = other.post("/sign-in/second/", {"code": codes[0], "next": "/account/"})
        self.assertEqual(done["Location"], "/account/")
        self.assertEqual(other.get("/account/").status_code, 200)

    def test_in_place_where_somebody_works(self):
        codes = self.set_up()
        other, part = Client(), {"HTTP_X_PART": "sign-in"}
        asked = other.post("/sign-in/", {"username": "ida", "password": WORD}, **part)
        self.assertEqual(asked.status_code, 202)
        done = other.post("/sign-in/second/", {"code": codes[0]}, **part)
        self.assertEqual((done.status_code, done["X-User"]), (204, str(self.user.pk)))

    def test_without_the_first_step_there_is_no_second(self):
        self.set_up()
        self.assertRedirects(Client().post("/sign-in/second/", {"code": "1"}), "/sign-in/")

    def test_it_is_taken_off_with_the_password_and_a_new_start_from_an_owner_has_none(self):
        self.set_up()
        self.client.post("/account/second/off/", {"password": "not it"})
        self.assertTrue(second.has_second_factor(self.user))
        self.client.post("/account/second/off/", {"password": WORD})
        self.assertFalse(second.has_second_factor(self.user))
        self.set_up()
        people.set_password(self.user, "eight dry ropes of hemp")
        self.assertFalse(second.has_second_factor(self.user))

    def test_fifteen_characters_or_ten_with_a_second_factor(self):
        short = "nine ropes!!"
        for user in (None, self.user):
            with self.assertRaisesRegex(ValidationError, "15 characters"):
                LengthValidator().validate(short, user)
        self.set_up()
        self.assertIsNone(LengthValidator().validate(short, self.user))
        with self.assertRaisesRegex(ValidationError, "10 characters"):
            LengthValidator().validate("nine rope", self.user)

    def test_guesses_from_one_address_at_many_names(self):
        guesser = Client()
        for i in range(MOST_FROM_ADDRESS):
            guesser.post("/sign-in/", {"username": f"somebody {i}", "password": "x"})
        closed = guesser.post("/sign-in/", {"username": "ida", "password": WORD})
        self.assertEqual(closed.status_code, 429)
        elsewhere = Client(REMOTE_ADDR="10.9.8.7").post(
            "/sign-in/", {"username": "ida", "password": WORD}
        )
        self.assertEqual(elsewhere.status_code, 302)
        AccessAttempt.objects.update(attempt_time=timezone.now() - timedelta(minutes=16))
        self.assertEqual(
            guesser.post("/sign-in/", {"username": "ida", "password": WORD}).status_code, 302
        )

    def test_what_a_person_handed_out_ends_with_them(self):
        one = campaign(self.user)
        link = reports.make_link(one, self.user, timezone.now(), "", None, True)
        invitation = people.invite(one.workshop, self.user, "tester", timezone.now())
        self.assertEqual(Client().get(f"/read/{link.token}/").status_code, 200)
        self.assertEqual(Client().get(f"/join/{invitation.token}/").status_code, 200)
        self.user.is_active = False
        self.user.save()
        gone = Client().get(f"/read/{link.token}/")
        self.assertContains(gone, "its creator is no longer in the workshop", status_code=410)
        self.assertEqual(Client().get(f"/join/{invitation.token}/").status_code, 410)
        with self.assertRaises(InputError):
            people.join(invitation.token, "Newcomer", "nine dry ropes of hemp", timezone.now())


class Passkeys(TestCase):
    def setUp(self):
        self.user = person("ida")
        self.client.force_login(self.user, backend=BACKEND)

    def test_only_at_a_name_over_https_or_on_the_machine_itself(self):
        for host, secure, may in (
            ("localhost", False, True),
            ("testserver", True, True),
            ("testserver", False, False),
            ("127.0.0.1", True, False),
        ):
            with self.subTest(host=host, secure=secure):
                asked = self.client.get("/account/passkey/", secure=secure, headers={"host": host})
                self.assertEqual(asked.status_code == 200, may)

    def test_what_was_not_made_for_this_challenge_is_refused(self):
        self.client.get("/account/passkey/", headers={"host": "localhost"})
        for answer in (
            "",
            "{}",
            '{"id": "x", "rawId": "eA", "type": "public-key", "response": {}}',
        ):
            said = self.client.post(
                "/account/passkey/", {"answer": answer, "name": "x"}, headers={"host": "localhost"}
            )
            self.assertEqual(said.status_code, 422)
        Passkey.objects.create(user=self.user, name="tablet", credential=b"x", public_key=b"y")
        self.user.set_password(WORD)
        self.user.save()
        other = Client(headers={"host": "localhost"})
        asked = other.post("/sign-in/", {"username": "ida", "password": WORD})
        self.assertContains(asked, "Use a passkey")
        for answer in ('{"rawId": "eA"}', '{"rawId": "zz"}', "[]", "nonsense"):
            self.assertEqual(other.post("/sign-in/second/", {"passkey": answer}).status_code, 422)
