"""A campaign as a table that can be read again: typed cells for a spreadsheet, text for CSV."""

import csv
import io
import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from typing import Any

from django.utils import timezone

from brunt_core.computation.working import bounded_text
from brunt_core.quantities import in_unit
from brunt_core.quantities.rendering import width_in_unit
from brunt_web.campaigns.models import Campaign, Turn
from brunt_web.exchange.records import tested_turns
from brunt_web.interface.templatetags.brunt import drawn_state
from brunt_web.people.nameless import Nameless
from brunt_web.results.models import Result
from brunt_web.results.reading import of_turn
from brunt_web.testing.marks import latest, marks_at
from brunt_web.testing.models import Measurement, Reading, Test
from brunt_web.testing.templatetags.bench import taken_from

Cell = str | int | float | datetime | None
_RUNS = re.compile(r"^\s*[=+\-@\t\r\n|%]")


@dataclass(frozen=True)
class _Line:
    """One turn with all that its line needs."""

    turn: Turn
    marks: dict[str, Measurement]
    levels: dict[str, str]

    @cached_property
    def test(self) -> Test | None:
        return getattr(self.turn, "test", None)

    @cached_property
    def reading(self) -> Reading | None:
        """The load, where the procedure reads one."""
        main = self.turn.procedure.reading
        if self.test is None or main.dimension != "force":
            return None
        return next((r for r in self.test.readings.all() if r.key == main.key), None)

    @cached_property
    def result(self) -> Result | None:
        """The ranked result."""
        key = self.turn.procedure.ranked_property.key
        return of_turn(self.turn, key)

    def size(self, key: str) -> float | None:
        """A size in mm."""
        mark = self.marks.get(key)
        return mark.value * 1000 if mark else None

    def of_test(self, name: str) -> str:
        """A field of the test, empty without one."""
        return str(getattr(self.test, name)) if self.test else ""

    def bound(self, side: str) -> float | None:
        """A bound of the ranked result, in its property's unit."""
        value = getattr(self.result, side) if self.result else None
        prop = self.turn.procedure.ranked_property
        return None if value is None else in_unit(value, prop.dimension, prop.unit)

    @property
    def uncertainty(self) -> float | None:
        """A width in the property's unit: no zero of its scale goes into it."""
        value = self.result.uncertainty if self.result else None
        prop = self.turn.procedure.ranked_property
        return None if value is None else width_in_unit(value, prop.dimension, prop.unit)

    def made_as(self, key: str, otherwise: object) -> str:
        """What it was really made from, else what its condition says."""
        return str(getattr(self.turn.specimen.made_as, key) or otherwise or "")


@dataclass(frozen=True)
class ExportColumn:
    """A column: its head, its unit ("" for none), and what its cells hold."""

    head: str
    unit: str
    cell: Callable[[_Line], Cell]

    @property
    def named(self) -> str:
        """Head with unit in brackets."""
        return f"{self.head} [{self.unit}]" if self.unit else self.head


def text(head: str, cell: Callable[[_Line], Cell]) -> ExportColumn:
    """A column without a unit."""
    return ExportColumn(head, "", cell)


def _outstanding(line: _Line) -> str:
    return "; ".join(o.says for o in line.turn.specimen.outstanding_steps)


