"""``moisture``, ``soak``, ``schedule`` and ``particles``: the core without the web."""

import argparse
import json
import sys
from typing import Any

from brunt_command.files import above_zero, dispatch, quantity, spoken, text_of
from brunt_command.plan_and_picture import run_particles, run_schedule
from brunt_core.errors import InputError
from brunt_core.quantities import parse
from brunt_core.treatments.diffusion import Weighing
from brunt_core.treatments.logs import read_log
from brunt_core.treatments.moisture import Moisture, moisture
from brunt_core.treatments.soak import Approach, CoreReading, approach

_MASSES = ("mass", "weight", "m", "masse", "gewicht", "poids", "peso")
_CORES = ("core", "temperature", "core temperature", "temp", "kern", "kerntemperatur")


def run_moisture(arguments: list[str]) -> int:
    """Judge weighings over time: settled or not, where they end, how fast water moves."""
    parser = argparse.ArgumentParser(prog="./brunt moisture", description=run_moisture.__doc__)
    parser.add_argument("file", help="CSV with columns time and mass, units in the head")
    parser.add_argument("--dry", help='mass when dry, e.g. "12.345 g"')
    parser.add_argument("--thickness", help='of the part, e.g. "4 mm"')
    parser.add_argument("--rate", default="0.01", help="settled below so many per cent a day")
    parser.add_argument("--over", default="24 h", help="judged over so long")
    parser.add_argument("--json", action="store_true")
    chosen = parser.parse_args(arguments)
    log = read_log(text_of(chosen.file), _MASSES, "mass", "g", "h")
    found = moisture(
        [Weighing(r.time, r.value) for r in log.rows],
        above_zero(chosen.dry, "mass", "g", "dry"),
        above_zero(chosen.thickness, "length", "mm", "thickness"),
        (above_zero(chosen.rate, "ratio", "%", "rate") or 0.0) / 86400,
        above_zero(chosen.over, "time", "h", "over") or 0.0,
    )
    record = moisture_record(found, log.remarks)
    print(json.dumps(record, ensure_ascii=False, indent=1) if chosen.json else spoken(record))
    return 0


def moisture_record(found: Moisture, remarks: tuple[str, ...] = ()) -> dict[str, Any]:
    """What the weighings come to, as plain data: hours, per cent, m²/s."""
    end = found.equilibrium or (None, None, None)
    fit = found.fit
    return {
        "settled": found.settled.settled,
        "settled_at_hours": _hours(found.settled.at),
        "equilibrium_percent": _percent(end[0]),
        "equilibrium_low": _percent(end[1]),
        "equilibrium_high": _percent(end[2]),
        "half_time_hours": _hours(fit.half_time if fit else None),
        "diffusivity_m2_per_s": found.diffusivity,
        "predicted_settling_hours": _hours(found.settles),
        "remarks": [*found.remarks, *remarks],
    }


def run_soak(arguments: list[str]) -> int:
    """Foresee when the core of a pack comes near the set point of its oven, counted from the first row."""
    parser = argparse.ArgumentParser(prog="./brunt soak", description=run_soak.__doc__)
    parser.add_argument("file", help="CSV with columns time and core, units in the head")
    parser.add_argument("--set", required=True, dest="target", help='e.g. "210 degC"')
    parser.add_argument("--within", default="10 K", help='how near is near enough, e.g. "10 K"')
    parser.add_argument("--json", action="store_true")
    chosen = parser.parse_args(arguments)
    log = read_log(text_of(chosen.file), _CORES, "temperature", "°C", "min")
    target = quantity(chosen.target, "temperature", "°C", "set")
    # The oven's time begins with the first row, whatever its clock showed then.
    begun = log.rows[0].time if log.rows else 0.0
    rows = [CoreReading(r.time - begun, r.value) for r in log.rows]
    found = approach(rows, target, _difference(chosen.within))
    record = soak_record(found, log.remarks)
    print(json.dumps(record, ensure_ascii=False, indent=1) if chosen.json else spoken(record))
    return 0


def soak_record(found: Approach, remarks: tuple[str, ...] = ()) -> dict[str, Any]:
    """When the core gets there, as plain data in minutes."""
    return {
        "reached": found.reached,
        "at_minutes": _minutes(found.at),
        "low": _minutes(found.low),
        "high": _minutes(found.high),
        "time_constant_minutes": _minutes(found.time_constant),
        "remarks": [*([found.remark] if found.remark else []), *remarks],
    }


def _difference(text: str) -> float:
    """A difference of temperatures in K: a kelvin and a degree Celsius are one, a °F is 5/9."""
    tidy = text.strip().replace("deg", "°").replace("° ", "°")
    for unit, factor in (("K", 1.0), ("°C", 1.0), ("C", 1.0), ("°F", 5 / 9), ("F", 5 / 9)):
        if tidy.endswith(unit):
            return _number(tidy[: -len(unit)], text) * factor
    return _number(tidy, text)


def _number(text: str, typed: str) -> float:
    try:
        value = parse(text, "number", "").si
    except InputError:
        raise InputError(f"“{typed}” is not a difference of temperatures, as 10 K.") from None
    if value <= 0:
        raise InputError("The gap must be more than zero.", "within")
    return value


def _hours(seconds: float | None) -> float | None:
    return None if seconds is None else float(f"{seconds / 3600:.9g}")


def _minutes(seconds: float | None) -> float | None:
    return None if seconds is None else float(f"{seconds / 60:.9g}")


def _percent(share: float | None) -> float | None:
    return None if share is None else float(f"{share * 100:.9g}")


RUNS = {
    "moisture": run_moisture,
    "soak": run_soak,
    "schedule": run_schedule,
    "particles": run_particles,
}


def main() -> int:
    """Entry point: ``python -m brunt_command.treat moisture|soak|schedule|particles …``."""
    return dispatch(RUNS)


if __name__ == "__main__":
    sys.exit(main())
