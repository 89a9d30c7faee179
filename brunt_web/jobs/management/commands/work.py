"""``work``: the jobs' worker. Runs until it is told to stop, and outlives its database."""

import sys
import time
from datetime import timedelta
from threading import Thread
from typing import Any

from django.core.management.base import BaseCommand
from django.db import OperationalError
from procrastinate.contrib.django import app
from procrastinate.exceptions import ConnectorException
from psycopg import Error

from brunt_web.jobs.supervising import keep_looking, look_after_all, warm_up
from brunt_web.jobs.tasks import QUEUE


class Command(BaseCommand):
    """Take jobs from the queue in PostgreSQL; each is done by a process of its own."""

    help = "Work on jobs until stopped."
    requires_system_checks = ()

    def add_arguments(self, parser: Any) -> None:
        """How many at once."""
        parser.add_argument("--at-once", type=int, default=1)
        parser.add_argument("--until-empty", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        """Work; where the database is gone, wait for it."""
        warm_up()
        if not options["until_empty"]:
            Thread(target=keep_looking, daemon=True).start()
        while True:
            try:
                look_after_all(waited=timedelta(0))
                with app.replace_connector(app.connector.get_worker_connector()) as worker:  # type: ignore[attr-defined]
                    worker.run_worker(
                        queues=[QUEUE],
                        concurrency=options["at_once"],
                        wait=not options["until_empty"],
                        delete_jobs="always",
                        fetch_job_polling_interval=5.0,
                        shutdown_graceful_timeout=1.0,
                    )
                return
            except (ConnectorException, OperationalError, Error) as problem:
                print(f"the database does not answer ({type(problem).__name__}); waiting for it", file=sys.stderr, flush=True)  # fmt: skip
                time.sleep(2)
