"""Running it for real: first person, backup and restore table by table, rotation, upgrade, service, addresses."""

import io
import json
import os
import subprocess
import tarfile
import tempfile
import unittest
from contextlib import redirect_stdout
from datetime import UTC, datetime, timedelta
from pathlib import Path
from unittest import mock

from django.contrib.auth import get_user_model
from django.core.management import CommandError, call_command
from django.test import TestCase

from brunt_command import (
    backup_files,
    backups,
    cluster,
    first,
    network,
    places,
    postgres,
    settings,
    staged,
    upkeep,
    watch,
)
from brunt_command.places import PYTHON, ROOT
from brunt_command.problem import Problem
from brunt_web.people.models import Workshop

NOW = datetime(2026, 3, 2, 9, 30, tzinfo=UTC)


class Elsewhere(unittest.TestCase):
    """Data and state in folders of the test's own."""

    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        for name in ("STATE", "DATA"):
            patch = mock.patch.object(places, name, self.folder / name.lower())
            patch.start()
            self.addCleanup(patch.stop)


class Kept(Elsewhere):
    """Against the tests' own PostgreSQL server, in databases of its own."""

    def setUp(self):
        super().setUp()
        self.url = postgres.other(os.environ["DATABASE_URL"], f"brunt_kept_{os.getpid()}")
        postgres.regenerate(self.url)
        self.addCleanup(self.take_all_away)
        media = self.folder / "media"
        (media / "photos").mkdir(parents=True)
        (media / "photos" / "one.jpg").write_bytes(b"a picture")
        self.variables = {"DATABASE_URL": self.url, "BRUNT_MEDIA": str(media)}
        self.fill("create table bars (id int primary key, words text)")
        self.fill("insert into bars select n, 'bar ' || n from generate_series(1, 500) n")
        self.fill('create table "Odd name" (at timestamptz, load double precision)')

    def fill(self, statement):
        postgres.sql(self.url, statement)

    def take_all_away(self):
        place = staged.place_of(self.variables)
        for other in (*staged.kept_before(place), place.beside("_new"), place):
            postgres.take_away(other.url)

    def bars(self):
        return postgres.sql(self.url, "select count(*) from bars")

    def photo(self):
        return Path(self.variables["BRUNT_MEDIA"]) / "photos" / "one.jpg"

    def damaged(self, kept, part, change):
        """A kept file of which one part is changed."""
        damaged = self.folder / "damaged.tar"
        with tarfile.open(kept) as old, tarfile.open(damaged, "w") as new:
            for member in old.getmembers():
                content = old.extractfile(member).read()
                if member.name == part:
                    content = change(content)
                    member.size = len(content)
                new.addfile(member, io.BytesIO(content))
        return damaged

    def flip(self, content):
        return content[:-1] + bytes([content[-1] ^ 1])

    def test_a_dump_that_ends_early_replaces_nothing(self):
        """As when its file was cut: restored beside, refused, and what is there goes on."""
        kept = self.folder / "kept.tar"
        backups.keep("own", self.variables, kept)
        self.fill("insert into bars select n, 'late' from generate_series(501, 600) n")
        with backups.unpacked(kept) as (manifest, folder):
            dump = folder / "database.dump"
            dump.write_bytes(dump.read_bytes()[:-400])
            with self.assertRaises(Problem):
                backups.put_back(self.variables, manifest, folder)
            manifest["tables"]["bars"] = 499
        self.assertEqual((self.bars(), self.photo().read_bytes()), ("600", b"a picture"))
        with backups.unpacked(kept) as (manifest, folder):
            manifest["tables"]["bars"] = 499
            with self.assertRaisesRegex(Problem, "bars has other rows"):
                backups.put_back(self.variables, manifest, folder)
        self.assertEqual(self.bars(), "600")
        self.assertEqual(staged.kept_before(staged.place_of(self.variables)), [])

    def test_what_was_replaced_stays_until_it_is_forgotten_and_comes_back_when_asked(self):
        kept = self.folder / "kept.tar"
        backups.keep("own", self.variables, kept)
        self.fill("delete from bars where id > 20")
        self.photo().write_bytes(b"a later picture")
        with backups.unpacked(kept) as (manifest, folder):
            backups.put_back(self.variables, manifest, folder)
        self.assertEqual((self.bars(), self.photo().read_bytes()), ("500", b"a picture"))
        place = staged.place_of(self.variables)
        (before,) = staged.kept_before(place)
        staged.swap_back(place, before)
        self.assertEqual((self.bars(), self.photo().read_bytes()), ("20", b"a later picture"))
        (other,) = staged.kept_before(place)
        staged.clear(other)
        self.assertEqual(staged.kept_before(place), [])
        self.assertFalse(other.media.exists())

    def test_a_swap_that_was_cut_short_is_finished_at_the_next_start(self):
        place = staged.place_of(self.variables)
        with staged.built_beside(place) as new:
            postgres.sql(new.url, "create table bars (id int)")
            (new.media / "photos").mkdir()
            (new.media / "photos" / "one.jpg").write_bytes(b"new")
            with mock.patch.object(staged, "finish_swap"):
                staged.swap_in(place, NOW)
        self.assertEqual((self.bars(), self.photo().read_bytes()), ("0", b"a picture"))
        staged.finish_swap(place)
        self.assertEqual(self.photo().read_bytes(), b"new")
        (before,) = staged.kept_before(place)
        self.assertEqual((before.media / "photos" / "one.jpg").read_bytes(), b"a picture")
        staged.finish_swap(place)
        self.assertEqual(self.photo().read_bytes(), b"new")

    def test_files_that_cannot_follow_are_not_thrown_away(self):
        """The databases have changed names and the folder cannot be moved: both sides stay, the next start ends it."""
        place = staged.place_of(self.variables)
        with (
            mock.patch.object(Path, "rename", side_effect=OSError("read-only")),
            self.assertRaises(OSError),
            staged.built_beside(place) as new,
        ):
            postgres.sql(new.url, "create table bars (id int)")
            (new.media / "only.jpg").write_bytes(b"restored")
            staged.swap_in(place, NOW)
        with staged.built_beside(place):
            self.assertEqual((place.media / "only.jpg").read_bytes(), b"restored")
        (before,) = staged.kept_before(place)
        self.assertEqual((before.media / "photos" / "one.jpg").read_bytes(), b"a picture")

    def test_a_byte_flipped_in_a_picture_is_found(self):
        kept = self.folder / "kept.tar"
        backups.keep("own", self.variables, kept)
        damaged = self.damaged(kept, "media/photos/one.jpg", self.flip)
        with self.assertRaisesRegex(Problem, "its file photos/one.jpg is not what was kept"):
            with backups.unpacked(damaged):
                pass
        dated = Path(backups.keep("own", self.variables, None)["file"])
        (stored,) = (dated.parent / "files").glob("*/*")
        stored.write_bytes(self.flip(stored.read_bytes()))
        with self.assertRaisesRegex(Problem, "photos/one.jpg"), backups.unpacked(dated):
            pass

    def test_dated_backups_store_a_picture_once_and_a_second_place_has_all(self):
        second = self.folder / "second"
        with mock.patch.dict(os.environ, BRUNT_BACKUP_TO=str(second)):
            first = backups.keep("own", self.variables, None)
            (self.photo().parent / "two.jpg").write_bytes(b"another")
            for _ in range(2):
                os.rename(first["file"], Path(first["file"]).with_name("brunt-20200101-000000.tar"))
                first = backups.keep("own", self.variables, None)
        store = Path(first["file"]).parent / "files"
        self.assertEqual(len(list(store.glob("*/*"))), 2)
        copied = second / Path(first["file"]).name
        with backups.unpacked(copied) as (manifest, folder):
            self.assertEqual((folder / "media/photos/two.jpg").read_bytes(), b"another")
            self.assertEqual(manifest["tables"]["bars"], 500)
        (self.folder / "file").write_text("in the way")
        with mock.patch.dict(os.environ, BRUNT_BACKUP_TO=str(self.folder / "file" / "x")):
            with self.assertRaisesRegex(Problem, "is kept in .* but not in"):
                backups.keep("own", self.variables, None)
        self.assertTrue(backups.last_good("own")["problem"])

    def test_without_room_nothing_is_begun(self):
        with mock.patch.object(backup_files.shutil, "disk_usage", return_value=mock.Mock(free=10)):
            with self.assertRaisesRegex(Problem, "no room for a backup"):
                backups.keep("own", self.variables, None)

    def test_a_backup_made_while_somebody_enters_is_of_one_moment(self):
        run = postgres.run

        def while_somebody_enters(url, program, arguments, doing):
            if program == "pg_dump":
                self.fill("insert into bars select n, 'late' from generate_series(501, 900) n")
            return run(url, program, arguments, doing)

        with mock.patch.object(postgres, "run", while_somebody_enters):
            made = backups.keep("own", self.variables, None)
        self.assertEqual((made["tables"]["bars"], self.bars()), (500, "900"))

    def test_comes_back_table_by_table_with_its_files(self):
        made = backups.keep("own", self.variables, None)
        self.assertEqual(made["tables"], {"Odd name": 0, "bars": 500})
        self.assertEqual(made["files"], 1)
        self.assertEqual(backups.last_good("own")["file"], made["file"])
        before = postgres.sql(self.url, "select md5(string_agg(words, ',' order by id)) from bars")
        self.fill("delete from bars where id > 20")
        photo = Path(self.variables["BRUNT_MEDIA"]) / "photos" / "one.jpg"
        photo.write_bytes(b"spoiled")
        (photo.parent / "late.jpg").write_bytes(b"late")
        with backups.unpacked(Path(made["file"])) as (manifest, folder):
            backups.put_back(self.variables, manifest, folder)
        after = postgres.sql(self.url, "select md5(string_agg(words, ',' order by id)) from bars")
        self.assertEqual(before, after)
        self.assertEqual(photo.read_bytes(), b"a picture")
        self.assertFalse((photo.parent / "late.jpg").exists())
        self.assertEqual(oct(places.DATA.stat().st_mode & 0o77), "0o0")

    def test_files_of_another_storage_are_kept_and_come_back(self):
        """Any storage of Django's; here a folder elsewhere, named as a shared one would be."""
        other = self.folder / "shared"
        (other / "curves" / "of 2026").mkdir(parents=True)
        (other / "curves" / "of 2026" / "Kürve 1.csv").write_bytes(b"0;0")
        (other / "top.jpg").write_bytes(b"top")
        self.variables |= {
            "PATH": os.environ["PATH"],
            "BRUNT_SECRET_KEY": "only-here",
            "DJANGO_SETTINGS_MODULE": "brunt_web.settings",
            "BRUNT_STORAGE": "django.core.files.storage.FileSystemStorage",
            "BRUNT_STORAGE_OPTIONS": json.dumps({"location": str(other)}),
        }
        made = backups.keep("own", self.variables, None)
        self.assertEqual(made["files"], 2)
        (other / "curves" / "of 2026" / "Kürve 1.csv").write_bytes(b"spoiled")
        (other / "late.jpg").write_bytes(b"late")
        with backups.unpacked(Path(made["file"])) as (manifest, folder):
            backups.put_back(self.variables, manifest, folder)
        found = {p.name: p.read_bytes() for p in other.rglob("*") if p.is_file()}
        self.assertEqual(found, {"Kürve 1.csv": b"0;0", "top.jpg": b"top"})

    def test_what_is_no_backup_or_damaged_is_refused(self):
        made = Path(backups.keep("own", self.variables, self.folder / "kept.tar")["file"])
        junk = self.folder / "junk.tar"
        junk.write_bytes(b"no tar at all")
        damaged = self.damaged(made, "database.dump", self.flip)
        for path, words in ((junk, "no backup"), (damaged, "damaged"), (self.folder / "none.tar", "no file")):  # fmt: skip
            with self.assertRaisesRegex(Problem, words), backups.unpacked(path):
                pass

    def test_a_folder_that_cannot_be_written_is_one_sentence(self):
        (self.folder / "file").write_text("in the way")
        with self.assertRaisesRegex(Problem, "could not be written"):
            backups.keep("own", self.variables, self.folder / "file" / "kept.tar")

    def test_the_scratch_database_is_gone_afterwards(self):
        backups.keep("own", self.variables, None)
        known = postgres.sql(
            postgres.other(self.url, "postgres"), "select datname from pg_database"
        )
        self.assertNotIn("brunt_check", known.splitlines())

    def test_an_upgrade_that_fails_leaves_everything_as_it_was(self):
        def fail(variables, *arguments, quiet=False):
            postgres.sql(variables["DATABASE_URL"], "drop table bars")
            raise Problem("'prepare' failed: no.")

        with (
            mock.patch.object(upkeep.environment, "ensure"),
            mock.patch.object(upkeep.settings, "environment", return_value=self.variables),
            mock.patch.object(upkeep.serving, "running", return_value=None),
            mock.patch.object(upkeep.serving, "run_management", fail),
            redirect_stdout(io.StringIO()),
            self.assertRaisesRegex(Problem, "as it was before"),
        ):
            upkeep.upgrade([])
        self.assertEqual(postgres.sql(self.url, "select count(*) from bars"), "500")


