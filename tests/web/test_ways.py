"""How a workshop writes dates and decimals, its zone, its idle limit, and the door that closes for one account."""

import io
import zipfile
from datetime import UTC, datetime
from time import time

from django.contrib.auth.models import AnonymousUser
from django.http import HttpResponse
from django.test import Client, RequestFactory, TestCase, override_settings

from brunt_core.quantities.rendering import (
    DECIMAL_SIGN,
    figures,
    number,
    p_value,
    render,
    render_with_uncertainty,
    time_words,
)
from brunt_web.campaigns.models import HistoryEvent, Specimen
from brunt_web.days.hours import known_zones
from brunt_web.interface.ways import (
    DATE_FORMS,
    MARK,
    Ways,
    current,
    own_numbers,
    stamped,
    with_commas,
    write_for_reader,
    written_moment,
)
from brunt_web.people.models import Workshop
from brunt_web.people.ways import WaysMiddleware
from brunt_web.results.models import Result
from tests.support.workshop import BACKEND, campaign, entry, person, put, turns_of

AT = datetime(2026, 11, 26, 23, 5, tzinfo=UTC)


class Writing(TestCase):
    def test_every_form_of_dates(self):
        said = []
        for form in DATE_FORMS:
            token = current.set(Ways(form))
            said.append((written_moment(AT, "j M Y H:i"), written_moment(AT, "D j M")))
            current.reset(token)
        self.assertEqual([s[0] for s in said], [f"{d} 23:05" for d in DATE_FORMS.values()])
        self.assertEqual([s[1] for s in said][:3], ["Thu 26 Nov", "Thu 26.\u202f11.", "Thu 26/11"])

    def test_a_moment_names_its_zone(self):
        html = stamped(AT, "j M Y H:i")
        self.assertIn('datetime="2026-11-26T23:05:00+00:00"', html)
        self.assertIn("23:05 UTC", html)
        self.assertEqual(stamped(None, "H:i"), "")

    def test_a_mark_is_a_comma_only_where_it_is_read(self):
        for written_as, shown in (
            (f"<p>58{MARK}4 kgf of lot 12.4</p>", "<p>58,4 kgf of lot 12.4</p>"),
            (f'<input value="5{MARK}02">5{MARK}02', '<input value="5.02">5,02'),
            (f"<script>1{MARK}5</script><style>a{{b:1{MARK}5}}</style>1{MARK}5", None),
            (
                f"<textarea>1{MARK}5 <b>1{MARK}5</b></textarea>",
                "<textarea>1.5 <b>1.5</b></textarea>",
            ),
            ("3.5 mm.stl at 10.0.0.1, v1.5", "3.5 mm.stl at 10.0.0.1, v1.5"),
        ):
            wanted = shown or written_as.replace(MARK, ".")[:-3] + "1,5"
            self.assertEqual(with_commas(written_as.encode()).decode(), wanted)

    def test_a_picture_goes_out_as_it_is(self):
        """The bytes of a mark may stand in a photo or a zip by chance."""

        def answered(kind: str) -> bytes:
            def answer(request):
                current.set(Ways(comma=True))
                return HttpResponse(f"1{MARK}5".encode(), content_type=kind)

            request = RequestFactory().get("/photos/a/")
            request.session, request.user = {}, AnonymousUser()
            return WaysMiddleware(answer)(request).content

        self.assertEqual(answered("image/jpeg"), f"1{MARK}5".encode())
        self.assertEqual(answered("application/zip"), f"1{MARK}5".encode())
        self.assertEqual(answered("application/json"), b"1.5")
        self.assertEqual(answered("text/html; charset=utf-8"), b"1,5")

    def test_numbers_are_marked_only_where_a_page_is_written(self):
        """The whole set of writers of numbers; none marks anything for a workshop with points."""
        writers = (
            lambda: figures(58.44),
            lambda: number(0.5, "g"),
            lambda: time_words(5400),
            lambda: render(2.5e6, "stress"),
            lambda: render_with_uncertainty(59.96, 0.73)[0],
            lambda: p_value(0.0004),
            lambda: own_numbers("58.4 × 2 = 116.8"),
        )
        for comma in (False, True):
            token, sign = current.set(Ways(comma=comma)), DECIMAL_SIGN.set(".")
            write_for_reader()
            for write in writers:
                self.assertEqual((MARK in write(), "." in write()), (comma, not comma))
            DECIMAL_SIGN.reset(sign)
            current.reset(token)


