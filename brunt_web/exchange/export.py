"""A campaign as a CSV file that can be read again."""

import csv
import io

from brunt_core.computation.working import bounded_text
from brunt_core.quantities import in_unit
from brunt_web.campaigns.models import Campaign, Specimen
from brunt_web.campaigns.queries import state_of

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
)


def export_csv(campaign: Campaign) -> str:
    """Every specimen, tested or not, one line each; bounds left empty where there are none."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(HEAD)
    for specimen in _specimens(campaign):
        writer.writerow([_safe(cell) for cell in _line(specimen)])
    return out.getvalue()


def _specimens(campaign: Campaign):
    return (
        Specimen.objects.filter(campaign=campaign)
        .select_related("condition__material", "procedure", "test__by")
        .prefetch_related("measurements", "results", "test__readings")
        .order_by("condition__position", "procedure_id", "replicate")
    )


def _line(specimen: Specimen) -> list:
    test = getattr(specimen, "test", None)
    sizes = {m.key: m.value * 1000 for m in specimen.measurements.all()}
    main = specimen.procedure.reading
    read = [r for r in test.readings.all() if r.key == main.key] if test else []
    reading = read[0] if read and main.dimension == "force" else None
    prop = specimen.procedure.ranked_property
    result = next((r for r in specimen.results.all() if r.property_key == prop.key), None)
    material = specimen.condition.material
    return [
        specimen.code,
        str(specimen.condition),
        material.family if material else "",
        specimen.procedure.name,
        specimen.procedure.comparability_key,
        specimen.replicate,
        specimen.run_order + 1,
        state_of(specimen),
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
        _in_unit(prop, result.uncertainty if result else None),
        "yes" if test and test.excluded else "",
        test.exclusion_reason if test else "",
        test.at.isoformat(timespec="seconds") if test else "",
        test.by.get_username() if test else "",
        "; ".join(f"{r.key}: {_load_text(r)}" for r in test.readings.all()) if test else "",
        "; ".join(_further(specimen, prop.key)),
        _number(result and result.at_time),
        "; ".join(f"{a['asked']} {a['answer']}" for a in test.answers) if test else "",
    ]


def _further(specimen: Specimen, ranked: str) -> list[str]:
    """The other properties with their bounds: ``flexural_modulus: 2010 MPa``, ``x: ≥ 3 %``."""
    said = []
    for row in specimen.results.all():
        if row.property_key == ranked:
            continue
        prop = specimen.procedure.property_called(row.property_key)
        value = bounded_text(row.observation, prop.dimension, prop.unit, 5)
        said.append(f"{row.property_key}: {value}")
    return said


def _load_text(reading) -> str:
    """The load as typed, always with its unit."""
    if reading is None:
        return ""
    return f"{reading.text} {reading.unit}" if reading.unit_assumed else reading.text


def _number(value: float | None) -> str:
    return "" if value is None else f"{value:.10g}"


def _in_unit(prop, value: float | None) -> str:
    return (
        "" if value is None or prop is None else f"{in_unit(value, prop.dimension, prop.unit):.10g}"
    )


def _safe(cell):
    """Text that a spreadsheet would run as a formula is disarmed."""
    return (
        f"'{cell}"
        if isinstance(cell, str) and cell.startswith(("=", "+", "-", "@", "\t"))
        else cell
    )