class Rotation(Elsewhere):
    def test_days_weeks_and_months_are_kept(self):
        folder = backups.folder_of("own")
        for k in range(500):
            for hour in (2, 14):
                at = NOW - timedelta(days=k, hours=hour)
                (folder / at.strftime("brunt-%Y%m%d-%H%M%S.tar")).touch()
        (folder / "notes.txt").touch()
        (folder / "brunt-mine.tar").touch()
        backup_files.rotate(folder, NOW)
        left = sorted(p.name for p in folder.glob("brunt-2*.tar"))
        self.assertTrue(
            19 <= len(left) <= backup_files.DAYS + backup_files.WEEKS + backup_files.MONTHS,
            len(left),
        )
        newest = (NOW - timedelta(hours=2)).strftime("brunt-%Y%m%d-%H%M%S.tar")
        self.assertEqual(left[-1], newest)
        self.assertTrue((folder / "notes.txt").exists() and (folder / "brunt-mine.tar").exists())
        again = backup_files.rotate(folder, NOW)
        self.assertEqual(again, [])

    def test_due_after_a_day(self):
        self.assertTrue(watch.due(None, NOW))
        self.assertTrue(watch.due((NOW - timedelta(hours=25)).isoformat(), NOW))
        self.assertFalse(watch.due((NOW - timedelta(hours=23)).isoformat(), NOW))


