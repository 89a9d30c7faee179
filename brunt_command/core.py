"""``compute`` and ``mass``: the core without the web. Runs inside the virtual environment."""

import argparse
import json
import sys
from typing import TYPE_CHECKING, Any

from brunt_command.files import dispatch, quantity
from brunt_core.computation import compute
from brunt_core.errors import InputError
from brunt_core.methods.registry import method, methods
from brunt_core.quantities.numbers import read_number
from brunt_core.quantities.rendering import in_unit, render_with_uncertainty, width_in_unit
from brunt_core.specimens.types import specimen_type

if TYPE_CHECKING:
    from brunt_core.specimens.solid import Filling


def run_compute(arguments: list[str]) -> int:
    """Compute one test's results from inputs as typed."""
    parser = argparse.ArgumentParser(prog="./brunt compute", description=run_compute.__doc__)
    parser.add_argument("method", nargs="?")
    parser.add_argument(
        "inputs", nargs="*", metavar="NAME=VALUE", help='e.g. force="2.4 kN" width="10 mm"'
    )
    parser.add_argument("--outcome", default="")
    parser.add_argument("--list", action="store_true", help="list the methods and their inputs")
    parser.add_argument("--json", action="store_true")
    chosen = parser.parse_args(arguments)
    if chosen.list or not chosen.method:
        return _list(chosen.json)
    done = compute(method(chosen.method), dict(map(_split, chosen.inputs)), chosen.outcome)
    record = computation_record(done)
    print(json.dumps(record, ensure_ascii=False, indent=1) if chosen.json else _spoken(record))
    return 0


def _split(pair: str) -> tuple[str, str]:
    name, equals, value = pair.partition("=")
    if not equals:
        raise InputError(f"“{pair}” is not NAME=VALUE.", pair)
    return name.strip().replace("-", "_"), value


def _list(as_json: bool) -> int:
    rows: list[dict[str, Any]] = [
        {
            "method": m.key,
            "name": m.name,
            "inputs": [
                {"name": i.key, "label": i.label, "unit": i.unit, "required": i.required}
                for i in m.inputs
            ],
            "results": [r.property for r in m.results],
            "outcomes": [o.key for o in m.outcomes if o.bound != "void"],
        }
        for m in methods().values()
    ]
    if as_json:
        print(json.dumps(rows, ensure_ascii=False, indent=1))
    else:
        for row in rows:
            print(
                f"{row['method']:<16} {', '.join(i['name'] for i in row['inputs'])}  →  {', '.join(row['results'])}"
            )
    return 0


def computation_record(done: Any) -> dict:
    """A computation as plain data, results in their property's unit."""
    return {
        "method": done.method.key,
        "inputs": {
            k: {
                "typed": r.typed.text,
                **(
                    {"si": r.si, "bound": r.observation.kind, "uncertainty": r.uncertainty}
                    if r.plain
                    else {"rows": [[*row.at, row.value] for row in r.rows]}
                    if r.rows
                    else {"choice": r.word}
                ),
            }
            for k, r in done.readings.items()
        },
        "results": [_result_record(r) for r in done.results],
        "warnings": list(done.warnings),
    }


def _result_record(result: Any) -> dict:
    p, o = result.property, result.observation
    lower, upper = (
        None if x is None else _tidy(in_unit(x, p.dimension, p.unit)) for x in (o.lower, o.upper)
    )
    value = {"exact": lower, "at_least": lower, "at_most": upper}.get(o.kind)
    return {
        "property": p.key,
        "value": value
        if o.kind != "between"
        else _tidy((lower + upper) / 2)
        if lower is not None and upper is not None
        else None,
        "unit": p.unit,
        "bound": o.kind,
        "lower": lower,
        "upper": upper,
        "uncertainty": _tidy(width_in_unit(result.uncertainty, p.dimension, p.unit)),
        "working": result.working,
        "formula": result.formula,
        "source": result.source,
    }


def _tidy(value: float) -> float:
    """Twelve figures: what floating point is good for."""
    return float(f"{value:.12g}")


def _spoken(record: dict) -> str:
    lines = []
    for r in record["results"]:
        value, spread = render_with_uncertainty(r["value"], r["uncertainty"])
        sign = {"at_least": "≥ ", "at_most": "≤ "}.get(r["bound"], "")
        lines += [
            f"{r['property']}  {sign}{value}{f' ± {spread}' if spread else ''} {r['unit']}".strip(),
            *(f"  {s}" for s in r["working"].split("; ")),
            f"  source: {r['source']}",
        ]
    return "\n".join(lines + [f"note: {w}" for w in record["warnings"]])


def run_mass(arguments: list[str]) -> int:
    """What a specimen weighs as it is printed: walls and skins solid, the core filled to a share."""
    parser = argparse.ArgumentParser(prog="./brunt mass", description=run_mass.__doc__)
    parser.add_argument("--type", required=True, metavar="KEY", help="e.g. bend-80")
    parser.add_argument("--density", required=True, help='e.g. "1.24 g/cm^3"')
    parser.add_argument("--orientation", default="flat", help="flat, edge or upright")
    for name, text in (
        ("walls", "0"),
        ("line-width", ""),
        ("layer-height", ""),
        ("top", "0"),
        ("bottom", "0"),
        ("infill", "100 %"),
    ):
        parser.add_argument(f"--{name}", default=text)
    parser.add_argument("--json", action="store_true")
    chosen = parser.parse_args(arguments)
    density = quantity(chosen.density, "density", "g/cm³", "density")
    from brunt_core.specimens.solid import expected_mass

    mass, solid = expected_mass(
        specimen_type(chosen.type), chosen.orientation, _filling(chosen), density
    )
    record = {"mass": _tidy(mass * 1e3), "solid_mass": _tidy(solid * 1e3)}
    said = f"{record['mass']:.4g} g as filled, {record['solid_mass']:.4g} g solid"
    print(json.dumps(record) if chosen.json else said)
    return 0


def _filling(chosen: argparse.Namespace) -> "Filling":
    from brunt_core.specimens.solid import Filling

    infill = quantity(chosen.infill, "ratio", "%", "infill")
    if not 0 <= infill <= 1:
        raise InputError("The infill lies between 0 and 100 %.", "infill")
    counts = {name: _count(getattr(chosen, name), name) for name in ("walls", "top", "bottom")}
    return Filling(
        walls=counts["walls"],
        line_width=_length(chosen.line_width, "line_width"),
        layer_height=_length(chosen.layer_height, "layer_height"),
        top=counts["top"],
        bottom=counts["bottom"],
        infill=infill,
    )


def _count(text: str, name: str) -> int:
    try:
        number = read_number(text)
    except InputError as error:
        raise error.at(name) from None
    if number < 0 or number != int(number) or number > 10_000:
        raise InputError(f"“{text}” is not a whole number of {name}.", name)
    return int(number)


def _length(text: str, name: str) -> float:
    if not text.strip():
        return 0.0
    length = quantity(text, "length", "mm", name)
    if length <= 0:
        raise InputError(f"The {name.replace('_', ' ')} must be more than zero.", name)
    return length


def main() -> int:
    """Entry point: ``python -m brunt_command.core compute|mass …``."""
    return dispatch({"compute": run_compute, "mass": run_mass})


if __name__ == "__main__":
    sys.exit(main())
