"""People: invited, joined, given a role that acts in one place, suspended, passwords; nobody loses the workshop."""

import re
from datetime import timedelta

from django.contrib.auth import get_user_model
from django.test import Client, TestCase
from django.urls import get_resolver
from django.utils import timezone

from brunt_core.errors import InputError
from brunt_web.changes.models import Change
from brunt_web.people import roles
from brunt_web.people.actions import people
from brunt_web.people.actions.seats import sit_down
from brunt_web.people.models import Invitation, Workshop
from brunt_web.testing.models import Test
from tests.support.workshop import BACKEND, campaign, entry, person, put, turns_of

WORD = "seven wet ropes"


class Seated(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = person("owner")
        cls.shop = cls.owner.seat.workshop

    def setUp(self):
        self.client.force_login(self.owner, backend=BACKEND)

    def someone(self, rights, name="quill"):
        token = people.invite(self.shop, self.owner, rights, timezone.now()).token
        user = people.join(token, name, WORD, timezone.now())
        browser = Client()
        browser.force_login(user, backend=BACKEND)
        return user, browser


class Joining(Seated):
    def test_by_a_link_that_opens_once(self):
        page = self.client.post("/people/invite/", {"rights": "tester"})
        link = re.search(r'value="http://testserver(/join/[^"]+)"', page.content.decode())[1]
        guest = Client()
        self.assertContains(guest.get(link), "as a <strong>tester</strong>")
        for sent, words in (
            ({"name": "", "password": WORD}, "Give your name"),
            ({"name": "quill", "password": "short"}, "too short"),
            ({"name": "quill", "password": "password123"}, "too common"),
            ({"name": "OWNER", "password": WORD}, "is taken here"),
        ):
            self.assertContains(guest.post(link, sent), words, status_code=422)
        self.assertRedirects(guest.post(link, {"name": "Quill Marsh", "password": WORD}), "/")
        joined = get_user_model().objects.get(username="Quill Marsh")
        self.assertEqual((joined.seat.workshop, joined.seat.rights), (self.shop, "tester"))
        again = Client()
        self.assertEqual(again.get(link).status_code, 410)
        self.assertEqual(again.post(link, {"name": "x", "password": WORD}).status_code, 410)
        signed = again.post("/sign-in/", {"username": "Quill Marsh", "password": WORD})
        self.assertRedirects(signed, "/", fetch_redirect_response=False)

    def test_a_link_taken_back_or_too_old_opens_nothing(self):
        made = people.invite(self.shop, self.owner, "lead", timezone.now())
        self.client.post(f"/people/invitations/{made.pk}/back/")
        self.assertEqual(Client().get(f"/join/{made.token}/").status_code, 410)
        old = people.invite(self.shop, self.owner, "lead", timezone.now() - timedelta(days=8))
        self.assertEqual(Client().get(f"/join/{old.token}/").status_code, 410)
        self.assertEqual(Client().get("/join/nonsense/").status_code, 410)

    def test_somebody_known_joins_another_workshop_and_keeps_rights_apart(self):
        other = person("elsewhere")
        token = people.invite(self.shop, self.owner, "reader", timezone.now()).token
        browser = Client()
        browser.force_login(other, backend=BACKEND)
        browser.post(f"/join/{token}/")
        sit_down(other, self.shop.pk)
        other.seat.refresh_from_db()
        self.assertEqual((other.seat.workshop, other.seat.rights), (self.shop, "reader"))
        back = next(iter(other.seat.also.all()))
        sit_down(other, back.pk)
        other.seat.refresh_from_db()
        self.assertEqual(other.seat.rights, "owner")


class Noted(Seated):
    def test_whoever_joins_by_a_link_is_named_as_who_did_it(self):
        token = people.invite(self.shop, self.owner, "tester", timezone.now()).token
        guest = Client()
        guest.post(f"/join/{token}/", {"name": "Quill Marsh", "password": "seven wet ropes"})
        quill = get_user_model().objects.get(username="Quill Marsh")
        made = Change.objects.get(kind="people_seat", row=quill.seat.pk, what="+")
        self.assertEqual((made.who, made.workshop), (quill, self.shop))

    def test_a_session_tells_when_and_on_what_it_was_used(self):
        phone = Client(headers={"user-agent": "Made up (Handheld) Mobi/1"})
        phone.force_login(self.owner, backend=BACKEND)
        phone.get("/")
        told = people.sessions_of(self.owner)
        self.assertEqual({s.on for s in told} & {"a phone or tablet"}, {"a phone or tablet"})
        one = next(s for s in told if s.on == "a phone or tablet")
        self.assertEqual(one.address, "127.0.0.1")
        self.assertLess(abs(one.used - timezone.now()), timedelta(minutes=1))
        page = self.client.get("/account/")
        self.assertContains(page, "A phone or tablet, 127.0.0.1")
        self.assertContains(page, "this one", count=1)
        self.client.post("/account/sessions/end/")
        self.assertEqual(phone.get("/").status_code, 302)


class Roles(Seated):
    def test_the_table_names_addresses_that_there_are(self):
        known = {p.name for p in _every(get_resolver().url_patterns)}
        named = roles._READERS | roles._LEADS | roles._OWNERS
        self.assertEqual(named - known, set())
        self.assertEqual(roles._LEADS & roles._READERS, set())

    def test_a_tester_enters_results_and_is_refused_an_exclusion_and_a_plan(self):
        one = campaign(self.owner)
        user, browser = self.someone("tester")
        turn = turns_of(one).first()
        put(turn, user, entry())
        test = Test.objects.get()
        refused = browser.post(f"/specimens/{turn.code}/leave-out/", {"reason": "looked odd"})
        self.assertContains(refused, "this is for a lead", status_code=403)
        test.refresh_from_db()
        self.assertFalse(test.excluded)
        for address in (
            "/campaigns/new/",
            f"/campaigns/{one.pk}/archive/",
            "/library/recipes/new/",
        ):
            self.assertEqual(browser.post(address, {}).status_code, 403, address)
        self.assertEqual(browser.get(f"/campaigns/{one.pk}/").status_code, 200)
        self.assertNotEqual(browser.post(f"/specimens/{turn.code}/note/", {"text": "a note"}).status_code, 403)  # fmt: skip
        part = browser.post("/campaigns/new/", {}, headers={"X-Part": "x"})
        self.assertEqual((part.status_code, part["Content-Type"]), (403, "text/plain; charset=utf-8"))  # fmt: skip

    def test_a_reader_changes_nothing_and_previews_still_answer(self):
        one = campaign(self.owner)
        _, browser = self.someone("reader")
        code = turns_of(one).first().code
        for address in (
            f"/specimens/{code}/bench/",
            f"/specimens/{code}/note/",
            "/library/lots/new/",
        ):
            self.assertEqual(browser.post(address, {}).status_code, 403, address)
        self.assertEqual(browser.post("/library/recipes/cut/", {"kind": "filament"}).status_code, 200)  # fmt: skip
        self.assertContains(browser.get("/"), 'class="may-reader"')
        self.assertEqual(browser.post("/sign-out/").status_code, 302)

    def test_a_lead_plans_and_does_not_run_the_workshop(self):
        _, browser = self.someone("lead")
        self.assertNotEqual(browser.post("/campaigns/new/", {}).status_code, 403)
        self.assertEqual(browser.post("/people/invite/", {"rights": "owner"}).status_code, 403)
        self.assertEqual(Invitation.objects.filter(rights="owner").count(), 0)
        self.assertNotContains(browser.get("/people/"), "Invite a person")

    def test_a_workshop_never_loses_its_last_owner(self):
        seat = self.owner.seat
        with self.assertRaisesRegex(InputError, "needs an owner"):
            people.give_role(self.shop, seat.pk, "lead")
        with self.assertRaisesRegex(InputError, "yourself"):
            people.shut_out(self.shop, self.owner, seat.pk)
        user, _ = self.someone("tester")
        with self.assertRaisesRegex(InputError, "needs an owner"):
            people.leave(self.owner)
        self.client.post(f"/people/{user.seat.pk}/role/", {"rights": "owner"})
        people.leave(self.owner)
        self.owner.seat.refresh_from_db()
        self.assertNotEqual(self.owner.seat.workshop, self.shop)

    def test_people_of_another_workshop_cannot_be_touched(self):
        other = person("elsewhere")
        page = self.client.post(f"/people/{other.seat.pk}/off/")
        self.assertContains(page, "no such person", status_code=422)
        self.assertEqual(self.client.post(f"/people/{other.seat.pk}/password/").status_code, 422)

    def test_who_belongs_to_two_workshops_loses_only_one_by_its_owner(self):
        other = person("elsewhere")
        own = other.seat.workshop
        token = people.invite(self.shop, self.owner, "owner", timezone.now()).token
        people.join_too(token, other, timezone.now())
        self.assertContains(self.client.get("/people/"), "elsewhere just now")
        page = self.client.post(f"/people/{other.seat.pk}/password/")
        self.assertContains(page, "belongs to other workshops", status_code=422)
        people.give_role(self.shop, other.seat.pk, "reader")
        sit_down(other, self.shop.pk)
        other.refresh_from_db()
        self.assertEqual(other.seat.rights, "reader")
        people.shut_out(self.shop, self.owner, other.seat.pk)
        other = get_user_model().objects.get(pk=other.pk)
        self.assertTrue(other.is_active)
        self.assertEqual((other.seat.workshop, other.seat.rights), (own, "owner"))
        self.assertFalse(other.seat.also.exists())
        self.assertRaises(InputError, sit_down, other, self.shop.pk)

    def test_whoever_leaves_never_lands_in_a_workshop_that_bears_the_name(self):
        user, _ = self.someone("tester", "Weir")
        namesake = Workshop.objects.create(name="Weir's own workshop")
        people.leave(user)
        user = get_user_model().objects.get(pk=user.pk)
        self.assertNotIn(user.seat.workshop, (namesake, self.shop))
        with self.assertRaisesRegex(InputError, "needs an owner"):
            people.leave(user)

    def test_a_reading_may_be_pasted_by_a_tester(self):
        self.assertEqual(roles.needed("paste", "POST"), "tester")


class Signing(Seated):
    def test_shut_out_ends_the_sessions_and_can_be_undone(self):
        user, browser = self.someone("tester")
        self.assertEqual(browser.get("/").status_code, 200)
        self.client.post(f"/people/{user.seat.pk}/off/")
        self.assertEqual(browser.get("/").status_code, 302)
        self.assertEqual(people.sessions_of(user), [])
        self.client.post(f"/people/{user.seat.pk}/on/")
        user.refresh_from_db()
        self.assertTrue(user.is_active)

    def test_a_forgotten_password_through_the_owner(self):
        user, browser = self.someone("tester")
        page = self.client.post(f"/people/{user.seat.pk}/password/").content.decode()
        link = re.search(r'value="http://testserver(/new-password/[^"]+)"', page)[1]
        guest = Client()
        self.assertContains(guest.post(link, {"password": "short"}), "too short", status_code=422)
        self.assertEqual(guest.post(link, {"password": "nine dry oars now"}).status_code, 302)
        user.refresh_from_db()
        self.assertTrue(user.check_password("nine dry oars now"))
        self.assertEqual(guest.get(link).status_code, 410)
        self.assertEqual(browser.get("/").status_code, 302)
        self.assertEqual(guest.get("/new-password/xx/yy/").status_code, 410)

    def test_ones_own_password_and_sessions(self):
        user, browser = self.someone("tester")
        elsewhere = Client()
        elsewhere.force_login(user, backend=BACKEND)
        self.assertContains(browser.get("/account/"), "this one")
        bad = browser.post("/account/password/", {"old": "wrong", "new": "nine dry oars now"})
        self.assertContains(bad, "not your password", status_code=422)
        browser.post("/account/password/", {"old": WORD, "new": "nine dry oars now"})
        self.assertEqual(browser.get("/account/").status_code, 200)
        self.assertEqual(elsewhere.get("/account/").status_code, 302)
        third = Client()
        third.force_login(get_user_model().objects.get(pk=user.pk), backend=BACKEND)
        browser.post("/account/sessions/end/")
        self.assertEqual(third.get("/account/").status_code, 302)
        self.assertEqual(browser.get("/account/").status_code, 200)


def _every(patterns):
    for p in patterns:
        if hasattr(p, "url_patterns"):
            yield from _every(p.url_patterns)
        else:
            yield p


class OwnWays(Seated):
    def test_one_s_own_name_and_keys(self):
        other, browser = self.someone("reader")
        page = browser.post("/account/ways/", {"name": "Quill Marsh"}, follow=True)
        self.assertContains(page, "Your account is saved")
        self.assertContains(page, "data-keys-off")
        other.refresh_from_db()
        self.assertEqual((other.username, other.seat.single_keys), ("Quill Marsh", False))
        for name, words in (
            ("OWNER", "is taken here"),
            ("  ", "Give your name"),
            ("x" * 151, "Give your name"),
        ):
            self.assertContains(browser.post("/account/ways/", {"name": name}, follow=True), words)
        browser.post("/account/ways/", {"name": "Quill Marsh", "single_keys": "1"})
        self.assertNotContains(browser.get("/account/"), "data-keys-off")