class Settings(Elsewhere):
    def test_demo_and_own_share_nothing(self):
        started = lambda name, database: f"postgres://x@127.0.0.1/{name}-{database}"  # noqa: E731
        with mock.patch.dict(os.environ, {"DATABASE_URL": "", "BRUNT_SECRET_KEY": ""}), mock.patch.object(cluster, "start_cluster", started):  # fmt: skip
            demo, own = settings.environment(True), settings.environment(False)
        for key in ("DATABASE_URL", "BRUNT_MEDIA", "BRUNT_KEPT", "BRUNT_SECRET_KEY"):
            self.assertNotEqual(demo[key], own[key], key)
        self.assertNotEqual(places.cluster_home("demo"), places.cluster_home("own"))

    def test_the_place_does_not_hang_on_the_checkout(self):
        with mock.patch.object(places, "STATE", Path("/somewhere/else/.brunt")):
            moved = places.cluster_home("own"), places.cluster_home("demo")
        self.assertEqual(moved[0], places.cluster_home("own"))
        self.assertNotEqual(moved[1], places.cluster_home("demo"))

    def test_broken_secrets_and_addresses_are_one_sentence(self):
        path = places.data_path("secrets.json")
        for text in ("", "{}", "[1]", '{"secret_key": "short"}', "\x00"):
            path.write_text(text)
            with self.assertRaisesRegex(Problem, "move the file away|Move the file away"):
                settings._secret(path.parent)
        for url in ("mysql://x/y", "postgres://host", "nonsense", "postgres:///"):
            with mock.patch.dict(os.environ, {"DATABASE_URL": url}), self.assertRaisesRegex(Problem, "no address"):  # fmt: skip
                settings.environment(False)

    def test_a_place_that_may_not_be_made(self):
        blocked = self.folder / "blocked"
        blocked.write_text("a file in the way")
        with mock.patch.object(places, "DATA", blocked / "brunt"), self.assertRaisesRegex(Problem, "BRUNT_DATA"):  # fmt: skip
            places.data_path("secrets.json")

    def test_addresses_for_a_tablet(self):
        self.assertEqual(network.seen_at("127.0.0.1"), [])
        self.assertEqual(network.hosts("127.0.0.1"), {})
        self.assertEqual(network.seen_at("192.0.2.7"), ["192.0.2.7"])
        self.assertIn("192.0.2.7", network.hosts("192.0.2.7")["BRUNT_HOSTS"])

    def test_a_unit_for_the_machines_start(self):
        text = upkeep.unit("tester", "0.0.0.0", 8100)
        for words in (
            *("ExecStart=", "start --foreground --host 0.0.0.0", "Restart=always", "User=tester"),
            *("NoNewPrivileges=true", "ProtectSystem=strict", "PrivateTmp=true"),
            "ReadWritePaths=/var/lib/brunt",
        ):
            self.assertIn(words, text)
        for name in ("ensure_user", "environment"):
            patch = mock.patch.object(upkeep, name)
            patch.start()
            self.addCleanup(patch.stop)
        out = io.StringIO()
        with redirect_stdout(out):
            upkeep.service(["--write", str(self.folder / "brunt.service")])
        self.assertIn("systemctl enable", out.getvalue())
        with self.assertRaisesRegex(Problem, "cannot be written"):
            upkeep.service(["--write", str(self.folder / "no" / "such" / "place")])


