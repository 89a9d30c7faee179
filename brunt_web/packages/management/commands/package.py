"""``package``: a campaign or workshop out as one zip, in as a workshop of its own, or only checked."""

import json
import sys
from argparse import ArgumentParser
from pathlib import Path
from typing import IO, Any

from django.core.management.base import BaseCommand

from brunt_core.errors import InputError
from brunt_web.campaigns.models import Campaign
from brunt_web.packages.gathering import Scope
from brunt_web.packages.incoming import read_package
from brunt_web.packages.outgoing import write_package
from brunt_web.packages.store import campaigns_in, store
from brunt_web.people.models import Workshop


class Command(BaseCommand):
    """``package out CAMPAIGN FILE``, ``package in FILE [--as NAME]``, ``package check FILE``."""

    help = "A campaign as one zip of plain tables, and back."
    requires_system_checks = ()

    def add_arguments(self, parser: ArgumentParser) -> None:
        """The three verbs."""
        parser.add_argument("verb", choices=("out", "in", "check"))
        parser.add_argument("names", nargs="+", metavar="CAMPAIGN FILE | FILE")
        parser.add_argument("--as", dest="name", default="", help="what the workshop is called that it is brought into")  # fmt: skip
        parser.add_argument("--workshop", action="store_true", help="out: the whole workshop of that campaign")  # fmt: skip
        parser.add_argument("--json", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        """Do it; a refusal is one sentence and ends with 2."""
        try:
            record = getattr(self, f"_{options['verb']}")(options)
        except InputError as error:
            if options["json"]:
                print(json.dumps({"ok": False, "problem": error.sentence}, ensure_ascii=False))
            print(error.sentence, file=sys.stderr)
            raise SystemExit(2) from None
        if options["json"]:
            print(json.dumps(record, ensure_ascii=False, indent=1))
        else:
            print(record["says"])

    def _out(self, options: dict[str, Any]) -> dict[str, Any]:
        number, path = _two(options["names"])
        campaign = Campaign.objects.select_related("workshop").filter(pk=number).first()
        if campaign is None:
            raise InputError(f"There is no campaign {number}.", "campaign")
        shop, whole = campaign.workshop, options["workshop"]
        campaigns = campaigns_in(shop) if whole else [campaign]
        title = shop.name if whole else campaign.question
        part = Path(f"{path}.part")
        try:
            with part.open("wb") as file:
                write_package(file, shop, campaigns, title, Scope(whole=whole))
            part.replace(path)
        except OSError as error:
            part.unlink(missing_ok=True)
            raise InputError(f"{path} cannot be written: {error.strerror}.", "file") from None
        size, many = Path(path).stat().st_size, "s" if len(campaigns) > 1 else ""
        said = f"{path}: {size} bytes, {len(campaigns)} campaign{many}."
        return {"file": path, "bytes": size, "campaigns": len(campaigns), "says": said}

    def _in(self, options: dict[str, Any]) -> dict[str, Any]:
        package = read_package(_content(_one(options["names"])))
        shop: Workshop = store(package, options["name"])
        made = campaigns_in(shop)
        numbers = [c.pk for c in made]
        words = ", ".join(f"{c.pk} “{c.question}”" for c in made[:5])
        said = (
            f"Imported as workshop “{shop.name}”: campaign {words}. "
            f'Give somebody a seat there to see it: ./brunt manage seat NAME "{shop.name}"'
        )
        return {"workshop": shop.name, "campaigns": numbers, "rows": package.counts, "says": said}

    def _check(self, options: dict[str, Any]) -> dict[str, Any]:
        package = read_package(_content(_one(options["names"])))
        rows = package.counts
        form = package.manifest["brunt"]["format"]
        held = f"{rows.get('specimens', 0)} specimens, {rows.get('results', 0)} results"
        said = f"“{package.title}”: whole, {held}."
        return {"ok": True, "title": package.title, "format": form, "rows": rows, "says": said}


def _two(names: list[str]) -> tuple[int, str]:
    if len(names) != 2 or not names[0].isdecimal() or len(names[0]) > 9:
        raise InputError("Give the campaign's number and a file: package out 2 FILE.zip.", "campaign")  # fmt: skip
    return int(names[0]), names[1]


def _one(names: list[str]) -> str:
    if len(names) != 1:
        raise InputError("Give one file.", "file")
    return names[0]


def _content(path: str) -> IO[bytes]:
    try:
        return Path(path).open("rb")
    except OSError as error:
        raise InputError(f"{path} cannot be read: {error.strerror}.", "file") from None
