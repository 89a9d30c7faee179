"""How each thing was tested: the procedure's facts, its drawing, its ranking, every specimen."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from brunt_core.computation.working import bounded_text
from brunt_core.planning.deviations import speed_words
from brunt_core.quantities import in_unit
from brunt_core.quantities.dimensions import DIMENSIONS
from brunt_core.quantities.rendering import number, render, time_words
from brunt_core.specimens.drawing import remarks
from brunt_web.campaigns.models import Turn
from brunt_web.comparison.page import Page
from brunt_web.comparison.ranking_chart import Dot
from brunt_web.exchange.export import load_text
from brunt_web.library.drawing import drawn_type
from brunt_web.library.models import SIZES, Procedure, Rig
from brunt_web.publishing.order import Order, order_of


@dataclass
class TestedProcedure:
    """One specimen's test as a row: what was read, what came of it, whether it counts."""

    anchor: str
    code: str
    condition: str
    sizes: str
    readings: str
    ended: str
    results: list[tuple[str, str]]
    at: Any
    note: str
    out: str = ""


@dataclass
class MethodPart:
    """A procedure with everything a reader asks about it."""

    procedure: Procedure
    page: Page
    drawing: dict[str, Any]
    remarks: list[str]
    facts: list[tuple[str, str]]
    formulas: list[tuple[str, str, str]]
    order: Order | None
    rows: list[TestedProcedure]
    waiting: int = 0
    pages: list[Page] = field(default_factory=list)

    @property
    def anchor(self) -> str:
        """Its place on the page."""
        return f"p{self.procedure.pk}"


def procedure_part(
    procedure: Procedure,
    page: Page,
    turns: Sequence[Turn],
    marks: Mapping[int, Any],
    names: dict[int, str],
    seed: int,
) -> MethodPart:
    """The part of a procedure from its ranking, its turns and the sizes that were taken."""
    for shown in (page, *page.beside):
        for line in shown.lines:
            line.dots = [_on_this_page(d, procedure) for d in line.dots]
            line.excluded = [_on_this_page(d, procedure) for d in line.excluded]
    tested = [t for t in turns if t.done]
    return MethodPart(
        procedure,
        page,
        drawing=drawn_type(procedure.geometry),
        remarks=remarks(procedure.geometry),
        facts=facts_of(procedure, tested),
        formulas=_formulas(procedure, tested),
        order=order_of(turns, names, seed),
        rows=[_row(t, marks.get(t.specimen_id, {}), names) for t in tested],
        waiting=sum(t.state in ("waiting", "running") and not t.specimen.spare for t in turns),
        pages=[page, *page.beside],
    )


def anchor_of(procedure: Procedure, code: str) -> str:
    """Where a specimen's row stands."""
    return f"t{procedure.pk}-{code}"


def _on_this_page(dot: Dot, procedure: Procedure) -> Dot:
    code = dot.title.partition(":")[0]
    return replace(dot, href=f"#{anchor_of(procedure, code)}")


def facts_of(procedure: Procedure, tested: Sequence[Turn]) -> list[tuple[str, str]]:
    """What the procedure fixes, and what was really noted of rig, speed and state where that differs."""
    speeds = sorted({s for t in tested if (s := t.tested_as.speed) is not None})
    facts = procedure.facts
    noted = ", ".join(w for s in speeds if (w := speed_words(s)) != facts.speed)
    found = [
        ("Method", procedure.method.name),
        ("Specimen", procedure.geometry.name),
        ("On the plate", procedure.orientation),
        ("Speed", "; ".join(filter(None, [facts.speed or "not fixed", noted and f"noted {noted}"]))),
        ("Preload", render(procedure.preload, "force") if procedure.preload else ""),
        ("Fixed", procedure.parameter_words),
        ("Read at", ", ".join(time_words(t) for t in procedure.reading_times or ())),
        ("Conditioning", _states(procedure, tested)),
        ("Rig", rig_words(procedure.rig)),
        ("Sizes", dict(SIZES)[procedure.sizes]),
        ("Compared by", f"{procedure.ranked_property.name.lower()}, {procedure.ranked_property.unit or 'number'}"),
    ]  # fmt: skip
    return [(word, text) for word, text in found if text]


