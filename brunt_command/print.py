"""``gcode`` and ``mesh``: what a print file says, and a specimen's mesh, without the web."""

import argparse
import io
import json
import sys
from pathlib import Path
from typing import Any

from brunt_command.files import content, dispatch
from brunt_core.errors import InputError
from brunt_core.identifiers import ALPHABET
from brunt_core.printing.gcode import FoundSetting, GcodeFacts, read_gcode
from brunt_core.specimens import mesh
from brunt_core.specimens.types import ORIENTATIONS, specimen_type

# What a recipe's setting is called here.
_CALLED = {"cooling": "fan", "infill_pattern": "pattern"}


def run_gcode(arguments: list[str]) -> int:
    """What a G-code file was made with: settings, print time, filament; each with where it stands."""
    parser = argparse.ArgumentParser(prog="./brunt gcode", description=run_gcode.__doc__)
    parser.add_argument("file", metavar="FILE")
    parser.add_argument("--json", action="store_true")
    chosen = parser.parse_args(arguments)
    lines = io.TextIOWrapper(io.BytesIO(content(chosen.file)), encoding="utf-8", errors="replace")
    record = _record(read_gcode(lines))
    if chosen.json:
        print(json.dumps(record, ensure_ascii=False, indent=1, allow_nan=False))
        return 0
    for name, row in record["settings"].items():
        where = f"  line {row['line']}" if row["line"] else ""
        print(f"{name:22} {row['value']} {row['unit'] or ''}{where}")
    return 0


def _record(facts: GcodeFacts) -> dict[str, Any]:
    found = {_CALLED.get(k, k): _row(f) for k, f in facts.settings.items()}
    if facts.filament_g:
        found["filament_mass"] = _row(facts.filament_g)
    if facts.time:
        found["print_time"] = _row(facts.time)
    return {
        "settings": found,
        "filament_length_m": facts.filament_m,
        "objects": facts.objects,
        "lines": facts.lines,
    }


def _row(found: FoundSetting) -> dict[str, Any]:
    value = found.value
    number = value if isinstance(value, str) or value is None else float(f"{value:.9g}")
    return {"value": number, "unit": found.unit, "line": found.line, "where": found.where}


def _written(text: str) -> str:
    """An ID as it is written on a specimen; its check character is not asked for here."""
    bare = "".join(c for c in text.upper() if c.isalnum())
    if len(bare) != 5 or any(c not in ALPHABET for c in bare):
        raise InputError(f"“{text[:20]}” is no specimen ID, such as K7-3HD.", "id")
    return f"{bare[:2]}-{bare[2:]}"


def run_mesh(arguments: list[str]) -> int:
    """A specimen's mesh in millimetres, with its ID sunk into it where a face is free."""
    parser = argparse.ArgumentParser(prog="./brunt mesh", description=run_mesh.__doc__)
    parser.add_argument("--type", required=True, help="a published specimen type, e.g. tension-1ba")
    parser.add_argument("--id", default="", help="K7-3HD")
    parser.add_argument("--orientation", default="flat", choices=list(ORIENTATIONS))
    parser.add_argument("--out", required=True, metavar="FILE.stl|FILE.3mf")
    parser.add_argument("--json", action="store_true")
    chosen = parser.parse_args(arguments)
    geometry = specimen_type(chosen.type)
    code = _written(chosen.id) if chosen.id else ""
    body = mesh.oriented(mesh.marked(geometry, code) if code else mesh.body(geometry), chosen.orientation)  # fmt: skip
    path = Path(chosen.out)
    kind = path.suffix.lower()
    if kind not in (".stl", ".3mf"):
        raise InputError("The file ends in .stl or .3mf.", "out")
    data = mesh.stl(body) if kind == ".stl" else mesh.three_mf([(code or geometry.name, body, (0, 0))])  # fmt: skip
    try:
        path.write_bytes(data)
    except OSError as error:
        raise InputError(f"{path} cannot be written: {error.strerror}.", "out") from None
    record: dict[str, Any] = {
        "file": str(path),
        "id": code,
        "marked": bool(code) and mesh.has_room(geometry),
        "watertight": bool(body.is_watertight),
        "volume_mm3": round(float(body.volume), 4),
        "size_mm": [round(float(x), 4) for x in body.extents],
    }
    if chosen.json:
        print(json.dumps(record, ensure_ascii=False, indent=1))
    else:
        print(f"{path}: {' × '.join(f'{x:g}' for x in record['size_mm'])} mm")
    return 0


def main() -> int:
    """Entry point: ``python -m brunt_command.print gcode|mesh …``."""
    return dispatch({"gcode": run_gcode, "mesh": run_mesh})


if __name__ == "__main__":
    sys.exit(main())