def _columns() -> list[ExportColumn]:
    return [
        text("specimen", lambda x: x.turn.code),
        text("your id", lambda x: x.turn.specimen.own_id),
        text("condition", lambda x: str(x.turn.condition)),
        text("material name", lambda x: str(x.turn.condition.material or "")),
        text("polymer family", lambda x: getattr(x.turn.condition.material, "family", "")),
        text("lot", lambda x: x.made_as("lot", x.turn.condition.lot)),
        text("recipe", lambda x: x.made_as("recipe", x.turn.condition.recipe)),
        text("conditioning", lambda x: x.turn.conditioning),
        text("state at test", lambda x: x.turn.tested_as.state.words),
        text("rig", lambda x: x.turn.tested_as.rig),
        text("its calibration overdue since", lambda x: x.turn.tested_as.overdue),
        text("procedure", lambda x: x.turn.procedure.name),
        text("comparability key", lambda x: x.turn.comparability_key),
        text("replicate", lambda x: x.turn.replicate),
        text("test order", lambda x: x.turn.run_order + 1),
        text("state", lambda x: drawn_state(x.turn)),
        ExportColumn("width", "mm", lambda x: x.size("width")),
        ExportColumn("thickness", "mm", lambda x: x.size("thickness")),
        ExportColumn("diameter", "mm", lambda x: x.size("diameter")),
        text("sizes", _sizes),
        text("load", lambda x: load_text(x.reading)),
        ExportColumn("load lower", "N", lambda x: x.reading.lower if x.reading else None),
        ExportColumn("load upper", "N", lambda x: x.reading.upper if x.reading else None),
        text("outcome", lambda x: x.of_test("outcome")),
        text("place", lambda x: x.of_test("place")),
        text("reason", lambda x: x.of_test("reason")),
        text("note", lambda x: x.of_test("note")),
        text("measured property", lambda x: x.result.property_key if x.result else ""),
        text("lower bound", lambda x: x.bound("lower")),
        text("upper bound", lambda x: x.bound("upper")),
        text("result unit", lambda x: x.turn.procedure.ranked_property.unit if x.result else ""),
        text("standard uncertainty", lambda x: x.uncertainty),
        text("reading to be entered later", lambda x: "yes" if x.turn.reading_outstanding else ""),
        text("excluded", lambda x: "yes" if x.turn.excluded else ""),
        text("excluded because", lambda x: x.turn.excluded_because),
        text("tested at", lambda x: x.test.at if x.test else None),
        text("tested by", lambda x: x.test.by.get_username() if x.test else ""),
        text("readings as typed", _as_typed),
        text("further results", lambda x: "; ".join(_further(x.turn))),
        ExportColumn("read at", "s", lambda x: x.result.at_time if x.result else None),
        text("asked and answered", _answers),
        text("mode", lambda x: x.of_test("mode")),
        text("mass", lambda x: x.marks["mass"].text if "mass" in x.marks else ""),
        text("made", lambda x: x.turn.specimen.made_how),
        text("outstanding", _outstanding),
        text("not as planned", _deviations),
        text("tested anyway because", lambda x: x.turn.untimely),
    ]


def _as_typed(line: _Line) -> str:
    readings = line.test.readings.all() if line.test else []
    return "; ".join(f"{r.key}: {load_text(r)}" for r in readings)


def _sizes(line: _Line) -> str:
    """Whether the sizes were measured, and what was taken where they were not."""
    if line.test is None:
        return ""
    procedure = line.turn.procedure
    said: dict[str, list[str]] = {}
    for key, text in line.test.assumed.items():
        said.setdefault(taken_from(procedure.method.input(key), procedure), []).append(
            f"{key} {text}"
        )
    if not said:
        return "measured" if line.marks else ""
    return "; ".join(f"{words}: {', '.join(what)}" for words, what in said.items())


def _answers(line: _Line) -> str:
    given = line.test.answers if line.test else []
    return "; ".join(f"{a['asked']} {a['answer']}" for a in given)


def _deviations(line: _Line) -> str:
    found = line.turn.specimen.deviations
    return "; ".join(d.says for d in found if d.turn in (None, line.turn.pk))


