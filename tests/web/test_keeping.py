"""Kept pages: the same again while nothing was written, never an old one; each to whom it was made for."""

import re
from threading import Thread
from unittest.mock import patch

from django.contrib.messages import add_message, constants
from django.db import connection, transaction
from django.http import HttpResponse
from django.test import Client, RequestFactory, SimpleTestCase, TransactionTestCase

from brunt_web.changes import keeping, pulse
from brunt_web.changes.sql import set_up, take_off
from brunt_web.comparison import views
from brunt_web.library.models import Material
from brunt_web.testing.models import Test
from tests.support.workshop import BACKEND, campaign, fill, person

PLA, ASA = "Fernhall PLA", "Tarn ASA"


class Kept(TransactionTestCase):
    def setUp(self):
        keeping.shelf.clear()
        self.user = person()
        self.one = campaign(self.user)
        fill(self.one, self.user, {PLA: ["500", "510", "520"], ASA: ["400", "410", "405"]})
        self.client.force_login(self.user, backend=BACKEND)
        self.address = f"/campaigns/{self.one.pk}/compare/"
        counted = patch.object(views, "build", side_effect=views.build)
        self.built = counted.start()
        self.addCleanup(counted.stop)

    def page(self, client=None, address=""):
        answer = (client or self.client).get(address or self.address)
        self.assertEqual(answer.status_code, 200)
        return re.sub(r'value="\w{64}"', "", answer.text)

    def test_the_same_page_is_worked_out_once(self):
        first = self.page()
        self.assertEqual(self.page(), first)
        self.assertEqual(self.built.call_count, 1)
        self.assertNotEqual(self.page(address=self.address + "?order=worst"), "")
        self.assertEqual(self.built.call_count, 2)

    def test_anything_written_is_seen_at_once(self):
        self.page()
        material = Material.objects.get(name=ASA)
        material.name = "Tarn ASA of the second barrel"
        material.save()
        self.one.conditions.filter(material=material).update(label=material.name)
        self.assertIn("second barrel", self.page())
        Test.objects.filter(turn__condition__label=PLA).first().delete()
        self.page()
        self.page()
        self.assertEqual(self.built.call_count, 3)

    def test_what_was_still_open_when_the_page_was_made_is_seen_when_it_is_stored(self):
        beside = connection.copy()
        beside.set_autocommit(False)

        def write(words):
            with beside.cursor() as cursor:
                cursor.execute("UPDATE campaigns_campaign SET question = %s", [words])

        def on_its_own(what, *given):
            thread = Thread(target=what, args=given)
            thread.start()
            thread.join(30)

        try:
            beside.inc_thread_sharing()
            on_its_own(write, "Rolled back?")
            self.assertNotIn("Rolled back?", self.page())
            beside.rollback()
            self.page()
            self.assertEqual(self.built.call_count, 1)
            on_its_own(write, "Stored later?")
            self.assertNotIn("Stored later?", self.page())
            Material.objects.update(note="a later transaction that ends before")
            self.assertNotIn("Stored later?", self.page())
            beside.commit()
            self.assertIn("Stored later?", self.page())
        finally:
            beside.dec_thread_sharing()
            beside.close()

    def test_what_is_rolled_back_changes_nothing(self):
        first = self.page()
        with self.assertRaises(ZeroDivisionError), transaction.atomic():
            Material.objects.update(note="Nothing")
            raise ZeroDivisionError
        self.assertEqual(self.page(), first)
        self.assertEqual(self.built.call_count, 1)

    def test_within_a_transaction_nothing_is_kept_or_taken(self):
        self.page()
        with transaction.atomic():
            Material.objects.filter(name=PLA).update(note="dry")
            self.page()
            self.page()
        self.assertEqual(self.built.call_count, 3)
        self.page()
        self.page()
        self.assertEqual(self.built.call_count, 4)

    def test_each_has_their_own(self):
        mate = person("mate", self.one.workshop)
        other = Client()
        other.force_login(mate, backend=BACKEND)
        self.page()
        self.page(other)
        self.assertEqual(self.built.call_count, 2)
        stranger = Client()
        stranger.force_login(person("stranger"), backend=BACKEND)
        self.assertEqual(stranger.get(self.address).status_code, 404)
        type(mate.seat).objects.filter(pk=mate.seat.pk).update(rights="reader")
        self.assertIn("may-reader", self.page(other))
        self.assertEqual(Client().get(self.address).status_code, 302)

    def test_another_database_is_never_taken_for_this_one(self):
        then, _ = pulse.look()
        self.assertTrue(pulse.look(then)[1])
        self.assertFalse(pulse.look((then[0], "another")[:2])[1])

    def test_what_is_older_than_anything_kept_is_thrown_away(self):
        with connection.cursor() as cursor:
            cursor.execute("SELECT count(*) FROM changes_pulse")
            self.assertGreater(cursor.fetchone()[0], 0)
            cursor.execute("UPDATE changes_pulse SET at = at - interval '4 hours'")
            pulse.forget()
            cursor.execute("SELECT count(*) FROM changes_pulse")
            self.assertEqual(cursor.fetchone()[0], 0)

    def test_what_a_migration_wrote_while_nothing_watched_is_noted(self):
        self.page()
        with connection.cursor() as cursor:
            take_off(cursor)
            cursor.execute("UPDATE campaigns_campaign SET question = 'Moved by a migration?'")
            self.assertNotIn("Moved by a migration?", self.page())
            set_up(cursor)
        self.assertIn("Moved by a migration?", self.page())

    def test_every_table_that_a_page_may_show_is_watched(self):
        with connection.cursor() as cursor:
            cursor.execute("SELECT tgrelid::regclass::text FROM pg_trigger WHERE tgname = 'brunt_pulse'")  # fmt: skip
            self.assertEqual({row[0] for row in cursor.fetchall()}, set(pulse.WATCHED))


