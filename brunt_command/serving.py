"""``demo``, ``start``, ``stop`` and ``reset-demo``."""

import argparse
import json
import os
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from brunt_command import (
    beside,
    cluster,
    environment,
    first,
    lesser,
    network,
    places,
    prepared,
    settings,
    staged,
)
from brunt_command.places import PYTHON, ROOT, state
from brunt_command.problem import Problem

_NAMES = {"demo": "demo", "own": "start"}
_CALLED = {"demo": "the demo", "own": "your own workshop"}
_PORTS = {"demo": "8000", "own": "8100"}
# Live instruments are bridged at a port so far above the pages'; it is the other server's for none.
_WIRES = 50
_SAID = {
    "demo": "All its data is invented. ./brunt stop ends it, ./brunt reset-demo starts it afresh.",
    "own": "Your own workshop, kept in {place}. ./brunt stop ends it, ./brunt status says how it stands.",
}


def demo(arguments: list[str]) -> int:
    """Set everything up, load the demo once, serve, and print the address."""
    return _run("demo", arguments, demo.__doc__)


def start(arguments: list[str]) -> int:
    """Serve one's own workshop: its own database, no demo data; asks for the first person's name and password."""
    return _run("own", arguments, start.__doc__)


def _parser(kind: str, about: str | None) -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog=f"./brunt {_NAMES[kind]}", description=about)
    parser.add_argument("--port", type=int, default=int(os.environ.get("BRUNT_PORT", _PORTS[kind])))
    parser.add_argument("--foreground", action="store_true", help="stay attached; Ctrl-C stops")
    parser.add_argument(
        "--host",
        default=os.environ.get("BRUNT_HOST", "127.0.0.1"),
        metavar="ADDRESS",
        help="the address to answer at on the workshop's own network; 0.0.0.0 for every one",
    )
    parser.add_argument(
        "--tls",
        action="store_true",
        default=bool(os.environ.get("BRUNT_TLS")),
        help="answer by https, with a certificate of this workshop's own",
    )
    if kind == "own":
        parser.add_argument("--name", default="", help="the first person's name, not asked then")
        parser.add_argument("--workshop", default="", help="what the workshop is called")
        parser.add_argument(
            "--password-file", default="", metavar="FILE", help="a file with the first password"
        )
    return parser


def _run(kind: str, arguments: list[str], about: str | None) -> int:
    chosen = _parser(kind, about).parse_args(arguments)
    known = running(kind)
    port = chosen.port
    if known:
        if healthy(inner(known)):
            print(
                f"Brunt is already running at {scheme(known)}://127.0.0.1:{known['port']}/ — ./brunt stop ends it."
            )
            return 0
        print("Brunt runs, but its database does not answer: starting both again …", flush=True)
        stop_web(kind)
        port = known["port"]
    _check_port(kind, port, chosen.host)
    environment.ensure()
    environment.compile_own()
    variables = settings.environment(demo=kind == "demo") | network.hosts(chosen.host)
    staged.finish_swap(staged.place_of(variables))
    prepare(variables, demo=kind == "demo")
    _belongs(variables)
    if kind == "own":
        first.ensure_first_person(variables, chosen.name, chosen.workshop, chosen.password_file)
    return _serve(kind, variables, port, chosen.foreground, chosen.host, chosen.tls)


def _belongs(variables: dict[str, str]) -> None:
    """Raise :class:`Problem` on a host that does not share secret and storage with the others on its database."""
    if not variables.get("BRUNT_SHARED"):
        return
    done, reason = _ran(variables, "django", "house")
    if done.returncode:
        raise Problem(f"{reason} Nothing was started.")


def prepare(variables: dict[str, str], demo: bool) -> None:
    """Bring the database and the served files up to date, where they are not."""
    url = variables.get("DATABASE_URL", "")
    if url and prepared.is_prepared(url, demo):
        return
    run_management(variables, "prepare", "--files", *([] if demo else ["--no-demo"]))
    if url:
        prepared.note_prepared(url, demo)


def healthy(port: int) -> bool:
    """Whether the server and its database answer."""
    try:
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/health/", timeout=5) as answer:
            return answer.status == 200
    except (urllib.error.URLError, OSError):
        return False


def stop(arguments: list[str]) -> int:
    """Stop the demo or your own workshop: its servers and its private database."""
    parser = argparse.ArgumentParser(prog="./brunt stop", description=stop.__doc__)
    parser.add_argument("--demo", action="store_true", help="the demo")
    parser.add_argument("--own", action="store_true", help="your own workshop")
    parser.add_argument("--all", action="store_true", help="both")
    chosen = parser.parse_args(arguments)
    up = [k for k in _NAMES if running(k) or cluster.running_server(places.cluster_home(k))]
    asked = [k for k in _NAMES if chosen.all or getattr(chosen, k)]
    if len(up) > 1 and not asked:
        raise Problem(
            "The demo and your own workshop both run: say --demo, --own or --all. Nothing was stopped."
        )
    for kind in asked or up:
        stop_web(kind)
        cluster.stop_cluster(kind)
    ended = [_CALLED[k] for k in up if k in (asked or up)]
    print(f"Stopped: {' and '.join(ended)}." if ended else "Brunt was not running.")
    return 0


