"""``demo``, ``stop`` and ``reset-demo``."""

import argparse
import json
import os
import signal
import socket
import subprocess
import time
import urllib.error
import urllib.request
from pathlib import Path

from brunt_command import cluster, environment, settings
from brunt_command.places import PYTHON, ROOT, state
from brunt_command.problem import Problem


def demo(arguments: list[str]) -> int:
    """Set everything up, load the demo once, serve, and print the address."""
    parser = argparse.ArgumentParser(prog="./brunt demo", description=demo.__doc__)
    parser.add_argument("--port", type=int, default=int(os.environ.get("BRUNT_PORT", "8000")))
    parser.add_argument("--foreground", action="store_true", help="stay attached; Ctrl-C stops")
    chosen = parser.parse_args(arguments)
    known = _running()
    if known:
        print(
            f"Brunt is already running at http://127.0.0.1:{known['port']}/ — ./brunt stop ends it."
        )
        return 0
    _check_port(chosen.port)
    environment.ensure()
    variables = settings.environment(demo=True)
    manage(variables, "prepare")
    return _serve(variables, chosen.port, chosen.foreground)


def stop(arguments: list[str]) -> int:
    """Stop the web server and the private database."""
    argparse.ArgumentParser(prog="./brunt stop", description=stop.__doc__).parse_args(arguments)
    web, database = _stop_web(), cluster.stop("demo")
    print("Brunt has stopped." if web or database else "Brunt was not running.")
    return 0


def reset_demo(arguments: list[str]) -> int:
    """Throw the demo's data away and load it anew; everything entered in it is lost."""
    argparse.ArgumentParser(prog="./brunt reset-demo", description=reset_demo.__doc__).parse_args(
        arguments
    )
    if os.environ.get("DATABASE_URL"):
        raise Problem(
            "DATABASE_URL names your own database, which reset-demo will not touch; unset it first."
        )
    was = _running()
    _stop_web()
    cluster.remove("demo")
    if was:
        return demo(["--port", str(was["port"])])
    environment.ensure()
    variables = settings.environment(demo=True)
    manage(variables, "prepare")
    print("The demo data is new. ./brunt demo starts it.")
    return 0


def manage(variables: dict[str, str], *arguments: str) -> None:
    """Run one management command, its failure ending in one sentence."""
    done = subprocess.run(
        [str(PYTHON), "-m", "django", *arguments],
        env=variables,
        cwd=ROOT,
        stderr=subprocess.PIPE,
        text=True,
    )
    if done.returncode:
        state("manage.log").write_text(done.stderr)
        reason = (done.stderr.strip().splitlines() or ["no reason given"])[-1]
        raise Problem(f"'{arguments[0]}' failed: {reason} (all of it in {state('manage.log')}).")


def server_command(port: int, workers: int = 2) -> list[str]:
    """The web server's command line."""
    return [
        str(PYTHON),
        "-m",
        "gunicorn",
        "brunt_web.wsgi",
        "--bind",
        f"127.0.0.1:{port}",
        "--workers",
        str(workers),
        "--threads",
        "4",
        "--preload",
        "--graceful-timeout",
        "3",
        "--log-level",
        "warning",
        "--access-logfile",
        "/dev/null",
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


def _serve(variables: dict[str, str], port: int, foreground: bool) -> int:
    log = open(state("server.log"), "ab")
    process = subprocess.Popen(
        server_command(port),
        env=variables,
        cwd=ROOT,
        stdin=subprocess.DEVNULL,
        stdout=log,
        stderr=log,
        start_new_session=not foreground,
    )
    wait_until_up(port, process)
    state("server.json").write_text(json.dumps({"pid": process.pid, "port": port}))
    print(
        f"\n  Brunt is at  http://127.0.0.1:{port}/\n\n"
        "  All its data is invented. ./brunt stop ends it, ./brunt reset-demo starts it afresh.",
        flush=True,
    )
    if not foreground:
        return 0
    try:
        return process.wait()
    except KeyboardInterrupt:
        _stop_web()
        return 0


def _running() -> dict[str, int] | None:
    """The server's pid and port when it really is ours and alive; a stale note is removed."""
    path = state("server.json")
    try:
        noted = json.loads(path.read_text())
        words = Path(f"/proc/{noted['pid']}/cmdline").read_bytes()
        if b"brunt_web.wsgi" in words and Path(f"/proc/{noted['pid']}/cwd").resolve() == ROOT:
            return noted
    except (OSError, ValueError, KeyError):
        pass
    path.unlink(missing_ok=True)
    return None


def _stop_web() -> bool:
    noted = _running()
    if not noted:
        return False
    os.kill(noted["pid"], signal.SIGTERM)
    for _ in range(160):
        if not _running():
            return True
        time.sleep(0.05)
    os.kill(noted["pid"], signal.SIGKILL)
    state("server.json").unlink(missing_ok=True)
    return True


def _check_port(port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except (OSError, OverflowError) as error:
            raise Problem(
                f"Port {port} cannot be used ({error}); choose another: ./brunt demo --port {port + 1 if port < 65535 else 8001}."
            ) from None