def table_of(
    campaign: Campaign, hidden: Nameless | None = None, turns: Iterable[Turn] | None = None
) -> tuple[list[ExportColumn], list[list[Cell]]]:
    """Every test of every specimen, done or not, one line each; a column for each factor.

    With ``hidden`` people go by number, also in what was written by hand. ``turns`` are all of the
    campaign's as :func:`tested_turns` reads them, where they are at hand.
    """
    turns = _turns(campaign) if turns is None else sorted(turns, key=_place)
    marks = marks_at([t.specimen for t in turns])
    factors = list(campaign.factors.values_list("name", flat=True))
    levels: dict[int, dict[str, str]] = {}
    named = campaign.conditions.values_list("pk", "levels__factor__name", "levels__label")
    for pk, factor, label in named:
        levels.setdefault(pk, {})[factor] = label
    columns = _columns()
    at = next(i for i, c in enumerate(columns) if c.head == "procedure")
    columns[at:at] = [ExportColumn(f"level of {name}", "", _level(name)) for name in factors]
    shop = str(campaign.workshop.uuid)
    columns += [
        text("specimen uuid", lambda line: str(line.turn.specimen.uuid)),
        text("workshop uuid", lambda line: shop),
    ]
    lines = [_Line(t, latest(marks[t.specimen_id]), levels.get(t.condition_id, {})) for t in turns]
    rows = [[c.cell(line) for c in columns] for line in lines]
    if hidden:
        by = next(i for i, c in enumerate(columns) if c.head == "tested by")
        for row in rows:
            row[by] = hidden.name(str(row[by] or ""))
            row[:] = [hidden.text(c) if isinstance(c, str) else c for c in row]
        columns = [ExportColumn(hidden.text(c.head), c.unit, c.cell) for c in columns]
    return columns, rows


def _level(name: str) -> Callable[[_Line], Cell]:
    return lambda line: line.levels.get(name, "")


def export_csv(
    campaign: Campaign, hidden: Nameless | None = None, turns: Iterable[Turn] | None = None
) -> str:
    """The table as CSV: units in the heads, a point as decimal mark, bounds empty where there are none."""
    columns, rows = table_of(campaign, hidden, turns)
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow([safe(c.named) for c in columns])
    for row in rows:
        writer.writerow([_written(cell) for cell in row])
    return out.getvalue()


def _written(cell: Cell) -> str:
    if cell is None:
        return ""
    if isinstance(cell, float):
        return f"{cell:.10g}"
    if isinstance(cell, datetime):
        return cell.isoformat(timespec="seconds")
    return safe(cell) if isinstance(cell, str) else str(cell)


def safe(text: str) -> str:
    """Text that a spreadsheet would run as a formula is disarmed.

    >>> safe("=1+1"), safe(" @x"), safe("plain")
    ("'=1+1", "' @x", 'plain')
    """
    return f"'{text}" if _RUNS.match(text) else text


def local(moment: datetime) -> datetime:
    """A moment as the clock on the wall shows it, without its zone: what a spreadsheet can hold."""
    return timezone.localtime(moment).replace(tzinfo=None)


def _turns(campaign: Campaign) -> list[Turn]:
    return sorted(tested_turns(Turn.objects.filter(campaign=campaign)), key=_place)


def _place(turn: Turn) -> tuple[int, int, int, int]:
    """Where its line stands: by condition, procedure, specimen, and test of it."""
    return (turn.condition.position, turn.procedure_id, turn.specimen.replicate, turn.step)


def _further(turn: Turn) -> list[str]:
    """The other properties with their bounds: ``flexural_modulus: 2010 MPa``, ``x: ≥ 3 %``."""
    said, ranked = [], turn.procedure.ranked_property.key
    for row in sorted(turn.results.all(), key=lambda r: r.property_key):
        if row.property_key == ranked:
            continue
        prop = turn.procedure.property_called(row.property_key)
        value = bounded_text(row.observation, prop.dimension, prop.unit, 5)
        said.append(f"{row.property_key}: {value}")
    return said


def load_text(reading: Any) -> str:
    """The load as typed, always with its unit."""
    if reading is None:
        return ""
    return f"{reading.text} {reading.unit}" if reading.unit_assumed else reading.text