class Page(TestCase):
    def setUp(self):
        self.user = person()
        self.shop = self.user.seat.workshop
        self.client.force_login(self.user, backend=BACKEND)
        self.told = {
            "name": "Bench seven",
            "currency": "CHF",
            "zone": "Asia/Kathmandu",
            "date_form": "d.m.Y",
            "comma": "1",
            "idle_minutes": "30",
        }
        known_zones.clear()
        self.addCleanup(known_zones.clear)

    def test_what_is_stored_acts_on_every_page(self):
        one = campaign(self.user)
        turn = turns_of(one).first()
        put(turn, self.user, entry("500.5 N"))
        self.assertContains(self.client.get(f"/specimens/{turn.code}/"), "50.0")
        self.assertRedirects(self.client.post("/workshop/", self.told), "/workshop/")
        self.shop.refresh_from_db()
        self.assertEqual(
            (self.shop.name, self.shop.comma, self.shop.idle_minutes), ("Bench seven", True, 30)
        )
        page = self.client.get(f"/specimens/{turn.code}/")
        self.assertContains(page, "50,0")
        self.assertContains(page, "times in Asia/Kathmandu")
        self.assertContains(page, "02.03.2026 15:15")
        self.assertContains(self.client.get("/workshop/"), "Asia/Kathmandu")
        self.assertNotIn(
            "50,05", self.client.get(f"/campaigns/{one.pk}/results.csv").getvalue().decode()
        )
        self.assertContains(self.client.get("/changes/?q=CHF"), "€")

    def test_a_persons_own_words_stay_as_they_were_written(self):
        """Names with a point in them beside numbers, on the pages that show both, and in every file."""
        one = campaign(self.user, question="Does lot 12.4 beat 3.5 mm.stl?")
        for turn in turns_of(one)[:4]:
            put(turn, self.user, entry("500.5 N", note="bed at 60.5 was warm"))
        self.client.post("/workshop/", self.told)
        code = turns_of(one).first().code
        for address, own in (
            (f"/campaigns/{one.pk}/", "lot 12.4"),
            (f"/campaigns/{one.pk}/compare/", "lot 12.4 beat 3.5 mm.stl"),
            (f"/campaigns/{one.pk}/compare/profile/", "lot 12.4"),
            (f"/campaigns/{one.pk}/report/", "3.5 mm.stl"),
            (f"/specimens/{code}/", "bed at 60.5 was warm"),
        ):
            page = self.client.get(address).content.decode()
            self.assertIn(own, page, address)
            self.assertNotIn(MARK, page, address)
            if "campaigns" not in address or "compare" in address:
                self.assertRegex(page, r"\d,\d", address)
        sheet = self.client.get(f"/campaigns/{one.pk}/results.xlsx").getvalue()
        with zipfile.ZipFile(io.BytesIO(sheet)) as parts:
            self.assertFalse([n for n in parts.namelist() if MARK.encode() in parts.read(n)])
        for table in (HistoryEvent, Result, Specimen):
            for row in table.objects.values():
                self.assertNotIn(MARK, str(row))

    def test_what_cannot_be_is_refused_beside_its_field(self):
        Workshop.objects.create(name="Taken")
        for key, odd, words in (
            ("zone", "Mars/Olympus", "No such zone"),
            ("name", "", "required"),
            ("name", "Taken", "of this name already"),
            ("idle_minutes", "-1", "greater than or equal"),
            ("date_form", "nonsense", "Select a valid choice"),
        ):
            answer = self.client.post("/workshop/", self.told | {key: odd})
            self.assertContains(answer, words, status_code=422)
        self.shop.refresh_from_db()
        self.assertEqual(self.shop.currency, "€")

    def test_only_an_owner_changes_it(self):
        seat = self.user.seat
        seat.rights = "lead"
        seat.save()
        self.assertContains(self.client.get("/workshop/"), "An owner may")
        self.assertEqual(self.client.post("/workshop/", self.told).status_code, 403)


class Idle(TestCase):
    def test_who_went_away_is_signed_out_and_who_works_is_not(self):
        user = person()
        self.client.force_login(user, backend=BACKEND)
        shop = user.seat.workshop
        shop.idle_minutes = 10
        shop.save()
        self.assertEqual(self.client.get("/library/").status_code, 200)
        for ago, status in ((9 * 60, 200), (11 * 60, 302)):
            session = self.client.session
            session["seen"] = int(time()) - ago
            session.save()
            self.assertEqual(self.client.get("/library/").status_code, status)

    def test_without_a_limit_nobody_is(self):
        self.client.force_login(person(), backend=BACKEND)
        Workshop.objects.update(idle_minutes=0)
        self.client.get("/library/")
        session = self.client.session
        session["seen"] = int(time()) - 10**7
        session.save()
        self.assertEqual(self.client.get("/library/").status_code, 200)


@override_settings(AXES_ENABLED=True)
class Door(TestCase):
    def test_it_closes_for_one_account_and_not_for_the_workshop(self):
        for name in ("quill", "marsh"):
            user = person(name)
            user.set_password("seven wet ropes")
            user.save()
        guest = Client()
        for _ in range(9):
            answer = guest.post("/sign-in/", {"username": "quill", "password": "guess"})
        self.assertIn(answer.status_code, (403, 429))
        right = {"username": "quill", "password": "seven wet ropes"}
        self.assertIn(guest.post("/sign-in/", right).status_code, (403, 429))
        other = guest.post("/sign-in/", {"username": "marsh", "password": "seven wet ropes"})
        self.assertEqual(other.status_code, 302)
        elsewhere = Client(REMOTE_ADDR="192.0.2.7")
        self.assertEqual(elsewhere.post("/sign-in/", right).status_code, 302)
