"""Dispatch of ``./brunt COMMAND``."""

import os
import subprocess
import sys
from collections.abc import Callable
from importlib import import_module

from brunt_command import environment
from brunt_command.places import PYTHON, ROOT
from brunt_command.problem import Problem


def _in(module: str, name: str) -> Callable[[list[str]], int]:
    """A command that runs here; what it needs is loaded when it is called, and for no other."""

    def run(arguments: list[str]) -> int:
        command: Callable[[list[str]], int] = getattr(import_module(module), name)
        return command(arguments)

    return run


def _inside(module: str, *leading: str, development: bool = False) -> Callable[[list[str]], int]:
    """A command that runs inside the virtual environment."""

    def run(arguments: list[str]) -> int:
        environment.ensure(development=development)
        return subprocess.run(
            [str(PYTHON), "-m", module, *leading, *arguments],
            env={**os.environ, "PYTHONPATH": str(ROOT)},
        ).returncode

    return run


def manage(arguments: list[str]) -> int:
    """A management command against one's own database; with ``--demo`` first, the demo's."""
    from brunt_command import serving, settings

    environment.ensure()
    demo = arguments[:1] == ["--demo"]
    variables = settings.environment(demo=demo)
    if not demo:
        serving.run_management(variables, "prepare", "--no-demo")
    return subprocess.run(
        [str(PYTHON), "-m", "django", *arguments[demo:]], cwd=ROOT, env=variables
    ).returncode


def package(arguments: list[str]) -> int:
    """A package out of or into the demo's database, or one's own with ``--own``; checked without any."""
    from brunt_command import serving, settings

    environment.ensure()
    own = "--own" in arguments
    rest = [a for a in arguments if a != "--own"]
    if rest[:1] == ["check"]:
        variables = {**os.environ, "DATABASE_URL": "postgres://nobody@127.0.0.1/none"}
        variables |= {"BRUNT_SECRET_KEY": "only-checked", "DJANGO_SETTINGS_MODULE": "brunt_web.settings"}  # fmt: skip
    else:
        variables = settings.environment(demo=not own)
        serving.run_management(variables, "prepare", *(["--no-demo"] if own else []), quiet=True)
    return subprocess.run(
        [str(PYTHON), "-m", "django", "package", *rest],
        env={**variables, "PYTHONPATH": str(ROOT)},
    ).returncode


