"""Keeps a backup of one's own workshop every day while it is served."""

import json
import os
import signal
import subprocess
import sys
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path

from brunt_command.places import ROOT, data

EVERY = timedelta(hours=24)
_LOOK = 900.0


def begin() -> None:
    """Start the watch beside the server, once."""
    if running():
        return
    with open(data("watch.log"), "ab") as log:
        process = subprocess.Popen(
            [sys.executable, "-m", "brunt_command.watch"],
            cwd=ROOT,
            env={**os.environ, "PYTHONPATH": str(ROOT)},
            stdin=subprocess.DEVNULL,
            stdout=log,
            stderr=log,
            start_new_session=True,
        )
    data("watch.json").write_text(json.dumps({"pid": process.pid}))


def running() -> int | None:
    """The watch's process, if it runs."""
    try:
        pid = int(json.loads(data("watch.json").read_text())["pid"])
        words = Path(f"/proc/{pid}/cmdline").read_bytes()
    except (OSError, ValueError, KeyError):
        return None
    return pid if b"brunt_command.watch" in words else None


def stop() -> bool:
    """End the watch; true when it ran."""
    pid = running()
    if pid is None:
        return False
    os.kill(pid, signal.SIGTERM)
    return True


def due(last: str | None, now: datetime) -> bool:
    """Whether a day has passed since the last good backup.

    >>> due(None, datetime.now(UTC)), due(datetime.now(UTC).isoformat(), datetime.now(UTC))
    (True, False)
    """
    return last is None or now - datetime.fromisoformat(last) >= EVERY


def main() -> int:
    """Look every quarter of an hour whether a backup is due; a failure is tried again an hour later."""
    from brunt_command import backups, serving, settings
    from brunt_command.problem import Problem

    wait = 60.0
    while True:
        time.sleep(wait)
        wait = _LOOK
        if serving.running("own") is None:
            return 0
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
