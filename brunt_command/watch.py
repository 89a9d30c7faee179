"""Keeps a backup of one's own workshop every day while it is served."""

import sys
import time
from datetime import UTC, datetime, timedelta

EVERY = timedelta(hours=24)
_LOOK = 900.0


def due(last: str | None, now: datetime) -> bool:
    """Whether a day has passed since the last good backup.

    >>> due(None, datetime.now(UTC)), due(datetime.now(UTC).isoformat(), datetime.now(UTC))
    (True, False)
    """
    return last is None or now - datetime.fromisoformat(last) >= EVERY


def main() -> int:
    """Look every quarter of an hour whether a backup is due; a failure is tried again an hour later."""
    from brunt_command import backups, settings
    from brunt_command.problem import Problem

    wait = 60.0
    while True:
        time.sleep(wait)
        wait = _LOOK
        last = backups.last_good("own")
        if not due(last["at"] if last else None, datetime.now(UTC)):
            continue
        try:
            backups.keep("own", settings.environment(demo=False), None)
        except Problem as problem:
            print(f"{datetime.now(UTC).isoformat()} {problem}", flush=True)
            wait = 3600.0


if __name__ == "__main__":
    sys.exit(main())