COMMANDS: dict[str, tuple[Callable[[list[str]], int], str]] = {
    "demo": (
        _in("brunt_command.serving", "demo"),
        "set up, load the invented demo once, serve, print the address",
    ),
    "start": (
        _in("brunt_command.serving", "start"),
        "serve your own workshop: its own database, no demo data",
    ),
    "status": (
        _in("brunt_command.upkeep", "status"),
        "what runs, where the data lies, when the last good backup was",
    ),
    "backup": (
        _in("brunt_command.backups", "backup"),
        "keep everything of your workshop in one file, proved: ./brunt backup [FILE]",
    ),
    "restore": (
        _in("brunt_command.backups", "restore"),
        "put a kept file in its place: ./brunt restore FILE",
    ),
    "forget": (
        _in("brunt_command.backups", "forget"),
        "delete what a restore, an upgrade or a reset kept beside: ./brunt forget [NAME]",
    ),
    "bring-back": (
        _in("brunt_command.backups", "bring_back"),
        "put back what a restore, an upgrade or a reset replaced: ./brunt bring-back [NAME]",
    ),
    "upgrade": (
        _in("brunt_command.upkeep", "upgrade"),
        "bring your workshop up to this version, with the way back",
    ),
    "service": (
        _in("brunt_command.upkeep", "service"),
        "a systemd unit that serves your workshop from the machine's start",
    ),
    "stop": (_in("brunt_command.serving", "stop"), "stop the servers and the private database"),
    "reset-demo": (
        _in("brunt_command.serving", "reset_demo"),
        "throw the demo's data away, when confirmed, and load it again",
    ),
    "audit": (
        _in("brunt_command.audit", "audit"),
        "ask whether a locked package is known to be unsafe",
    ),
    "test": (_in("brunt_command.testing", "test"), "run the whole test suite"),
    "compute": (
        _inside("brunt_command.core", "compute"),
        'compute one test: ./brunt compute tension force="2.4 kN" width="10 mm" thickness="4 mm"',
    ),
    "rank": (
        _inside("brunt_command.compare", "rank"),
        "rank groups of a CSV: ./brunt rank FILE.csv --group COLUMN --value COLUMN",
    ),
    "fit": (
        _inside("brunt_command.compare", "fit"),
        "fit a distribution, bounds included: ./brunt fit FILE.csv --value COLUMN --distribution weibull",
    ),
    "tolerance": (
        _inside("brunt_command.compare", "tolerance"),
        "what a share of all will hold: ./brunt tolerance FILE.csv --value COLUMN --coverage 0.99",
    ),
    "trend": (
        _inside("brunt_command.compare", "trend"),
        "a property over a setting: ./brunt trend FILE.csv --setting COLUMN --value COLUMN",
    ),
    "effects": (
        _inside("brunt_command.compare", "effects"),
        "two factors or more: ./brunt effects FILE.csv --factor A --factor B --value COLUMN",
    ),
    "mass": (
        _inside("brunt_command.core", "mass"),
        'what a printed specimen weighs: ./brunt mass --type bend-80 --density "1.24 g/cm^3" --walls 3 …',
    ),
    "moisture": (
        _inside("brunt_command.treat", "moisture"),
        'judge weighings over time: ./brunt moisture FILE.csv --dry "12.345 g" --thickness "4 mm"',
    ),
    "soak": (
        _inside("brunt_command.treat", "soak"),
        'when a core reaches its heat: ./brunt soak FILE.csv --set "190 degC" --within "10 K"',
    ),
    "schedule": (
        _inside("brunt_command.treat", "schedule"),
        "place tasks on resources within working hours: ./brunt schedule FILE.json",
    ),
    "size": (
        _inside("brunt_command.decide", "size"),
        'how thick it must be: ./brunt size --mode bending --load "120 N" --span "80 mm" --width "12 mm" --strength "55 MPa"',
    ),
    "gcode": (
        _inside("brunt_command.print", "gcode"),
        "what a G-code file was made with: ./brunt gcode FILE",
    ),
    "mesh": (
        _inside("brunt_command.print", "mesh"),
        "a specimen's mesh: ./brunt mesh --type tension-1ba [--id K7-3HD] --out FILE.stl",
    ),
    "package": (
        package,
        "a campaign as one zip and back: ./brunt package out 2 FILE.zip | in FILE.zip [--as NAME] | check FILE.zip",
    ),
    "particles": (
        _inside("brunt_command.treat", "particles"),
        'count flakes on a picture: ./brunt particles IMAGE --scale "0.05 mm"',
    ),
    "instrument": (
        _inside("brunt_command.instruments.standin"),
        "a simulated instrument on a TCP port: ./brunt instrument load-cell --port 4001",
    ),
    "bench": (_inside("tools.bench.table"), "measure speed and growth, print a table"),
    "endure": (
        _inside("tools.endure.run"),
        "many users at mixed work for an hour: errors, times, memory",
    ),
    "verify": (
        _inside("tools.verify.coverage"),
        "simulate whether intervals and verdicts hold as claimed; some minutes",
    ),
    "screenshots": (
        _inside("tools.screenshots", development=True),
        "take the pictures of the README again from the running demo",
    ),
    "manage": (
        manage,
        "a management command on your own data, e.g. ./brunt manage createsuperuser",
    ),
}


def usage() -> str:
    """One line a command."""
    return "\n".join(
        ["usage: ./brunt COMMAND …", ""]
        + [f"  {name:<12} {text}" for name, (_, text) in COMMANDS.items()]
    )


def _done(name: str, arguments: list[str]) -> int:
    if name in ("help", "-h", "--help"):
        print(usage())
        return 0
    if name not in COMMANDS:
        print(f"brunt: there is no command “{name}”.\n\n{usage()}", file=sys.stderr)
        return 2
    return COMMANDS[name][0](arguments)


def main() -> int:
    """Run one command; a problem is one sentence on stderr."""
    name = sys.argv[1] if len(sys.argv) > 1 else "help"
    try:
        done = _done(name, sys.argv[2:])
        sys.stdout.flush()
        return done
    except BrokenPipeError:
        # Who reads has seen enough (head, less); what is still in the buffer goes nowhere.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 141
    except Problem as problem:
        print(f"brunt: {problem}", file=sys.stderr)
        return problem.code
    except KeyboardInterrupt:
        return 130


if __name__ == "__main__":
    sys.exit(main())
