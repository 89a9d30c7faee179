"""``schedule`` and ``particles``: a plan of tasks, and particles on a picture, without the web."""

import argparse
import io
import json
from typing import Any

import numpy as np
from PIL import Image, UnidentifiedImageError

from brunt_command.files import above_zero, content, spoken, text_of
from brunt_core.errors import InputError
from brunt_core.feedstock.areas import areas_in
from brunt_core.feedstock.particles import Particle, Spread, find_particles, of_areas, spread_of
from brunt_core.scheduling.documents import plan_record, read_problem
from brunt_core.scheduling.solve import SECONDS, plan


def run_schedule(arguments: list[str]) -> int:
    """Place tasks on resources: nothing broken, least late, done earliest."""
    parser = argparse.ArgumentParser(prog="./brunt schedule", description=run_schedule.__doc__)
    parser.add_argument("file", help="JSON with start, hours, resources and tasks")
    parser.add_argument("--seconds", type=float, default=SECONDS, help="to search for the best")
    parser.add_argument("--json", action="store_true")
    chosen = parser.parse_args(arguments)
    if not 0 < chosen.seconds <= 600:
        raise InputError("The seconds to search lie between 0 and 600.", "seconds")
    try:
        document = json.loads(text_of(chosen.file))
    except json.JSONDecodeError as error:
        raise InputError(f"{chosen.file} is no JSON: line {error.lineno}, {error.msg}.") from None
    problem, start = read_problem(document)
    record = plan_record(problem, plan(problem, chosen.seconds), start)
    print(json.dumps(record, ensure_ascii=False, indent=1) if chosen.json else _listed(record))
    return 0


def _listed(record: dict[str, Any]) -> str:
    rows = sorted(record["tasks"], key=lambda t: (t["start"], t["id"]))
    lines = [
        f"{t['start'][:16].replace('T', ' ')}  {t['end'][11:16]}  {t['id']}  {record['why'][t['id']]}"
        for t in rows
    ]
    late = f"late: {', '.join(record['late'])}" if record["late"] else "nothing is late"
    return "\n".join([*lines, late, f"{record['makespan_minutes']} min in all"])


def run_particles(arguments: list[str]) -> int:
    """Count particles on a picture, or of a CSV of areas: areas, and shares too large or too fine."""
    parser = argparse.ArgumentParser(prog="./brunt particles", description=run_particles.__doc__)
    parser.add_argument("image", help="PNG, JPEG or TIFF; or a CSV with a column area")
    parser.add_argument("--scale", help='mm for each pixel, e.g. "0.05 mm"')
    parser.add_argument("--over", default="5 mm", help="longer than the feed throat takes")
    parser.add_argument("--under", default="0.5 mm", help="narrower is too fine")
    parser.add_argument("--json", action="store_true")
    chosen = parser.parse_args(arguments)
    if chosen.image.lower().endswith((".csv", ".txt", ".tsv")):
        found = of_areas(areas_in(text_of(chosen.image)))
    else:
        if not chosen.scale:
            raise InputError("A picture needs its scale: --scale, in mm for each pixel.", "scale")
        scale = above_zero(chosen.scale, "length", "mm", "scale") or 0.0
        found = find_particles(picture_of(content(chosen.image), chosen.image), scale)
    limits = (
        above_zero(chosen.over, "length", "mm", "over"),
        above_zero(chosen.under, "length", "mm", "under"),
    )
    record = particles_record(found, spread_of(found, *limits))
    print(json.dumps(record, ensure_ascii=False, indent=1) if chosen.json else spoken(record))
    return 0


def particles_record(found: list[Particle], spread: Spread) -> dict[str, Any]:
    """Particles as plain data, areas in mm²."""

    def mm2(area: float) -> float:
        return float(f"{area * 1e6:.9g}")

    return {
        "count": spread.count,
        "areas_mm2": {
            "median": mm2(spread.median),
            "p10": mm2(spread.p10),
            "p90": mm2(spread.p90),
            "max": mm2(spread.greatest),
        },
        "share_over": spread.share_over,
        "share_over_area": spread.share_over_area,
        "share_under": spread.share_under,
        "elongation": spread.elongation,
        "cut_by_the_edge": sum(p.cut for p in found),
        "remarks": [],
    }


def picture_of(data: bytes, name: str) -> Any:
    """The grey values of a picture file. Raises :class:`InputError` for what is none."""
    try:
        with Image.open(io.BytesIO(data)) as opened:
            return np.asarray(opened.convert("L"), dtype=float)
    except (UnidentifiedImageError, OSError, ValueError, Image.DecompressionBombError):
        raise InputError(f"{name} is no picture that can be read.", "IMAGE") from None
