"""Who changed what, when, from what to what: written whichever way a row is changed, shown, found, deleted."""

import csv
import io
import json
from datetime import timedelta

from django.apps import apps
from django.contrib.auth import get_user_model
from django.db import NotSupportedError, connection, transaction
from django.db.models.signals import pre_migrate
from django.test import Client, TestCase

from brunt_web.changes.apps import _watch
from brunt_web.changes.models import Change
from brunt_web.changes.names import PARENTS
from brunt_web.changes.reading import acts, changes_of_rows
from brunt_web.changes.tracked import NOT_TRACKED, RETURNABLE, TRACKED
from brunt_web.library.actions.lots import log_drying
from brunt_web.library.models import Drying, Lot, Rig
from brunt_web.people.at_work import name_worker
from brunt_web.testing.models import Photo, Reading, Test
from tests.support.workshop import BACKEND, NOW, campaign, entry, person, put, turns_of


class Kept(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.shop = cls.user.seat.workshop
        cls.campaign = campaign(cls.user)
        cls.turn = turns_of(cls.campaign).first()
        name_worker(str(cls.user.pk), str(cls.shop.pk))

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def told(self, **where):
        rows = Change.objects.filter(**where).select_related("who")
        return [
            (r.noun, r.change.what, s.name, s.before, s.after)
            for act in acts(rows)
            for r in act.rows
            for s in r.said
        ]

    def test_a_correction_says_the_number_before_and_after(self):
        put(self.turn, self.user, entry("500 N"))
        self.assertEqual(Change.objects.filter(kind="testing_reading").count(), 0)
        put(self.turn, self.user, entry("612 N"), replace=True)
        said = self.told(kind="testing_reading")
        self.assertIn(("reading", "~", "text", "500 N", "612 N"), said)
        page = self.client.get(f"/specimens/{self.turn.code}/").content.decode()
        self.assertRegex(page, r"<del>500 N</del>\s*→\s*<ins>612 N</ins>")
        self.client.post(
            f"/specimens/{self.turn.at}/leave-out/", {"reason": "a bubble in the face"}
        )
        self.assertTrue(Test.objects.get().excluded)
        change = Change.objects.get(kind="testing_test", what="~", after__has_key="excluded")
        self.assertEqual((change.who, change.workshop), (self.user, self.shop))
        self.assertEqual(change.after["exclusion_reason"], "a bubble in the face")

    def test_a_bulk_change_and_a_bare_statement_are_written_down_too(self):
        put(self.turn, self.user, entry("500 N"))
        Reading.objects.filter(key="force").update(text="501 N")
        with connection.cursor() as cursor:
            cursor.execute("UPDATE library_rig SET relative_error = 0.02")
        self.assertIn(("reading", "~", "text", "500 N", "501 N"), self.told(kind="testing_reading"))
        rig = self.told(kind="library_rig", what="~")
        self.assertEqual(rig, [("rig", "~", "relative error", "0.01", "0.02")])
        Rig.objects.update(relative_error=0.02)
        self.assertEqual(Change.objects.filter(kind="library_rig", what="~").count(), 1)

    def test_what_is_only_worked_out_is_not(self):
        before = Change.objects.count()
        put(self.turn, self.user, entry("500 N"))
        kinds = set(
            Change.objects.order_by("-id")[: Change.objects.count() - before].values_list(
                "kind", flat=True
            )
        )
        self.assertLessEqual(kinds, {"testing_measurement"})

    def test_an_undone_test_is_kept_in_full(self):
        put(self.turn, self.user, entry("500 N"))
        self.client.post(f"/specimens/{self.turn.at}/bench/undo/")
        self.assertEqual(Test.objects.count(), 0)
        gone = Change.objects.get(kind="testing_reading", what="-", keys__key="force")
        self.assertEqual((gone.before["text"], gone.who), ("500 N", self.user))
        page = self.client.get(f"/specimens/{self.turn.code}/").content.decode()
        self.assertIn("<del>500 N</del>", page)

    def test_nobody_is_named_for_another(self):
        put(self.turn, self.user, entry("500 N"))
        other = person("quill", self.shop)
        browser = Client()
        browser.force_login(other, backend=BACKEND)
        browser.post(f"/specimens/{self.turn.at}/leave-out/", {"reason": "slipped"})
        self.client.post(f"/specimens/{self.turn.at}/count/")
        who = (
            Change.objects.filter(kind="testing_test").order_by("id").values_list("who", flat=True)
        )
        self.assertEqual(list(who), [other.pk, self.user.pk])
        Client().get("/health/")
        Client().post("/sign-in/", {"username": "x", "password": "y"})
        Rig.objects.update(note="by nobody")
        self.assertIsNone(Change.objects.filter(kind="library_rig").first().who_id)

    def test_the_page_is_searched_and_taken_away(self):
        put(self.turn, self.user, entry("500 N"))
        put(self.turn, self.user, entry("612.5 N"), replace=True)
        self.shop.rigs.update(note="=1+1")
        get = self.client.get
        self.assertContains(get("/changes/?q=612.5"), "612.5 N")
        self.assertNotContains(get("/changes/?q=612.5"), "relative error")
        self.assertContains(get("/changes/?kind=library_rig"), "=1+1")
        self.assertContains(get("/changes/?q=nothing+of+the+kind"), "No change matches")
        self.assertContains(get("/changes/?who=quill"), "No change matches")
        self.assertContains(get("/changes/?to=2020-01-01"), "No change matches")
        for odd in (
            "from=soon",
            "page=x",
            "of=library_rig:x",
            "of=%00",
            "kind=x",
            "of=auth_user:9999999999999",
        ):
            self.assertLess(get(f"/changes/?{odd}").status_code, 500, odd)
        rows = list(csv.DictReader(io.StringIO(self._text("/changes.csv?q=612.5"))))
        row = next(r for r in rows if r["column"] == "text")
        self.assertEqual((row["before"], row["after"], row["who"]), ("500 N", "612.5 N", "tester"))
        notes = list(csv.DictReader(io.StringIO(self._text("/changes.csv?kind=library_rig"))))
        self.assertIn("'=1+1", {r["after"] for r in notes})
        full = json.loads(get("/changes.json?kind=testing_reading").content)
        kept = {(c["what"], c["before"].get("text"), c["after"].get("text")) for c in full}
        self.assertLessEqual({("deleted", "500 N", None), ("made", None, "612.5 N")}, kept)

    def _text(self, address):
        return b"".join(self.client.get(address).streaming_content).decode()

    def test_another_workshop_sees_nothing_of_it(self):
        put(self.turn, self.user, entry("500 N"))
        put(self.turn, self.user, entry("612.5 N"), replace=True)
        stranger = Client()
        stranger.force_login(person("stranger"), backend=BACKEND)
        self.assertNotContains(stranger.get("/changes/"), "612.5 N")
        kept = Change.objects.filter(kind="testing_reading").first()
        asked = f"/changes/?of=testing_test:{kept.keys['test_id']}"
        self.assertNotContains(stranger.get(asked), "612.5 N")


class Back(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.shop = cls.user.seat.workshop
        cls.campaign = campaign(cls.user)
        material = cls.shop.materials.first()
        cls.lot = Lot.objects.create(
            workshop=cls.shop, material=material, name="spool 9", bought=1, remaining=1
        )

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def test_a_drying_taken_off_comes_back_as_it_was(self):
        at = NOW - timedelta(hours=9)
        one = log_drying(
            self.lot, self.user, temperature=343.15, duration=14400.0, started_at=at, ended_at=NOW
        )
        self.client.post(f"/library/lots/{self.lot.pk}/drying/{one.pk}/back/")
        self.assertFalse(Drying.objects.exists())
        page = self.client.get(f"/library/lots/{self.lot.pk}/")
        self.assertContains(page, "Restore")
        self.assertContains(page, "70.0 °C")
        gone = Change.objects.get(kind="library_drying", what="-")
        answer = self.client.post(f"/changes/{gone.pk}/back/")
        self.assertRedirects(answer, f"/library/lots/{self.lot.pk}/")
        back = Drying.objects.get()
        self.assertEqual(
            (back.pk, back.temperature, back.started_at, back.by), (one.pk, 343.15, at, self.user)
        )
        twice = self.client.post(f"/changes/{gone.pk}/back/")
        self.assertContains(twice, "restored already", status_code=422)
        self.assertNotContains(self.client.get(f"/library/lots/{self.lot.pk}/"), "Restore")

    def test_what_hangs_together_and_what_is_another_s_does_not(self):
        turn = turns_of(self.campaign).first()
        put(turn, self.user, entry("500 N"))
        self.client.post(f"/specimens/{turn.at}/bench/undo/")
        gone = Change.objects.filter(kind="testing_test", what="-").get()
        self.assertEqual(self.client.post(f"/changes/{gone.pk}/back/").status_code, 422)
        photo = Photo.objects.create(
            specimen=turn.specimen, file="x.jpg", width=1, height=1, by=self.user, at=NOW
        )
        self.client.post(f"/specimens/{turn.code}/photo/{photo.pk}/off/")
        gone = Change.objects.get(kind="testing_photo", what="-")
        stranger = Client()
        stranger.force_login(person("stranger"), backend=BACKEND)
        self.assertEqual(stranger.post(f"/changes/{gone.pk}/back/").status_code, 422)
        self.assertFalse(Photo.objects.exists())
        self.client.post(f"/changes/{gone.pk}/back/")
        self.assertEqual(Photo.objects.get().pk, photo.pk)


class Whole(TestCase):
    def test_every_table_is_watched_or_says_why_not(self):
        ours = {
            m._meta.db_table
            for m in apps.get_models(include_auto_created=True)
            if m.__module__.startswith("brunt_web")
        }
        self.assertEqual(ours - set(TRACKED) - set(NOT_TRACKED), set())
        self.assertEqual((set(TRACKED) | set(NOT_TRACKED)) - ours - {"auth_user"}, set())
        with connection.cursor() as cursor:
            cursor.execute(
                "SELECT DISTINCT tgrelid::regclass::text FROM pg_trigger WHERE tgname = 'brunt_changed'"
            )
            self.assertEqual({row[0] for row in cursor.fetchall()}, set(TRACKED))

    def test_columns_named_are_columns_that_are(self):
        tables = {m._meta.db_table: m for m in apps.get_models(include_auto_created=True)}
        for table, how in TRACKED.items():
            columns = {f.column for f in tables[table]._meta.concrete_fields}
            self.assertLessEqual({*how.only, *how.hidden, *how.parts}, columns, table)
        for table, (column, parent) in PARENTS.items():
            f = next(f for f in tables[table]._meta.concrete_fields if f.column == column)
            self.assertEqual(f.related_model._meta.db_table, parent)
        self.assertLessEqual(RETURNABLE, set(TRACKED))

    def test_of_walks_down_to_what_belongs(self):
        user = person()
        one = campaign(user)
        self.assertTrue(
            Change.objects.filter(changes_of_rows("campaigns_campaign", [one.pk])).exists()
        )
        self.assertFalse(Change.objects.filter(changes_of_rows("campaigns_campaign", [0])).exists())

    def test_a_password_is_never_written_down(self):
        user = person()
        user.set_password("seven wet ropes")
        user.first_name = "Quill"
        user.save()
        kept = Change.objects.get(kind="auth_user")
        self.assertEqual((kept.after, kept.before), ({"first_name": "Quill"}, {"first_name": ""}))
        get_user_model().objects.filter(pk=user.pk).delete()
        self.assertNotIn("password", Change.objects.filter(kind="auth_user", what="-").get().before)

    def test_columns_can_be_altered_by_a_migration_and_are_watched_again(self):
        def watched():
            with connection.cursor() as cursor:
                cursor.execute("SELECT count(*) FROM pg_trigger WHERE tgname = 'brunt_changed'")
                return cursor.fetchone()[0]

        before = watched()
        alter = "ALTER TABLE campaigns_specimen ALTER COLUMN code TYPE varchar(8)"
        with (
            self.assertRaises(NotSupportedError),
            transaction.atomic(),
            connection.cursor() as cursor,
        ):
            cursor.execute(alter)
        sender = apps.get_app_config("changes")
        pre_migrate.send(sender, using="default", plan=[])
        self.assertEqual(watched(), before)
        pre_migrate.send(sender, using="default", plan=[("a migration", False)])
        self.assertEqual(watched(), 0)
        with connection.cursor() as cursor:
            cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")
            cursor.execute(alter)
        _watch(sender)
        self.assertEqual((watched(), before > 50), (before, True))
