"""``size``: how thick it must be, without the web. Runs inside the virtual environment."""

import argparse
import json
import sys
from typing import Any

from brunt_command.files import dispatch, quantity
from brunt_core.decisions.sizing import MODES, Case, Sized, size
from brunt_core.errors import InputError
from brunt_core.quantities.numbers import read_number

_LENGTHS = ("span", "arm", "width")


def run_size(arguments: list[str]) -> int:
    """How thick a part must be to carry a load, by strength and by stiffness."""
    parser = argparse.ArgumentParser(prog="./brunt size", description=run_size.__doc__)
    parser.add_argument("--mode", required=True, choices=list(MODES))
    parser.add_argument("--load", required=True, help='"120 N"; a torque for torsion, or a force with --arm')  # fmt: skip
    for name in _LENGTHS:
        parser.add_argument(f"--{name}", help="a length; without a width it is a round bar")
    parser.add_argument("--strength", required=True, help='"55 MPa"')
    parser.add_argument("--modulus", help='"2.4 GPa"; G for torsion')
    parser.add_argument("--sag", help='"1 mm"; an angle for torsion')
    parser.add_argument("--factor", default="1", help="safety factor, 1 or more")
    parser.add_argument("--planes", type=int, default=2, help="planes a pin is sheared in: 2 (as tested here) or 1")  # fmt: skip
    parser.add_argument("--json", action="store_true")
    chosen = parser.parse_args(arguments)
    case, found = _sized(chosen)
    record = _record(case, found)
    print(json.dumps(record, ensure_ascii=False, indent=1) if chosen.json else _spoken(record))
    return 0


def _sized(chosen: argparse.Namespace) -> tuple[Case, Sized]:
    lengths = {
        n: quantity(getattr(chosen, n), "length", "mm", n) for n in _LENGTHS if getattr(chosen, n)
    }
    case = Case(chosen.mode, _load(chosen, lengths), planes=chosen.planes, **lengths)
    stiff = {}
    if chosen.modulus:
        stiff["modulus"] = quantity(chosen.modulus, "stress", "MPa", "modulus")
    if chosen.sag:
        dimension, unit = ("angle", "°") if chosen.mode == "torsion" else ("length", "mm")
        stiff["sag"] = quantity(chosen.sag, dimension, unit, "sag")
    try:
        factor = read_number(chosen.factor)
    except InputError as error:
        raise error.at("factor") from None
    return case, size(case, quantity(chosen.strength, "stress", "MPa", "strength"), factor, **stiff)


def _load(chosen: argparse.Namespace, lengths: dict[str, float]) -> float:
    if chosen.mode != "torsion":
        return quantity(chosen.load, "force", "N", "load")
    try:
        return quantity(chosen.load, "torque", "N·m", "load")
    except InputError:
        if "arm" not in lengths:
            raise
        return quantity(chosen.load, "force", "N", "load") * lengths["arm"]


def _record(case: Case, found: Sized) -> dict[str, Any]:
    stiff = found.by_stiffness
    return {
        "mode": case.mode,
        found.dimension: _mm(found.value),
        "unit": "mm",
        "ruled_by": found.ruled_by,
        "from_strength": _mm(found.by_strength),
        "from_stiffness": None if stiff is None else _mm(stiff),
        "allowed_stress_mpa": float(f"{found.allowed / 1e6:.12g}"),
        **({"planes": case.planes} if case.mode == "shear" else {}),
        "formula": MODES[case.mode].strip if case.width else MODES[case.mode].round,
        "remarks": list(found.remarks),
        "advice": "Advice on tested specimens only; not for lifting, life-safety or pressure parts.",
    }


def _mm(value: float) -> float:
    return float(f"{value * 1e3:.12g}")


def _spoken(record: dict[str, Any]) -> str:
    word = "thickness" if "thickness" in record else "diameter"
    said = [f"{word} {record[word]:.4g} mm, ruled by {record['ruled_by']} ({record['formula']})"]
    if record["from_stiffness"] is not None:
        said.append(f"by strength {record['from_strength']:.4g} mm, by stiffness {record['from_stiffness']:.4g} mm")  # fmt: skip
    return "\n".join([*said, *record["remarks"], record["advice"]])


def main() -> int:
    """Entry point: ``python -m brunt_command.decide size …``."""
    return dispatch({"size": run_size})


if __name__ == "__main__":
    sys.exit(main())