def reset_demo(arguments: list[str]) -> int:
    """Throw the demo's own database away and load it again. One's own workshop lies in another."""
    parser = argparse.ArgumentParser(prog="./brunt reset-demo", description=reset_demo.__doc__)
    parser.add_argument("--yes", action="store_true", help="do not ask")
    parser.add_argument(
        "--delete-workshop",
        metavar="NAME",
        default="",
        help="delete this workshop too, which somebody made inside the demo's database",
    )
    chosen = parser.parse_args(arguments)
    if os.environ.get("DATABASE_URL"):
        raise Problem(
            "DATABASE_URL names your own database, which reset-demo will not touch; unset it first."
        )
    environment.ensure()
    variables = settings.environment(demo=True)
    _refuse_others(variables, chosen.delete_workshop)
    if not (chosen.yes or chosen.delete_workshop or _agreed()):
        print("Nothing was changed.")
        return 1
    was = running("demo")
    stop_web("demo")
    place = staged.place_of(variables)
    for before in staged.kept_before(place):
        staged.clear(before)
    with staged.built_beside(place) as new:
        there = new.variables(variables)
        run_management(there, "prepare", "--files")
        run_management(there, "check_pages", quiet=True)
        staged.swap_in(place, datetime.now(UTC))
    prepared.note_prepared(variables["DATABASE_URL"], demo=True)
    print(
        "The demo data is new. What was there is kept until the next reset: ./brunt bring-back --demo"
    )
    return again("demo", was) if was else 0


def _refuse_others(variables: dict[str, str], confirmed: str) -> None:
    """Raise :class:`Problem` when a workshop of somebody's own lies in the demo's database."""
    done, reason = _ran(variables, "django", "own_workshops")
    if done.returncode:
        raise Problem(
            "It cannot be known whether the demo's database holds a workshop of somebody's own "
            f"({reason}). Nothing was changed; bring it up to this version first: ./brunt demo."
        )
    own = [name for name in done.stdout.splitlines() if name and name != confirmed]
    if own:
        raise Problem(
            f"The demo's database also holds a workshop of somebody's own, “{own[0]}”, and resetting would "
            f'delete it; take it out first, or say so: ./brunt reset-demo --delete-workshop "{own[0]}".'
        )


def _agreed() -> bool:
    """Whether the person at the keyboard says yes; where nobody can be asked, no."""
    if not sys.stdin or not sys.stdin.isatty():
        print("Everything entered in the demo would be lost; say --yes to do it without asking.")
        return False
    answer = input("Everything entered in the demo is lost. Load it again? [y/N] ")
    return answer.strip().lower() in ("y", "yes")


def _ran(variables: dict[str, str], *module: str) -> tuple[subprocess.CompletedProcess[str], str]:
    """A module run in Brunt's environment, and the last line it complained with."""
    done = subprocess.run(
        [str(PYTHON), "-m", *module], env=variables, cwd=ROOT, capture_output=True, text=True
    )
    return done, (done.stderr.strip().splitlines() or ["no reason given"])[-1]


def run_management(variables: dict[str, str], *arguments: str, quiet: bool = False) -> None:
    """Run one management command, its failure ending in one sentence; ``quiet`` says nothing else."""
    done = subprocess.run(
        [str(PYTHON), "-m", "django", *arguments],
        env=variables,
        cwd=ROOT,
        stdout=subprocess.DEVNULL if quiet else None,
        stderr=subprocess.PIPE,
        text=True,
    )
    if done.returncode:
        state("manage.log").write_text(done.stderr)
        reason = (done.stderr.strip().splitlines() or ["no reason given"])[-1]
        raise Problem(f"'{arguments[0]}' failed: {reason} (all of it in {state('manage.log')}).")


def server_command(port: int, workers: int = 2, host: str = "127.0.0.1") -> list[str]:
    """The web server's command line, by itself: without the worker, the bridge and the parent."""
    return [
        *(str(PYTHON), "-m", "brunt_web.serve"),
        *("--host", host, "--port", str(port), "--workers", str(workers)),
    ]


def wait_until_up(port: int, process: subprocess.Popen[bytes]) -> None:
    """Return once the health check answers; raise when the server ends or a minute passes."""
    for _ in range(600):
        if process.poll() is not None:
            raise Problem(f"The web server ended at once; its reason is in {state('server.log')}.")
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{port}/health/", timeout=2) as answer:
                if answer.status == 200:
                    return
        except (urllib.error.URLError, OSError):
            time.sleep(0.1)
    raise Problem(f"The web server did not answer within a minute; see {state('server.log')}.")


