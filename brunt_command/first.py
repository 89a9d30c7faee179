"""The first person of one's own workshop: asked for once, when nobody can sign in yet."""

import getpass
import os
import subprocess
import sys
from pathlib import Path

from brunt_command.places import PYTHON, ROOT
from brunt_command.problem import Problem


def ensure_first_person(
    variables: dict[str, str], name: str, workshop: str, password_file: str
) -> None:
    """Make the first person, named on the command line or asked for; nothing where there is somebody.

    Raises :class:`Problem` for a name or password that will not do.
    """
    if _ask(variables, "--known").strip() == "somebody":
        return
    if not name and not (sys.stdin and sys.stdin.isatty()):
        print(
            "Nobody can sign in yet: run ./brunt start at a terminal, or with --name NAME and "
            "--password-file FILE."
        )
        return
    if not name:
        print("\nNobody can sign in yet. Who is the first person? They own the workshop.")
        name = input("  name: ").strip()
        workshop = workshop or input("  what is the workshop called? ").strip()
    _ask(variables, "--name", name, "--workshop", workshop, password=_password(password_file))
    print(f"{name} can sign in now.")


def _password(file: str) -> str:
    if file:
        try:
            return Path(file).read_text().strip()
        except OSError as error:
            raise Problem(f"The password in {file} cannot be read ({error.strerror}).") from None
    if os.environ.get("BRUNT_FIRST_PASSWORD"):
        return os.environ["BRUNT_FIRST_PASSWORD"]
    while True:
        word = getpass.getpass("  password (fifteen characters at least): ")
        if word == getpass.getpass("  once more: "):
            return word
        print("  The two are not the same.")


def _ask(variables: dict[str, str], *arguments: str, password: str = "") -> str:
    done = subprocess.run(
        [str(PYTHON), "-m", "django", "first_person", *arguments],
        env={**variables, "BRUNT_FIRST_PASSWORD": password},
        cwd=ROOT,
        capture_output=True,
        text=True,
    )
    if done.returncode:
        reason = (done.stderr.strip().splitlines() or ["no reason given"])[-1]
        raise Problem(reason.removeprefix("CommandError: "))
    return done.stdout
