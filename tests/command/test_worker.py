"""The jobs' worker as a process: killed in the middle, stopped, out of memory, without its database; never twice."""

import io
import os
import signal
import subprocess
import time
import urllib.parse
from tempfile import TemporaryDirectory

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import TransactionTestCase, override_settings, tag
from PIL import Image

from brunt_command.places import PYTHON, ROOT
from brunt_web.jobs.models import CANCELLED, DONE, REFUSED, RUNNING, WAITING, Job
from brunt_web.testing.models import Photo, Test
from tests.support.workshop import BACKEND, campaign, person

HEAD = "condition;procedure;load;width;thickness\n"
# A job whose worker died is taken up by another within a minute.
PATIENCE = 60


def children_of(pid):
    """Every process below one, the deepest last."""
    found = []
    for path in os.listdir("/proc"):
        if path.isdigit():
            try:
                with open(f"/proc/{path}/stat") as file:
                    parent = int(file.read().rpartition(")")[2].split()[1])
            except (OSError, ValueError):
                continue
            if parent == pid:
                found += [int(path), *children_of(int(path))]
    return found


@tag("long")
class Worker(TransactionTestCase):
    def setUp(self):
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        media = override_settings(MEDIA_ROOT=folder.name)
        media.enable()
        self.addCleanup(media.disable)
        parts = connection.settings_dict
        url = urllib.parse.urlsplit(os.environ["DATABASE_URL"])._replace(path=f"/{parts['NAME']}")
        self.variables = {
            **os.environ,
            "DATABASE_URL": url.geturl(),
            "BRUNT_TESTING": "1",
            "BRUNT_MEDIA": folder.name,
            "OPENBLAS_NUM_THREADS": "1",
        }
        self.user = person()
        self.one = campaign(self.user)
        self.client.force_login(self.user, backend=BACKEND)
        self.log = open(os.path.join(folder.name, "worker.log"), "w+b")
        self.addCleanup(self.log.close)

    def worker(self, **variables):
        process = subprocess.Popen(
            [str(PYTHON), "-m", "django", "work"],
            cwd=ROOT,
            env=self.variables | variables,
            stdout=self.log,
            stderr=self.log,
            start_new_session=True,
        )
        self.addCleanup(self.stop, process)
        return process

    def stop(self, process, how=signal.SIGKILL):
        if process.poll() is None:
            os.kill(process.pid, how)
            process.wait(20)

    def until(self, what, sentence):
        until = time.monotonic() + PATIENCE
        while time.monotonic() < until:
            if found := what():
                return found
            time.sleep(0.1)
        self.log.seek(0)
        raise AssertionError(f"{sentence}: {Job.objects.values('state', 'words', 'attempts', 'done')} {self.log.read()[-3000:]}")  # fmt: skip

    def rows(self, count):
        text = HEAD + "Fernhall PLA;flat;58.4 kgf;5 mm;2 mm\n" * count
        text += "\n" * 40_001
        self.client.post(f"/campaigns/{self.one.pk}/import-data/store/", {"text": text})
        return Job.objects.get()

    def state(self, *wanted):
        return self.until(lambda: Job.objects.filter(state__in=wanted).first(), f"never {wanted}")

    def storing(self):
        return self.until(lambda: Job.objects.filter(unit="rows imported", done__gt=3).first(), "never storing")  # fmt: skip

    def test_killed_in_the_middle_it_is_done_once_all_the_same(self):
        self.rows(250)
        worker = self.worker()
        self.storing()
        deepest = children_of(worker.pid)[-1]
        os.kill(deepest, signal.SIGKILL)
        done = self.state(DONE)
        self.assertEqual((Test.objects.count(), done.attempts), (250, 2))
        self.assertGreater(self.until(lambda: Job.objects.get().peak_mb, "no peak"), 30)
        self.assertEqual(self.client.get(f"/jobs/{done.pk}/").status_code, 302)

    def test_stopped_with_the_server_it_goes_on_with_the_next(self):
        self.rows(200)
        worker = self.worker()
        self.storing()
        below = children_of(worker.pid)
        self.stop(worker, signal.SIGTERM)
        self.assertEqual((Job.objects.get().state, Test.objects.count()), (WAITING, 0))
        self.until(
            lambda: not [p for p in below if os.path.exists(f"/proc/{p}")], "a process is left"
        )
        self.worker()
        self.state(DONE)
        self.assertEqual(Test.objects.count(), 200)

    def test_cancelled_while_it_works(self):
        job = self.rows(600)
        self.worker()
        self.storing()
        begun = time.monotonic()
        self.client.post(f"/jobs/{job.pk}/cancel/")
        self.state(CANCELLED)
        self.assertLess(time.monotonic() - begun, 8)
        self.assertEqual(Test.objects.count(), 0)

    def test_a_bound_on_memory_ends_in_one_sentence(self):
        out = io.BytesIO()
        Image.new("RGB", (7700, 7700)).save(out, "PNG", compress_level=1)
        file = SimpleUploadedFile("large.png", out.getvalue())
        code = self.one.specimens.first().code
        self.client.post(f"/specimens/{code}/photo/", {"photo": file})
        self.worker(BRUNT_JOB_MEMORY_MB="230")
        self.assertIn("memory", self.state(REFUSED, DONE).words)
        self.assertEqual(Photo.objects.count(), 0)

    def test_its_links_to_the_database_cut_it_goes_on(self):
        self.rows(300)
        self.worker()
        self.storing()
        with connection.cursor() as cursor:
            cursor.execute(
                "SELECT pg_terminate_backend(pid) FROM pg_stat_activity "
                "WHERE datname = current_database() AND pid <> pg_backend_pid()"
            )
        self.state(RUNNING, WAITING)
        self.state(DONE)
        self.assertEqual(Test.objects.count(), 300)
