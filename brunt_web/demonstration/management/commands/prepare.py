"""``prepare``: bring the database up to date and load the demo, in one process."""

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

from brunt_web.changes.sql import set_up
from brunt_web.library.actions.standard_procedures import ensure_standard_procedures
from brunt_web.people.models import Workshop

_TOO_OLD = (
    "This database is older than this version can bring up to date. Make a package of each workshop "
    "with the version that wrote it, and load the packages here."
)


class Command(BaseCommand):
    """Migrate when something is pending; load the demo once."""

    help = "Bring the database up to date and load the demo once."
    requires_system_checks = ()

    def add_arguments(self, parser: Any) -> None:
        """Whether the demo is wanted."""
        parser.add_argument("--no-demo", action="store_true")
        parser.add_argument(
            "--files", action="store_true", help="gather the files that are served too"
        )

    def handle(self, *args: Any, **options: Any) -> None:
        """Do what is missing and nothing else."""
        if options["files"]:
            call_command("collectstatic", interactive=False, verbosity=0)
        executor = MigrationExecutor(connection)
        if _too_old(executor):
            raise CommandError(_TOO_OLD)
        if executor.migration_plan(executor.loader.graph.leaf_nodes()):
            self._migrate()
            for shop in Workshop.objects.filter(procedures__isnull=True):
                ensure_standard_procedures(shop)
        if not options["no_demo"]:
            call_command("load_demo", stdout=self.stdout)

    def _migrate(self) -> None:
        """Bring the tables up to date; where that fails, changes are written down all the same."""
        try:
            call_command("migrate", interactive=False, verbosity=0)
        except BaseException:
            with connection.cursor() as cursor:
                set_up(cursor)
            raise


def _too_old(executor: MigrationExecutor) -> bool:
    """Whether the database has only some of the earlier migrations that were made one."""
    applied = executor.recorder.applied_migrations()
    for key, migration in executor.loader.disk_migrations.items():
        done = {replaced in applied for replaced in migration.replaces}
        if done == {True, False} and key not in applied:
            return True
    return False
