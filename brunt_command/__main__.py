"""Dispatch of ``./brunt COMMAND``."""

import os
import subprocess
import sys
from collections.abc import Callable

from brunt_command import environment, serving, settings, testing
from brunt_command.places import PYTHON, ROOT
from brunt_command.problem import Problem


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
    """Any management command of the web application, against the demo's database."""
    environment.ensure()
    return subprocess.run(
        [str(PYTHON), "-m", "django", *arguments], cwd=ROOT, env=settings.environment(demo=True)
    ).returncode


COMMANDS: dict[str, tuple[Callable[[list[str]], int], str]] = {
    "demo": (serving.demo, "set up, load the invented demo once, serve, print the address"),
    "stop": (serving.stop, "stop the server and the private database"),
    "reset-demo": (serving.reset_demo, "throw the demo's data away and load it anew"),
    "test": (testing.test, "run the whole test suite"),
    "compute": (
        _inside("brunt_command.core", "compute"),
        'compute one test: ./brunt compute tension force="2.4 kN" width="10 mm" thickness="4 mm"',
    ),
    "rank": (
        _inside("brunt_command.core", "rank"),
        "rank groups of a CSV: ./brunt rank FILE.csv --group COLUMN --value COLUMN",
    ),
    "bench": (_inside("brunt_command.bench"), "measure speed and growth, print a table"),
    "screenshots": (
        _inside("brunt_command.screenshots", development=True),
        "take the pictures of the README anew from the running demo",
    ),
    "manage": (manage, "a management command, e.g. ./brunt manage createsuperuser"),
}


def usage() -> str:
    """One line a command."""
    return "\n".join(
        ["usage: ./brunt COMMAND …", ""]
        + [f"  {name:<12} {text}" for name, (_, text) in COMMANDS.items()]
    )


def main() -> int:
    """Run one command; a problem is one sentence on stderr."""
    name = sys.argv[1] if len(sys.argv) > 1 else "help"
    if name in ("help", "-h", "--help"):
        print(usage())
        return 0
    if name not in COMMANDS:
        print(f"brunt: there is no command “{name}”.\n\n{usage()}", file=sys.stderr)
        return 2
    try:
        return COMMANDS[name][0](sys.argv[2:])
    except Problem as problem:
        print(f"brunt: {problem}", file=sys.stderr)
        return problem.code
    except KeyboardInterrupt:
        return 130


if __name__ == "__main__":
    sys.exit(main())