def again(kind: str, noted: dict[str, Any]) -> int:
    """Serve once more what ran, at the same port and address."""
    where = ["--port", str(noted["port"]), "--host", noted.get("host", "127.0.0.1")]
    return _run(kind, [*where, *(["--tls"] if noted.get("tls") else [])], None)


def inner(noted: dict[str, Any]) -> int:
    """The port at which the web server itself answers on this machine."""
    return int(noted.get("inner") or noted["port"])


def scheme(noted: dict[str, Any]) -> str:
    return "https" if noted.get("tls") else "http"


def _secured(kind: str, host: str) -> tuple[list[str], dict[str, str], int]:
    """What the parent and the web are told where they answer by https, and the port behind it."""
    folder = settings.data(kind) / "tls"
    names = ["localhost", "127.0.0.1", socket.gethostname(), *network.seen_at(host)]
    env = {**os.environ, "PYTHONPATH": str(ROOT)}
    done, reason = _ran(env, "brunt_command.certificate", str(folder), *dict.fromkeys(names))
    if done.returncode:
        raise Problem(f"No certificate could be made: {reason}")
    within = cluster.cluster_port()
    variables = {
        "BRUNT_HTTPS": "1",
        "BRUNT_HSTS": "0",
        "BRUNT_PROXY": "127.0.0.1",
        "BRUNT_BRIDGE_AT": "/bridge",
    }
    return ["--tls", str(folder), "--inner", str(within)], variables, within


def _serve(
    kind: str,
    variables: dict[str, str],
    port: int,
    foreground: bool,
    host: str = "127.0.0.1",
    tls: bool = False,
) -> int:
    wires = beside.free_port(host, port + _WIRES)
    variables = {**variables, "BRUNT_BRIDGE_PORT": str(wires), "PYTHONPATH": str(ROOT)}
    told = ["--kind", kind, "--host", host, "--port", str(port), "--wires", str(wires)]
    within = port
    if tls:
        more, named, within = _secured(kind, host)
        told, variables = [*told, *more], {**variables, **named}
    told += lesser.for_root(kind, variables)
    with open(state("server.log"), "ab") as log:
        process = subprocess.Popen(
            [str(PYTHON), "-m", "brunt_command.parent", *told, "--note", str(_note(kind))],
            env=variables,
            cwd=ROOT,
            stdin=subprocess.DEVNULL,
            stdout=log,
            stderr=log,
            start_new_session=not foreground,
        )
    try:
        wait_until_up(within, process)
    except Problem:
        process.terminate()
        raise
    way = "https" if tls else "http"
    print(f"\n  Brunt is at  {way}://127.0.0.1:{port}/", flush=True)
    network.print_addresses(host, port, way)
    if tls:
        print(
            f"  Give each tablet this file once, as an authority to trust: {settings.data(kind) / 'tls' / 'authority.pem'}"
        )
    print(f"\n  {_SAID[kind].format(place=settings.data(kind))}", flush=True)
    if not foreground:
        return 0
    signal.signal(signal.SIGTERM, lambda number, frame: process.terminate())
    try:
        return process.wait()
    except KeyboardInterrupt:
        process.terminate()
        return process.wait()


def _note(kind: str) -> Path:
    """Where it is noted that the server of this kind runs."""
    return state("server.json") if kind == "demo" else places.data_path("server.json")


def running(kind: str = "demo") -> dict[str, Any] | None:
    """The server's pid and port when it really is ours and alive; a stale note is removed."""
    path = _note(kind)
    try:
        noted = json.loads(path.read_text())
        words = Path(f"/proc/{noted['pid']}/cmdline").read_bytes()
        here = Path(f"/proc/{noted['pid']}/cwd").resolve() == ROOT
        if b"brunt_command.parent" in words and (here or kind == "own"):
            return noted
    except (OSError, ValueError, KeyError):
        pass
    path.unlink(missing_ok=True)
    return None


def stop_web(kind: str) -> bool:
    noted = running(kind)
    if not noted:
        return False
    os.kill(noted["pid"], signal.SIGTERM)
    for _ in range(240):
        if not running(kind):
            return True
        time.sleep(0.05)
    # Its children end with it, however it ends.
    os.kill(noted["pid"], signal.SIGKILL)
    _note(kind).unlink(missing_ok=True)
    return True


def _check_port(kind: str, port: int, host: str = "127.0.0.1") -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except (OSError, OverflowError) as error:
            raise Problem(
                f"Port {port} cannot be used ({error}); choose another: "
                f"./brunt {_NAMES[kind]} --port {port + 1 if port < 65535 else 8001}."
            ) from None
