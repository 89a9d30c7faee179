"""The virtual environment with the locked dependencies."""

import hashlib
import subprocess
import sys
from pathlib import Path

from brunt_command.places import PYTHON, ROOT, VENV
from brunt_command.problem import Problem

_RUNTIME = ("runtime",)
_DEVELOPMENT = ("runtime", "development")


def ensure(development: bool = False) -> Path:
    """Make or bring up to date the environment; returns its Python."""
    names = _DEVELOPMENT if development else _RUNTIME
    mark = VENV / ".locked"
    installed = mark.read_text().split() if mark.exists() and PYTHON.exists() else []
    if all(_digest(name) in installed for name in names):
        return PYTHON
    _create()
    _synchronise(names)
    mark.write_text("\n".join(_digest(name) for name in names))
    return PYTHON


def compile_own() -> None:
    """Where Python is told to write no bytecode, each process would compile six hundred files again."""
    if sys.dont_write_bytecode:
        packages = (str(ROOT / name) for name in ("brunt_core", "brunt_web", "brunt_command"))
        subprocess.run([str(PYTHON), "-m", "compileall", "-qq", *packages], check=False)


def _lock(name: str) -> Path:
    return ROOT / "requirements" / f"{name}.txt"


def _digest(name: str) -> str:
    return name + ":" + hashlib.sha256(_lock(name).read_bytes()).hexdigest()


def _create() -> None:
    if PYTHON.exists() and (VENV / "bin" / "uv").exists():
        return
    print("Making the Python environment …", file=sys.stderr, flush=True)
    _run(
        [sys.executable, "-m", "venv", "--clear", str(VENV)],
        "The Python environment could not be made; install Debian's python3-venv and try again",
    )
    _run(
        [
            str(PYTHON),
            "-m",
            "pip",
            "install",
            "--quiet",
            "--disable-pip-version-check",
            "--require-hashes",
            "-r",
            str(_lock("installer")),
        ],
        "The package installer could not be fetched; check the network and try again",
    )


def _synchronise(names: tuple[str, ...]) -> None:
    print(
        "Installing locked packages (about a minute the first time) …", file=sys.stderr, flush=True
    )
    _run(
        [
            str(VENV / "bin" / "uv"),
            "pip",
            "sync",
            "--quiet",
            # At once and on every core, also where Python is told to write none: each command is quicker.
            "--compile-bytecode",
            "--python",
            str(PYTHON),
            "--require-hashes",
            *(str(_lock(name)) for name in ("installer", *names)),
        ],
        "The locked packages could not be installed; check the network and the disk, then try again",
    )


def _run(command: list[str], sentence: str) -> None:
    done = subprocess.run(command, capture_output=True, text=True)
    if done.returncode:
        reason = (done.stderr.strip().splitlines() or ["no reason given"])[-1]
        raise Problem(f"{sentence} ({reason}).")
