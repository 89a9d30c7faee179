"""Which workshop and which specimen something belongs to: never confused, whatever was switched to since."""

import csv
import io
import json
import tempfile
from pathlib import Path
from threading import Thread
from unittest import mock
from uuid import uuid4

from django.db import connection
from django.test import TestCase, TransactionTestCase, override_settings
from django.urls import reverse

from brunt_core.identifiers import label_text
from brunt_web.days.actions.plans import new_feed
from brunt_web.exchange.export import export_csv
from brunt_web.interface.snapshot import one_snapshot
from brunt_web.library.models import Material, Procedure
from brunt_web.packages import gathering, outgoing
from brunt_web.packages.incoming import read_package
from brunt_web.people.actions.seats import ensure_seat, open_to, sit_down
from brunt_web.people.models import Workshop
from brunt_web.testing.actions.record_test import record_test
from brunt_web.testing.models import Test
from tests.support.workshop import BACKEND, NOW, campaign, entry, fill, person, put, turn, turns_of


class TwoWorkshops(TestCase):
    """One person in two workshops that hand out the same IDs."""

    def setUp(self):
        self.user = person()
        self.first = self.user.seat.workshop
        Workshop.objects.update(first_id=0)
        self.user = type(self.user).objects.get(pk=self.user.pk)
        self.mine = campaign(self.user, question="Here?")
        other = Workshop.objects.create(name="Other bench", first_id=0)
        open_to(self.user, other, "tester")
        self.other = other
        self.sit(other)
        self.theirs = campaign(self.user, question="There?")
        self.sit(self.first)
        self.client.force_login(self.user, backend=BACKEND)
        self.specimen = self.mine.specimens.filter(procedure__orientation="flat").first()
        self.twin = self.theirs.specimens.get(code=self.specimen.code)

    def sit(self, shop):
        sit_down(self.user, shop.pk)
        self.user = type(self.user).objects.get(pk=self.user.pk)

    def sent(self, **more):
        return {"key": str(uuid4()), "outcome": "broke", **entry().inputs, **more}

    def bench(self, specimen):
        return f"/specimens/{specimen.code}/bench/"

    def test_a_reading_is_stored_where_its_page_belongs(self):
        """The form of one workshop, sent after switching to the other in another tab."""
        form = self.client.get(self.bench(self.specimen))
        self.assertContains(form, f'name="in_workshop" value="{self.first.uuid}"')
        self.assertContains(form, f'name="specimen" value="{self.specimen.uuid}"')
        self.sit(self.other)
        flat = self.mine.specimens.filter(procedure__orientation="flat")[:2]
        for part, one in zip(("bench", "outbox"), flat, strict=True):
            named = {"in_workshop": str(self.first.uuid), "specimen": str(one.uuid)}
            answer = self.client.post(self.bench(one), self.sent(**named), headers={"X-Part": part})
            self.assertLess(answer.status_code, 300)
        stored = Test.objects.values_list("turn__specimen", flat=True)
        self.assertEqual(set(stored), {one.pk for one in flat})

    def test_a_script_says_it_in_a_header(self):
        self.sit(self.other)
        told = {"X-Workshop": str(self.first.uuid)}
        answer = self.client.get("/line/", {"q": self.specimen.code}, headers=told)
        self.assertEqual(answer.json()["kind"], "goto")
        page = self.client.get(f"/campaigns/{self.mine.pk}/", headers=told)
        self.assertContains(page, "Here?")

    def test_rights_are_those_of_the_workshop_that_is_named(self):
        told = {"X-Workshop": str(self.other.uuid)}
        self.assertEqual(self.client.get("/people/").status_code, 200)
        sent = {"name": "Sneaked in"}
        answer = self.client.post("/library/materials/new/", sent, headers=told)
        self.assertEqual(answer.status_code, 403)
        self.assertFalse(Material.objects.filter(name="Sneaked in").exists())

    def test_what_names_a_workshop_that_is_not_ones_own_is_refused(self):
        stranger = person("stranger")
        named = {"in_workshop": str(stranger.seat.workshop.uuid)}
        for told in (named, {"in_workshop": "nonsense"}, {"in_workshop": str(uuid4())}):
            answer = self.client.post(self.bench(self.specimen), self.sent(**told))
            self.assertContains(answer, "Nothing was saved", status_code=409)
        late = self.client.post(
            self.bench(self.specimen),
            self.sent(**named),
            headers={"X-Part": "outbox"},
        )
        self.assertEqual((late.status_code, late["Content-Type"][:10]), (409, "text/plain"))
        self.assertFalse(Test.objects.exists())

    def test_an_entry_for_another_specimen_of_the_same_id_is_refused(self):
        wrong = self.sent(specimen=str(self.twin.uuid))
        answer = self.client.post(self.bench(self.specimen), wrong, headers={"X-Part": "outbox"})
        self.assertContains(answer, "another specimen", status_code=422)
        self.assertFalse(Test.objects.exists())

    def test_a_page_of_the_other_workshop_offers_the_way_there(self):
        address = f"/campaigns/{self.theirs.pk}/"
        page = self.client.get(address)
        self.assertContains(page, "belongs to the workshop “Other bench”", status_code=404)
        back = self.client.post(
            f"/workshops/{self.other.pk}/sit-down/", {"next": address}, follow=True
        )
        self.assertContains(back, "There?")
        away = {"next": "https://elsewhere.example/"}
        answer = self.client.post(f"/workshops/{self.first.pk}/sit-down/", away)
        self.assertEqual(answer["Location"], "/")

    def test_a_page_of_a_workshop_that_is_not_ones_own_says_nothing_of_it(self):
        one = campaign(person("stranger"), question="Secret?")
        page = self.client.get(f"/campaigns/{one.pk}/")
        self.assertNotContains(page, "belongs to the workshop", status_code=404)

    def test_a_label_leads_to_its_own_specimen_or_says_where_it_is(self):
        def line(specimen):
            text = label_text(specimen.code, specimen.uuid)
            return self.client.get("/line/", {"q": text}).json()

        self.assertEqual(line(self.specimen)["url"], self.bench(self.specimen))
        self.assertIn("belongs to the workshop “Other bench”", line(self.twin)["says"])
        stranger = campaign(person("stranger")).specimens.first()
        self.assertIn("it is in none of your workshops", line(stranger)["says"])

    def test_exports_and_packages_name_workshop_and_specimen(self):
        turns = turns_of(self.mine, specimen=self.specimen)
        record_test(turns.get(), self.user, entry())
        rows = list(csv.DictReader(io.StringIO(export_csv(self.mine))))
        row = next(r for r in rows if r["specimen"] == self.specimen.code)
        self.assertEqual(row["specimen uuid"], str(self.specimen.uuid))
        self.assertEqual({r["workshop uuid"] for r in rows}, {str(self.first.uuid)})
        package = read_package(outgoing.package_of(self.first, [self.mine], "Here"))
        self.assertEqual(package.manifest["brunt"]["workshop"], str(self.first.uuid))
        self.assertIn(self.specimen.uuid, [r["uuid"] for r in package.rows["specimens"]])


