"""``audit``: are the locked packages known to be unsafe? Asked of the public advisories, where they can be reached."""

import argparse
import json
import subprocess
from typing import Any

from brunt_command import environment
from brunt_command.places import ROOT, VENV

_LOCKS = ("installer", "runtime", "development")


def audit(arguments: list[str]) -> int:
    """Ask for every locked package; ends with 1 where one is known to be unsafe, with 0 where nobody could be asked."""
    parser = argparse.ArgumentParser(prog="./brunt audit", description=audit.__doc__)
    parser.parse_args(arguments)
    environment.ensure(development=True)
    code = 0
    for name in _LOCKS:
        told = judge(_asked(name))
        print(f"{name}: {told[1]}")
        code = max(code, told[0])
    return code


def _asked(name: str) -> str:
    done = subprocess.run(
        [
            str(VENV / "bin" / "pip-audit"),
            *("--disable-pip", "--require-hashes", "--progress-spinner", "off", "--timeout", "5"),
            *("-f", "json", "-r", str(ROOT / "requirements" / f"{name}.txt")),
        ],
        capture_output=True,
        text=True,
        timeout=600,
    )
    return done.stdout


def judge(told: str) -> tuple[int, str]:
    """What the auditor's answer comes to: the exit code and one sentence.

    >>> judge("")
    (0, 'not checked: the advisories cannot be reached from here')
    """
    try:
        rows: list[dict[str, Any]] = json.loads(told)["dependencies"]
    except (ValueError, KeyError, TypeError):
        rows = []
    asked = [r for r in rows if "vulns" in r]
    if not asked:
        return 0, "not checked: the advisories cannot be reached from here"
    unsafe = [r for r in asked if r["vulns"]]
    if not unsafe:
        skipped = f", {len(rows) - len(asked)} not known there" if len(rows) > len(asked) else ""
        return 0, f"{len(asked)} packages, nothing known against them{skipped}"
    words = [
        f"{r['name']} {r['version']}: {', '.join(v['id'] for v in r['vulns'])}"
        + (f"; fixed in {fix}" if (fix := _mended(r)) else "")
        for r in unsafe
    ]
    return 1, f"{len(unsafe)} of {len(asked)} packages are known to be unsafe. " + ". ".join(words)


def _mended(row: dict[str, Any]) -> str:
    return ", ".join(sorted({f for v in row["vulns"] for f in v.get("fix_versions", [])}))