def _states(procedure: Procedure, tested: Sequence[Turn]) -> str:
    states = [t.tested_as.state.words or t.conditioning for t in tested]
    told = list(dict.fromkeys(s for s in states if s)) or [procedure.conditioning]
    return "; ".join(filter(None, told)) or "room, not controlled"


def rig_words(rig: Rig | None) -> str:
    """A rig with what it can and how well it is known.

    >>> rig_words(None)
    'not named'
    """
    if rig is None:
        return "not named"
    said = [rig.name]
    if rig.capacity:
        said.append(f"up to {render(rig.capacity, rig.dimension)}")
    if rig.resolution:
        shown = DIMENSIONS[rig.dimension].shown
        said.append(f"reads to {number(in_unit(rig.resolution, rig.dimension), '.3g')} {shown}")
    said.append(f"limit of error ± {number(rig.relative_error * 100, 'g')} %" if rig.relative_error else "calibration not known")  # fmt: skip
    return ", ".join(said)


def _formulas(procedure: Procedure, tested: Sequence[Turn]) -> list[tuple[str, str, str]]:
    """(property, formula, source) of what was computed, each once."""
    found: dict[tuple[str, str, str], None] = {}
    for t in tested:
        for r in t.results.all():
            prop = procedure.property_called(r.property_key)
            found[(prop.name, r.formula, r.source)] = None
    return list(found)


def _row(turn: Turn, marks: Mapping[str, Any], names: dict[int, str]) -> TestedProcedure:
    test = getattr(turn, "test", None)
    procedure = turn.procedure
    readings = sorted(test.readings.all(), key=lambda r: r.key) if test else []
    outcome = procedure.method.outcome(turn.outcome)
    place = procedure.method.place(turn.place) if turn.place else None
    ended = ", ".join(filter(None, [outcome.label.strip(" …") if outcome else turn.outcome, place.label if place else ""]))  # fmt: skip
    assumed = test.assumed if test else {}
    return TestedProcedure(
        anchor_of(procedure, turn.code),
        turn.code,
        names.get(turn.condition_id, ""),
        sizes=_sizes(marks, assumed),
        readings="; ".join(f"{_label(r.key, procedure)} {load_text(r)}" for r in readings),
        ended=ended,
        results=_results(turn),
        at=turn.tested_at,
        note="; ".join(filter(None, [test.reason, test.note, test.untimely] if test else [])),
        out=turn.excluded_because if turn.excluded else (test.reason if test and turn.state == "void" else ""),
    )  # fmt: skip


def _label(key: str, procedure: Procedure) -> str:
    found = next((i for i in procedure.method.inputs if i.key == key), None)
    return found.label.lower() if found else key.replace("_", " ")


def _sizes(marks: Mapping[str, Any], assumed: Mapping[str, str]) -> str:
    """Width and thickness as measured; what was not measured is said to be as drawn."""
    said = [
        f"{k.replace('_', ' ')} {m.text if any(c.isalpha() for c in m.text) else f'{m.text} mm'}"
        for k, m in marks.items()
        if k != "bow"
    ]
    if assumed:
        said.append("not measured: " + ", ".join(f"{k} {v}" for k, v in assumed.items()))
    return ", ".join(said)


def _results(turn: Turn) -> list[tuple[str, str]]:
    """(property, value with bounds), the ranked one first."""
    procedure = turn.procedure
    ranked = procedure.ranked_property.key
    rows = sorted(turn.results.all(), key=lambda r: (r.property_key != ranked, r.property_key))
    found = []
    for r in rows:
        prop = procedure.property_called(r.property_key)
        found.append((prop.name, bounded_text(r.observation, prop.dimension, prop.unit, 4)))
    return found
