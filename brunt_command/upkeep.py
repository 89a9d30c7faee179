"""``status``, ``upgrade`` and ``service``: how it stands, a new version, started with the machine."""

import argparse
import shutil
import sys
from datetime import UTC, datetime
from pathlib import Path

from brunt_command import (
    backups,
    beside,
    cluster,
    environment,
    places,
    serving,
    settings,
    staged,
)
from brunt_command.lesser import HOME, USER, ensure_user
from brunt_command.places import ROOT
from brunt_command.problem import Problem

_UNIT = "/etc/systemd/system/brunt.service"


def status(arguments: list[str]) -> int:
    """Say what runs, where it answers, where its data lies, and when the last good backup was."""
    argparse.ArgumentParser(prog="./brunt status", description=status.__doc__).parse_args(arguments)
    for kind, name in (("own", "your own workshop"), ("demo", "the demo")):
        noted = serving.running(kind)
        if noted is None:
            print(f"{name}: not served")
        else:
            well = (
                "answers"
                if serving.healthy(serving.inner(noted))
                else "runs, but does not answer well"
            )
            print(
                f"{name}: {well} at {serving.scheme(noted)}://127.0.0.1:{noted['port']}/ (process {noted['pid']})"
            )
            works = beside.runs(noted.get("worker"), beside.WORKER)
            print(f"  the worker for large files {'runs' if works else 'is being started again'}")
        home = places.cluster_home("own" if kind == "own" else "demo")
        made = (home / "PG_VERSION").exists()
        runs = "runs" if cluster.running_server(home) else "does not run"
        print(f"  database: {home}, {runs}" if made else "  database: none made yet")
        print(f"  files, secrets, backups: {settings.data(kind)}")
    _say_backup()
    free = shutil.disk_usage(settings.data("own")).free / 1e9
    print(f"free on that disk: {free:.1f} GB")
    return 0


def _say_backup() -> None:
    last = backups.last_good("own")
    if last is None:
        print("last good backup: none yet; ./brunt backup makes one")
        return
    hours = (datetime.now(UTC) - datetime.fromisoformat(last["at"])).total_seconds() / 3600
    daily = (
        "kept daily" if (serving.running("own") or {}).get("watch") else "not kept by itself now"
    )
    print(f"last good backup: {last['at'][:16].replace('T', ' ')} UTC, {hours:.0f} h ago, {last['rows']} rows, {daily}")  # fmt: skip
    print(f"  {last['file']}")
    if last.get("second"):
        print(f"  also in {last['second']}" if not last.get("problem") else f"  NOT in {last['second']}: {last['problem']}")  # fmt: skip


def upgrade(arguments: list[str]) -> int:
    """Bring one's own workshop up to this version: backup first, migrate, check, back to before on failure."""
    parser = argparse.ArgumentParser(prog="./brunt upgrade", description=upgrade.__doc__)
    parser.parse_args(arguments)
    environment.ensure()
    variables = settings.environment(demo=False)
    was = serving.running("own")
    print("Keeping what is there …", flush=True)
    kept = backups.keep("own", variables, None)
    print(f"It is in {kept['file']}. Bringing it up to this version …", flush=True)
    serving.stop_web("own")
    place = staged.place_of(variables)
    try:
        with (
            staged.built_beside(place) as new,
            backups.unpacked(Path(kept["file"])) as (manifest, folder),
        ):
            there = new.variables(variables)
            backups.restore_into(there, manifest, folder)
            serving.run_management(there, "prepare", "--no-demo", quiet=True)
            serving.run_management(
                there, "check", "--deploy", "--fail-level", "CRITICAL", quiet=True
            )
            serving.run_management(there, "migrate", "--check", quiet=True)
            serving.run_management(there, "check_pages", quiet=True)
            staged.swap_in(place, datetime.now(UTC))
    except Problem as problem:
        raise Problem(
            f"The upgrade failed and everything is as it was before: {problem} Go back to the version you "
            "had, start it, and tell its developers."
        ) from None
    print("Everything is at this version.")
    backups.say_kept(place)
    return serving.again("own", was) if was else 0


def service(arguments: list[str]) -> int:
    """Write a systemd unit that serves one's own workshop from the start of the machine, under a user of its own."""
    parser = argparse.ArgumentParser(prog="./brunt service", description=service.__doc__)
    parser.add_argument("--write", metavar="FILE", help=f"write it there, usually {_UNIT}")
    parser.add_argument("--host", default="127.0.0.1")
    parser.add_argument("--port", type=int, default=8100)
    parser.add_argument("--user", default=USER, help=f"who it runs as; {USER} is made when missing")
    chosen = parser.parse_args(arguments)
    text = unit(chosen.user, chosen.host, chosen.port)
    if not chosen.write:
        print(text)
        print(f"# Write it: ./brunt service --write {_UNIT}", file=sys.stderr)
        return 0
    environment.ensure()
    try:
        Path(chosen.write).write_text(text)
    except OSError as error:
        raise Problem(f"{chosen.write} cannot be written ({error.strerror}); run this as an administrator.") from None  # fmt: skip
    ensure_user(chosen.user)
    print(
        f"Written to {chosen.write}. Now, as an administrator:\n"
        "  systemctl daemon-reload\n  systemctl enable --now brunt\n"
        f"It runs as the user {chosen.user}, may write only below {HOME}, starts with the machine, is started again\n"
        "when it ends, and keeps a backup every day. The first person: sudo -u "
        f"{chosen.user} BRUNT_DATA={HOME} BRUNT_STATE={HOME}/state {ROOT}/brunt start\n"
        "journalctl -u brunt shows what it says; systemctl disable --now brunt takes it back."
    )
    return 0


def unit(user: str, host: str, port: int) -> str:
    """The systemd unit's text: nothing but its own data may be written, no rights may be gained."""
    return (
        "[Unit]\nDescription=Brunt, a workshop's strength tests\nAfter=network-online.target\n"
        "Wants=network-online.target\n\n"
        f"[Service]\nType=simple\nUser={user}\nStateDirectory={Path(HOME).name}\nStateDirectoryMode=0700\n"
        f"WorkingDirectory={ROOT}\nEnvironment=BRUNT_DATA={HOME} BRUNT_STATE={HOME}/state HOME={HOME}\n"
        f"ExecStart={ROOT}/brunt start --foreground --host {host} --port {port}\n"
        "Restart=always\nRestartSec=5\nTimeoutStopSec=60\nUMask=0077\n"
        "NoNewPrivileges=true\nProtectSystem=strict\nProtectHome=read-only\nPrivateTmp=true\n"
        "ProtectKernelTunables=true\nProtectControlGroups=true\nRestrictSUIDSGID=true\n"
        f"ReadWritePaths={HOME}\n\n"
        "[Install]\nWantedBy=multi-user.target\n"
    )