class Shelf(SimpleTestCase):
    def asked(self, **more):
        """A request without a database."""
        request = RequestFactory().get("/x/", **more)
        request.user, request.workshop = type("P", (), {"pk": 1}), type("W", (), {"pk": 1})
        request.session, request._messages = {}, []
        request._messages = type("M", (list,), {"add": lambda self, *said: self.append(said)})()
        return request

    def kept(self, view, **switches):
        keeping.shelf.clear()
        return keeping.kept_page(**switches)(view)

    def shown(self, view, request=None, still=True):
        moment = (("1:1:", "here"), still)
        with (
            patch.object(keeping, "connection") as connected,
            patch.object(keeping.pulse, "look", return_value=moment),
        ):
            connected.in_atomic_block = False
            return view(request or self.asked())

    def test_a_message_is_said_once(self):
        view = self.kept(lambda request: HttpResponse(str(len(request._messages))))
        request = self.asked()
        add_message(request, constants.INFO, "Stored.")
        self.assertEqual(self.shown(view, request).text, "1")
        self.assertEqual(self.shown(view).text, "0")

    def test_the_forms_have_the_token_of_who_asks(self):
        form = '<input type="hidden" name="csrfmiddlewaretoken" value="old">'
        view = self.kept(lambda request: HttpResponse(form))
        self.assertIn("old", self.shown(view).text)
        self.assertRegex(self.shown(view).text, r'value="\w{64}"')

    def test_no_answer_but_a_page_is_kept(self):
        made = []

        def view(request):
            made.append(1)
            return HttpResponse("gone", status=404)

        for _ in range(2):
            self.shown(self.kept(view))
        self.assertEqual(len(made), 2)

    def test_what_moves_with_the_clock_is_made_anew(self):
        made = []
        view = self.kept(lambda request: made.append(1) or HttpResponse("x"), seconds=30)
        with patch.object(keeping, "monotonic", side_effect=[100.0, 110.0, 131.0, 131.0]):
            for _ in range(3):
                self.shown(view)
        self.assertEqual(len(made), 2)

    def test_the_oldest_make_room(self):
        shelf = keeping._Shelf()
        with patch.object(keeping, "_MOST_BYTES", 100):
            for number in range(5):
                shelf.put((number,), keeping._Page(("", ""), 0.0, {}, b"x" * 30))
                shelf.get((0,))
        self.assertEqual([n for n in range(5) if shelf.get((n,))], [0, 3, 4])
        shelf.put((0,), keeping._Page(("", ""), 0.0, {}, b"y"))
        self.assertEqual(shelf._bytes, 61)
