"""A campaign as a CSV file that can be read again."""

import csv
import io
from typing import Any

from brunt_core.computation.working import bounded_text
from brunt_core.properties import Property
from brunt_core.quantities import in_unit
from brunt_core.quantities.rendering import width_in_unit
from brunt_web.campaigns.models import Campaign, Turn
from brunt_web.interface.templatetags.brunt import drawn_state
from brunt_web.testing.marks import latest, marks_at
from brunt_web.testing.models import Measurement

HEAD = (
    "specimen",
    "condition",
    "polymer family",
    "procedure",
    "comparability key",
    "replicate",
    "test order",
    "state",
    "width [mm]",
    "thickness [mm]",
    "diameter [mm]",
    "load",
    "load lower [N]",
    "load upper [N]",
    "outcome",
    "place",
    "reason",
    "note",
    "measured property",
    "lower bound",
    "upper bound",
    "result unit",
    "standard uncertainty",
    "left out",
    "left out because",
    "tested at",
    "tested by",
    "readings as typed",
    "further results",
    "read at [s]",
    "asked and answered",
    "mode",
    "mass",
    "made",
    "owes",
    "not as planned",
    "tested all the same because",
)


def export_csv(campaign: Campaign) -> str:
    """Every test of every specimen, done or not, one line each; bounds left empty where there are none."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(HEAD)
    turns = _turns(campaign)
    marks = marks_at([t.specimen for t in turns])
    for turn in turns:
        known = latest(marks[turn.specimen_id])
        writer.writerow([_safe(cell) for cell in _line(turn, known)])
    return out.getvalue()


def _turns(campaign: Campaign) -> list[Turn]:
    return list(
        Turn.objects.filter(campaign=campaign)
        .select_related("specimen", "condition__material", "procedure__variant", "test__by")
        .prefetch_related("results", "test__readings")
        .order_by("condition__position", "procedure_id", "specimen__replicate", "step")
    )


def _line(turn: Turn, marks: dict[str, Measurement]) -> list[Any]:
    test = getattr(turn, "test", None)
    sizes = {k: m.value * 1000 for k, m in marks.items() if k != "mass"}
    main = turn.procedure.reading
    read = [r for r in test.readings.all() if r.key == main.key] if test else []
    reading = read[0] if read and main.dimension == "force" else None
    prop = turn.procedure.ranked_property
    result = next((r for r in turn.results.all() if r.property_key == prop.key), None)
    material, specimen = turn.condition.material, turn.specimen
    return [
        turn.code,
        str(turn.condition),
        material.family if material else "",
        turn.procedure.name,
        turn.comparability_key,
        turn.replicate,
        turn.run_order + 1,
        drawn_state(turn),
        *(_number(sizes.get(k)) for k in ("width", "thickness", "diameter")),
        _load_text(reading),
        _number(reading and reading.lower),
        _number(reading and reading.upper),
        test.outcome if test else "",
        test.place if test else "",
        test.reason if test else "",
        test.note if test else "",
        result.property_key if result else "",
        *(_in_unit(prop, x) for x in ((result.lower, result.upper) if result else (None, None))),
        prop.unit if result else "",
        _in_width(prop, result.uncertainty if result else None),
        "yes" if turn.excluded else "",
        turn.excluded_because,
        test.at.isoformat(timespec="seconds") if test else "",
        test.by.get_username() if test else "",
        "; ".join(f"{r.key}: {_load_text(r)}" for r in test.readings.all()) if test else "",
        "; ".join(_further(turn, prop.key)),
        _number(result.at_time if result else None),
        "; ".join(f"{a['asked']} {a['answer']}" for a in test.answers) if test else "",
        test.mode if test else "",
        marks["mass"].text if "mass" in marks else "",
        specimen.made_how,
        "; ".join(o["says"] for o in specimen.owed),
        "; ".join(d["says"] for d in specimen.deviations if d["turn"] in (None, turn.pk)),
        turn.untimely,
    ]


def _further(turn: Turn, ranked: str) -> list[str]:
    """The other properties with their bounds: ``flexural_modulus: 2010 MPa``, ``x: ≥ 3 %``."""
    said = []
    for row in turn.results.all():
        if row.property_key == ranked:
            continue
        prop = turn.procedure.property_called(row.property_key)
        value = bounded_text(row.observation, prop.dimension, prop.unit, 5)
        said.append(f"{row.property_key}: {value}")
    return said


def _load_text(reading: Any) -> str:
    """The load as typed, always with its unit."""
    if reading is None:
        return ""
    return f"{reading.text} {reading.unit}" if reading.unit_assumed else reading.text


def _number(value: float | None) -> str:
    return "" if value is None else f"{value:.10g}"


def _in_unit(prop: Property, value: float | None) -> str:
    return (
        "" if value is None or prop is None else f"{in_unit(value, prop.dimension, prop.unit):.10g}"
    )


def _in_width(prop: Property, value: float | None) -> str:
    """A width in a property's unit: no zero of its scale goes into it."""
    return "" if value is None else f"{width_in_unit(value, prop.dimension, prop.unit):.10g}"


def _safe(cell: Any) -> Any:
    """Text that a spreadsheet would run as a formula is disarmed."""
    return (
        f"'{cell}"
        if isinstance(cell, str) and cell.startswith(("=", "+", "-", "@", "\t"))
        else cell
    )
