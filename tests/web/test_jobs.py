"""Large forms as jobs: the same answer as at once, by the same person; cancelled, lost, too large, never twice."""

import io
import re
from datetime import timedelta
from unittest.mock import patch

from django.core.files.storage import default_storage
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client, TestCase, override_settings
from django.utils import timezone
from PIL import Image
from procrastinate.contrib.django import app

from brunt_core.errors import InputError
from brunt_web.changes.models import Change
from brunt_web.exchange.models import DataImport
from brunt_web.interface.pictures import clean_picture, keep_picture, kept_file
from brunt_web.jobs import supervising
from brunt_web.jobs.answering import Cancelled, answer_job, close_job
from brunt_web.jobs.models import CANCELLED, DONE, FAILED, REFUSED, RUNNING, WAITING, Job, JobFile
from brunt_web.jobs.progress import current, now_and_then, step
from brunt_web.people.models import Workshop
from brunt_web.testing.models import Photo, Test
from tests.support.media import own_media
from tests.support.workshop import BACKEND, campaign, person

GCODE = "; layer_height = 0.2\n" + "G1 X1 Y1 E0.1 F3000\n" * 400
HEAD = "condition;procedure;load;width;thickness\n"


def queued():
    """The numbers of the jobs that the queue in PostgreSQL holds."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT args ->> 'job' FROM procrastinate_jobs WHERE task_name = 'do'")
        return {row[0] for row in cursor.fetchall()}


def picture(width, height, kind="PNG"):
    """A picture of one colour: a few kB for many pixels."""
    out = io.BytesIO()
    Image.new("L", (width, height), 90).save(out, kind)
    return SimpleUploadedFile(f"wide.{kind.lower()}", out.getvalue())


class Jobs(TestCase):
    def setUp(self):
        own_media(self)
        self.user = person()
        self.one = campaign(self.user)
        self.client.force_login(self.user, backend=BACKEND)
        self.base = f"/campaigns/{self.one.pk}/import-data"

    def sent(self, address, fields, **headers):
        """What is answered at once, and the job that is to answer it."""
        said = self.client.post(address, fields, headers=headers)
        return said, Job.objects.get()

    def test_a_worker_that_was_thought_lost_stores_nothing_beside_the_one_that_took_it_up(self):
        _, job = self.sent(f"{self.base}/store/", {"text": self.rows(12), "name": "a.csv"})
        slow = supervising._claim(job.pk)
        Job.objects.update(seen_at=timezone.now() - timedelta(seconds=30))
        quick = supervising._claim(job.pk)
        self.assertEqual((slow.attempts, quick.attempts), (1, 2))
        with self.assertLogs("brunt_web.jobs", "WARNING"):
            answer_job(slow)
        job.refresh_from_db()
        self.assertEqual((job.state, job.status), (RUNNING, 0))
        self.assertEqual(Test.objects.count(), 0)
        close_job(slow, CANCELLED, "Nothing was saved.")
        job.refresh_from_db()
        self.assertEqual(job.state, RUNNING)
        answer_job(quick)
        job.refresh_from_db()
        done = (job.state, job.status, job.answer, Test.objects.count())
        self.assertEqual(done[0], DONE)
        with self.assertLogs("brunt_web.jobs", "WARNING"):
            answer_job(slow)
        job.refresh_from_db()
        self.assertEqual((job.state, job.status, job.answer, Test.objects.count()), done)

    def rows(self, count, load="58.4 kgf"):
        """A few rows, and so many blank lines that the form is a large one."""
        return HEAD + f"Fernhall PLA;flat;{load};5 mm;2 mm\n" * count + "\n" * 60_000

    def test_large_rows_are_previewed_and_stored_as_small_ones_are(self):
        said, job = self.sent(f"{self.base}/preview/", {"text": self.rows(30), "name": "a.csv"})
        self.assertRedirects(said, f"/jobs/{job.pk}/")
        self.assertIn(str(job.pk), queued())
        self.assertContains(self.client.get(f"/jobs/{job.pk}/"), "Cancel job")
        answer_job(Job.objects.get())
        page = self.client.get(f"/jobs/{job.pk}/")
        self.assertContains(page, "Import 30 rows")
        token = self.client.cookies["csrftoken"].value
        strict = Client(enforce_csrf_checks=True)
        strict.force_login(self.user, backend=BACKEND)
        strict.cookies["csrftoken"] = token
        fields = dict(
            re.findall(r'name="(csrfmiddlewaretoken|seen|mapped)" value="(\w+)"', page.text)
        )
        fields |= {"text": self.rows(30), "name": "a.csv"}
        said = strict.post(f"{self.base}/store/", fields)
        store = Job.objects.exclude(pk=job.pk).get()
        self.assertEqual((said.status_code, Test.objects.count()), (302, 0))
        answer_job(store)
        self.assertEqual(Test.objects.count(), 30)
        self.assertEqual(DataImport.objects.get().by, self.user)
        after = self.client.get(f"/jobs/{store.pk}/", follow=True)
        self.assertContains(after, "30 rows are imported")
        self.assertEqual(after.redirect_chain[-1][0], f"/campaigns/{self.one.pk}/compare/")
        self.assertNotContains(
            self.client.get(f"/jobs/{store.pk}/", follow=True), "rows are imported"
        )

    def test_an_import_of_many_rows_is_taken_back_as_a_job(self):
        text = self.rows(8).rstrip()
        self.client.post(f"{self.base}/store/", {"text": text, "name": "few"})
        DataImport.objects.update(count=501)
        said, job = self.sent(f"{self.base}/{DataImport.objects.get().pk}/undo/", {})
        self.assertEqual((said.status_code, Test.objects.count()), (302, 8))
        answer_job(job)
        self.assertEqual(Test.objects.count(), 0)

    def test_a_script_is_told_where_its_answer_will_be(self):
        file = SimpleUploadedFile("long.gcode", GCODE.encode() * 600)
        fields = {"kind": "filament", "gcode": file}
        said, job = self.sent("/library/recipes/gcode/", fields, **{"X-Part": "gcode"})
        self.assertEqual((said.status_code, said.json()), (202, {"job": f"/jobs/{job.pk}/"}))
        told = self.client.get(f"/jobs/{job.pk}/state/").json()
        self.assertEqual((told["state"], told["over"], told["ahead"]), (WAITING, False, 0))
        self.assertEqual(self.client.get(f"/jobs/{job.pk}/answer/").status_code, 422)
        kept = JobFile.objects.get().stored
        self.assertTrue(default_storage.exists(kept))
        answer_job(job)
        found = self.client.get(f"/jobs/{job.pk}/answer/").json()
        self.assertEqual((found["lines"], found["found"][0]["text"]), (401 * 600, "0.2 mm"))
        self.assertFalse(default_storage.exists(kept))
        self.assertEqual(JobFile.objects.count(), 0)

    def test_what_a_job_changes_has_the_name_of_who_sent_it(self):
        text = self.rows(3) + "Kestrel PA;flat;40 kgf;5 mm;2 mm\n"
        _, job = self.sent(f"{self.base}/store/", {"text": text, "create_missing": "1"})
        answer_job(job)
        made = Change.objects.get(kind="library_material", keys__name="Kestrel PA")
        self.assertEqual(made.who, self.user)

    def test_a_refused_file_is_refused_as_at_once(self):
        text = self.rows(30) + "nobody;flat;1;1;1\n"
        _, job = self.sent(f"{self.base}/store/", {"text": text})
        answer_job(job)
        page = self.client.get(f"/jobs/{job.pk}/")
        self.assertContains(page, "Nothing was saved", status_code=422)
        self.assertEqual(Test.objects.count(), 0)

    def test_only_who_sent_it_sees_the_answer_or_stops_it(self):
        _, job = self.sent(f"{self.base}/preview/", {"text": self.rows(30)})
        mate = person("mate", self.one.workshop)
        for other, listed in ((mate, True), (person("stranger"), False)):
            browser = Client()
            browser.force_login(other, backend=BACKEND)
            for last, method in (("", "get"), ("state/", "get"), ("answer/", "get"), ("cancel/", "post")):  # fmt: skip
                said = getattr(browser, method)(f"/jobs/{job.pk}/{last}")
                self.assertEqual(said.status_code, 404, last)
            self.assertEqual("What rows become" in browser.get("/jobs/").text, listed)
        self.assertEqual(Job.objects.get().state, WAITING)

    def test_cancelled_before_it_begins(self):
        _, job = self.sent(f"{self.base}/store/", {"text": self.rows(30)})
        said = self.client.post(f"/jobs/{job.pk}/cancel/", follow=True)
        self.assertContains(said, "Nothing was saved", status_code=422)
        self.assertIsNone(supervising._claim(str(job.pk)))
        self.assertEqual((Job.objects.get().state, Test.objects.count()), (CANCELLED, 0))

    def test_cancelled_in_the_middle_stores_nothing(self):
        _, job = self.sent(f"{self.base}/store/", {"text": self.rows(30)})

        def said(beside, job, done, total, unit):
            if unit == "rows imported" and done:
                raise Cancelled

        with (
            patch("brunt_web.jobs.answering._say", said),
            patch("brunt_web.jobs.answering.now_and_then", lambda say: say),
        ):
            answer_job(job)
        self.assertEqual((Job.objects.get().state, Test.objects.count()), (CANCELLED, 0))
        self.assertEqual(DataImport.objects.count(), 0)

    def test_more_memory_than_a_job_may_have(self):
        _, job = self.sent(f"{self.base}/preview/", {"text": self.rows(30)})
        with (
            patch("brunt_web.exchange.views.preview", side_effect=MemoryError),
            override_settings(JOB_MEMORY_MB=321),
        ):
            answer_job(job)
        self.assertContains(self.client.get(f"/jobs/{job.pk}/"), "321 MB", status_code=422)
        self.assertEqual(Job.objects.get().state, REFUSED)

    def test_who_may_not_any_more_is_refused_then_too(self):
        seat = self.user.seat
        other = Workshop.objects.create(name="Another bench")
        for change, said in (
            ({"rights": "reader"}, "This needs the role lead"),
            ({"workshop": other}, "You have switched to another workshop"),
        ):
            before = {name: getattr(seat, name) for name in change}
            _, job = self.sent(f"{self.base}/store/", {"text": self.rows(30)})
            type(seat).objects.filter(pk=seat.pk).update(**change)
            answer_job(Job.objects.get())
            self.assertIn(said, Job.objects.get().words)
            type(seat).objects.filter(pk=seat.pk).update(**before)
            Job.objects.all().delete()
        _, job = self.sent(f"{self.base}/store/", {"text": self.rows(30)})
        job.by.is_active = False
        answer_job(job)
        self.assertIn("no longer in the workshop", Job.objects.get().words)
        self.assertEqual(Test.objects.count(), 0)

    def test_health_says_when_jobs_wait_for_no_worker(self):
        self.assertNotIn("jobs", self.client.get("/health/").json())
        self.sent(f"{self.base}/preview/", {"text": self.rows(30)})
        self.assertNotIn("jobs", self.client.get("/health/").json())
        Job.objects.update(created_at=timezone.now() - timedelta(minutes=2))
        self.assertIn("no worker is running", self.client.get("/health/").json()["jobs"])
        Job.objects.update(state=RUNNING)
        self.assertNotIn("jobs", self.client.get("/health/").json())

    def test_what_it_belonged_to_is_gone(self):
        _, job = self.sent(f"{self.base}/preview/", {"text": self.rows(30)})
        Job.objects.update(path="/campaigns/999999/import-data/preview/")
        answer_job(Job.objects.get())
        self.assertContains(self.client.get(f"/jobs/{job.pk}/"), "was deleted", status_code=422)

    def test_two_workers_never_hold_the_same_and_a_lost_one_is_taken_up(self):
        _, job = self.sent(f"{self.base}/preview/", {"text": self.rows(30)})
        self.assertEqual(supervising._claim(str(job.pk)).attempts, 1)
        self.assertIsNone(supervising._claim(str(job.pk)))
        Job.objects.update(seen_at=timezone.now() - timedelta(seconds=30))
        with connection.cursor() as cursor:
            cursor.execute("DELETE FROM procrastinate_jobs")
        supervising.look_after_all()
        supervising.look_after_all()
        self.assertEqual(queued(), {str(job.pk)})
        for attempts in (2, 3):
            self.assertEqual(supervising._claim(str(job.pk)).attempts, attempts)
            Job.objects.update(seen_at=timezone.now() - timedelta(seconds=30))
        self.assertIsNone(supervising._claim(str(job.pk)))
        self.assertEqual(Job.objects.get().state, FAILED)
        self.assertContains(self.client.get(f"/jobs/{job.pk}/"), "three times", status_code=422)

    def test_its_page_says_that_its_worker_is_gone_and_that_it_is_taken_up_again(self):
        _, job = self.sent(f"{self.base}/preview/", {"text": self.rows(30)})
        supervising._claim(str(job.pk))
        self.assertNotContains(self.client.get(f"/jobs/{job.pk}/"), "has stopped responding")
        Job.objects.update(seen_at=timezone.now() - timedelta(seconds=8))
        self.assertContains(
            self.client.get(f"/jobs/{job.pk}/"), "has stopped responding. The job is restarted"
        )
        told = self.client.get(f"/jobs/{job.pk}/state/").json()
        self.assertEqual((told["silent"], told["attempt"]), (True, 1))

    def test_old_answers_go_after_a_day_and_old_jobs_after_a_week(self):
        _, job = self.sent(f"{self.base}/preview/", {"text": self.rows(30)})
        answer_job(job)
        for days, left in ((0.5, True), (2, False)):
            Job.objects.update(created_at=timezone.now() - timedelta(days=days))
            supervising.look_after_all()
            self.assertEqual(bool(bytes(Job.objects.get().answer)), left)
        self.assertContains(self.client.get(f"/jobs/{job.pk}/"), "kept for a day", status_code=422)
        Job.objects.update(created_at=timezone.now() - timedelta(days=8))
        supervising.look_after_all()
        self.assertEqual(Job.objects.count(), 0)

    def test_the_page_of_jobs(self):
        self.assertContains(self.client.get("/jobs/"), "None in the last week")
        _, job = self.sent(f"{self.base}/preview/", {"text": self.rows(30)})
        self.assertContains(self.client.get("/jobs/"), "No worker has reported")
        Job.objects.update(state=RUNNING, done=30, total=120, unit="rows", begun_at=timezone.now())
        with connection.cursor() as cursor:
            cursor.execute(
                "INSERT INTO procrastinate_workers (last_heartbeat) VALUES (clock_timestamp())"
            )
        page = self.client.get("/jobs/")
        self.assertContains(page, "25 %")
        self.assertNotContains(page, "No worker has reported")

    def test_progress_is_said_now_and_then_and_only_in_a_job(self):
        step(1, 2, "rows")
        heard = []
        token = current.set(now_and_then(lambda *said: heard.append(said)))
        for i in range(5000):
            step(i, 5000, "rows")
        step(0, 9, "others")
        current.reset(token)
        self.assertEqual([heard[0], heard[-1]], [(0, 5000, "rows"), (0, 9, "others")])
        self.assertLess(len(heard), 6)

    def test_the_queue_knows_its_tasks(self):
        self.assertEqual({"do", "look_after"} - set(app.tasks), set())


class LargePictures(TestCase):
    def setUp(self):
        own_media(self)
        self.user = person()
        self.specimen = campaign(self.user).specimens.first()
        self.client.force_login(self.user, backend=BACKEND)
        self.address = f"/specimens/{self.specimen.code}/photo/"

    def test_many_pixels_are_a_job_and_few_are_not(self):
        self.client.post(self.address, {"photo": picture(900, 600), "caption": "small"})
        self.assertEqual((Job.objects.count(), Photo.objects.count()), (0, 1))
        self.client.post(self.address, {"photo": picture(6000, 4000, "JPEG"), "caption": "large"})
        job = Job.objects.get()
        self.assertEqual(Photo.objects.count(), 1)
        answer_job(job)
        kept = Photo.objects.get(caption="large")
        self.assertEqual((kept.width, kept.height), (2400, 1600))
        self.assertRedirects(
            self.client.get(f"/jobs/{job.pk}/"), f"/specimens/{self.specimen.code}/"
        )

    def test_more_than_sixty_million_are_refused_in_words(self):
        self.client.post(self.address, {"photo": picture(10_000, 6001)})
        job = Job.objects.get()
        answer_job(job)
        page = self.client.get(f"/jobs/{job.pk}/")
        self.assertContains(page, "more than 60 million pixels", status_code=422)
        self.assertEqual((Job.objects.get().state, Photo.objects.count()), (DONE, 0))

    def test_upright_and_bare_however_large(self):
        out = io.BytesIO()
        exif = Image.Exif()
        exif[0x0112], exif[0x010F] = 6, "a maker"
        Image.new("RGB", (5000, 3000), (200, 10, 10)).save(out, "JPEG", exif=exif)
        made = clean_picture(SimpleUploadedFile("x.jpg", out.getvalue()), 1000)
        self.assertEqual((made.size, dict(made.getexif())), ((600, 1000), {}))
        with self.assertRaisesRegex(InputError, "Choose a picture"):
            clean_picture(None, 1000)


@override_settings(
    STORAGES={
        "default": {"BACKEND": "django.core.files.storage.InMemoryStorage"},
        "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
    }
)
class AnotherStorage(TestCase):
    """Files go through Django's storage setting: nothing of them lies in a folder of this machine."""

    def test_a_photo_and_a_job_in_a_storage_without_folders(self):
        user = person()
        specimen = campaign(user).specimens.first()
        self.client.force_login(user, backend=BACKEND)
        self.client.post(f"/specimens/{specimen.code}/photo/", {"photo": picture(5000, 4000)})
        answer_job(Job.objects.get())
        photo = Photo.objects.get()
        page = self.client.get(f"/photos/{photo.pk}.jpg")
        with Image.open(io.BytesIO(b"".join(page.streaming_content))) as shown:
            self.assertEqual(shown.size, (2400, 1920))
        default_storage.delete(f"photos/{photo.file}")
        self.assertEqual(self.client.get(f"/photos/{photo.pk}.jpg").status_code, 404)

    def test_kept_and_opened(self):
        name = keep_picture(Image.new("RGB", (8, 8)), "some", "PNG")
        with kept_file("some", name) as file:
            self.assertEqual(file.read(4), b"\x89PNG")
        self.assertIsNone(kept_file("some", "other.png"))
        self.assertIsNone(kept_file("some", ""))