class Https(unittest.TestCase):
    def test_one_setting_turns_it_all_on(self):
        told = {
            "BRUNT_HTTPS": "1", "BRUNT_HOSTS": "brunt.example", "BRUNT_SECRET_KEY": "x" * 50,
            "DATABASE_URL": "postgres://nobody@127.0.0.1/none", "DJANGO_SETTINGS_MODULE": "brunt_web.settings",
        }  # fmt: skip
        code = (
            "import json; from brunt_web import settings as s; print(json.dumps([s.SESSION_COOKIE_SECURE, "
            "s.CSRF_COOKIE_SECURE, s.SECURE_SSL_REDIRECT, s.SECURE_HSTS_SECONDS, s.CSRF_TRUSTED_ORIGINS]))"
        )
        done = subprocess.run([str(PYTHON), "-c", code], env={**os.environ, **told}, cwd=ROOT, capture_output=True, text=True)  # fmt: skip
        secure, csrf, redirect, hsts, origins = json.loads(done.stdout)
        self.assertTrue(secure and csrf and redirect and hsts > 10_000_000)
        self.assertEqual(origins, ["https://brunt.example"])


class First(TestCase):
    def ask(self, *arguments, password=""):
        out = io.StringIO()
        with mock.patch.dict(os.environ, {"BRUNT_FIRST_PASSWORD": password}):
            call_command("first_person", *arguments, stdout=out)
        return out.getvalue().strip()

    def test_made_once_and_can_sign_in(self):
        self.assertEqual(self.ask("--known"), "nobody")
        self.ask("--name", "Quill Marsh", "--workshop", "Lock house", password="seven wet ropes")
        self.assertEqual(self.ask("--known"), "somebody")
        user = get_user_model().objects.get()
        self.assertTrue(user.check_password("seven wet ropes"))
        self.assertEqual(user.seat.workshop, Workshop.objects.get(name="Lock house"))
        self.assertEqual(user.seat.role, "owner")
        with self.assertRaisesRegex(CommandError, "already"):
            self.ask("--name", "Another", password="seven wet ropes")

    def test_easy_passwords_are_refused(self):
        easy = (("Quill", "short"), ("Quill", "password123"), ("quillmarsh", "quillmarsh1"), ("Quill", "7391846205"))  # fmt: skip
        for name, word in (*easy, ("", "seven wet ropes")):
            with self.assertRaises(CommandError):
                self.ask("--name", name, password=word)
        self.assertEqual(self.ask("--known"), "nobody")

    def test_without_a_terminal_it_says_what_to_do(self):
        out = io.StringIO()
        with mock.patch.object(first, "_ask", return_value="nobody\n"), mock.patch.object(first.sys, "stdin", None), redirect_stdout(out):  # fmt: skip
            first.ensure_first_person({}, "", "", "")
        self.assertIn("--password-file", out.getvalue())
        with self.assertRaisesRegex(Problem, "cannot be read"):
            first._password("/no/such/file")