class Sequences(TestCase):
    def test_workshops_do_not_hand_out_the_same_ids(self):
        shops = [Workshop.objects.create(name=f"Bench {i}") for i in range(20)]
        self.assertGreater(len({s.first_id for s in shops}), 18)
        two = [campaign(person(name, shop)) for name, shop in zip("ab", shops, strict=False)]
        codes = [set(one.specimens.values_list("code", flat=True)) for one in two]
        self.assertFalse(codes[0] & codes[1])

    def test_a_new_workshop_has_its_procedures_and_opening_the_library_writes_none(self):
        user = person("reader")
        self.client.force_login(user, backend=BACKEND)
        for address in ("/library/", "/campaigns/new/?shape=rank", "/library/procedures/"):
            self.assertEqual(self.client.get(address).status_code, 200)
        self.assertFalse(Procedure.objects.exists())
        own = ensure_seat(type(user).objects.create(username="founder")).workshop
        self.assertEqual(Procedure.objects.filter(workshop=own).count(), 2)


class Snapshots(TransactionTestCase):
    def test_a_package_made_while_somebody_enters_is_of_one_moment(self):
        user = person()
        one = campaign(user)
        fill(one, user, {"Fernhall PLA": ["500"]})
        waiting = one.specimens.filter(spent=False, procedure__orientation="flat").first()
        read, entered = gathering._read, []

        def while_somebody_enters(table, where):
            if table.name == "readings" and not entered:
                entered.append(True)
                other = Thread(
                    target=lambda: (put(turn(waiting), user, entry()), connection.close())
                )
                other.start()
                other.join(20)
            return read(table, where)

        with mock.patch.object(gathering, "_read", while_somebody_enters):
            content = outgoing.package_of(user.seat.workshop, [one], "One moment")
        self.assertEqual(Test.objects.count(), 2)
        package = read_package(content)
        self.assertEqual(len(package.rows["tests"]), 1)
        self.assertEqual(len({r["test"] for r in package.rows["readings"]}), 1)

    def test_one_snapshot_sees_nothing_that_comes_after_its_first_query(self):
        def found():
            return Workshop.objects.filter(name="Late").exists()

        with one_snapshot():
            self.assertFalse(found())
            late = Thread(target=lambda: (Workshop.objects.create(name="Late"), connection.close()))
            late.start()
            late.join(20)
            self.assertFalse(found())
        self.assertTrue(found())


class Ended(TestCase):
    def test_a_calendar_address_ends_with_its_person(self):
        owner, guest = person("owner"), person("guest", None)
        shop = owner.seat.workshop
        open_to(guest, shop, "tester")
        made = new_feed(shop, guest, NOW)
        address = f"/calendar/{made.token}.ics"
        opened = self.client.get(reverse("feed", args=[made.token]))
        self.assertEqual(opened.status_code, 200, address)
        guest.is_active = False
        guest.save()
        self.assertEqual(self.client.get(reverse("feed", args=[made.token])).status_code, 404)
        guest.is_active = True
        guest.save()
        guest.seat.also.remove(shop)
        self.assertEqual(self.client.get(reverse("feed", args=[made.token])).status_code, 404)

    def test_pages_of_somebody_signed_in_are_kept_nowhere(self):
        self.client.force_login(person(), backend=BACKEND)
        for address in ("/", "/library/", "/nowhere/"):
            self.assertEqual(self.client.get(address)["Cache-Control"], "private, no-store")

    def test_the_start_page_tells_the_owner_of_the_last_proved_backup(self):
        self.client.force_login(person(), backend=BACKEND)
        with tempfile.TemporaryDirectory() as folder, override_settings(KEPT=folder, DEMO=False):
            self.assertContains(self.client.get("/"), "No proved backup yet")
            told = {"at": "2026-03-02T09:30:00+00:00", "rows": 1234, "problem": "no room."}
            (Path(folder) / "last-backup.json").write_text(json.dumps(told))
            campaign(person())
            page = self.client.get("/")
            self.assertContains(page, "1234 rows")
            self.assertContains(page, "The copy in the second location failed: no room.")
