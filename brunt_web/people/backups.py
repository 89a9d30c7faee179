"""What is noted of the last backup that was proved."""

import json
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path

from django.conf import settings
from django.utils.dateparse import parse_datetime

_LATE = timedelta(days=2)


@dataclass(frozen=True)
class LastBackup:
    """When the last backup was proved, how many rows it holds, and what went wrong with its copy elsewhere."""

    at: datetime | None = None
    rows: int = 0
    problem: str = ""

    def late(self, now: datetime) -> bool:
        """Whether there is none, or the last is more than two days old."""
        return self.at is None or now - self.at > _LATE


def last_backup() -> LastBackup:
    """As the command that keeps backups wrote it down; nothing where it kept none."""
    try:
        found = json.loads((Path(settings.KEPT or "") / "last-backup.json").read_text())
        return LastBackup(
            parse_datetime(str(found["at"])), int(found["rows"]), str(found.get("problem", ""))
        )
    except (OSError, ValueError, KeyError, TypeError):
        return LastBackup()
