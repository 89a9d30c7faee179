"""What a row's numbers come to, judged as at the bench: units, siblings, what is expected."""

from collections import defaultdict
from collections.abc import Mapping

from django.db.models import Q

from brunt_core.computation import Computation, compute
from brunt_core.computation.working import bounded_text
from brunt_core.errors import InputError
from brunt_core.methods.base import Method
from brunt_core.methods.registry import held_outcomes
from brunt_core.observations import Observation
from brunt_core.plausibility.bands import band
from brunt_core.plausibility.unit_mixups import (
    UnitMixup,
    expected_range,
    find_stated_unit_mixup,
    find_unit_mixup,
    lies_outside,
)
from brunt_core.properties import Property
from brunt_core.quantities import parse_typed
from brunt_core.specimens.types import SpecimenType
from brunt_web.campaigns.models import Campaign, Condition, Turn
from brunt_web.campaigns.models.specimens import geometry_asked
from brunt_web.exchange.rows import CHANGE, KEEP, Asked, ImportRow
from brunt_web.library.models import Material, Procedure
from brunt_web.results.reading import counted_rows
from brunt_web.testing.filling import infill_of
from brunt_web.testing.inputs import assumed_for, assumed_sizes, has_section
from brunt_web.testing.instruments import instruments_for
from brunt_web.testing.marks import latest, marks_at

_ABOVE_ZERO = ("ratio", "temperature")


class Values:
    """Works rows out; what they are judged by is read once."""

    def __init__(self, campaign: Campaign, turns: Mapping[str, list[Turn]], asked: Asked) -> None:
        self.campaign, self.asked = campaign, asked
        specimens = {t.specimen_id: t.specimen for ts in turns.values() for t in ts}
        marks = marks_at(specimens.values()) if specimens else {}
        self.marks = {
            pk: {k: m.text for k, m in latest(rows).items()} for pk, rows in marks.items()
        }
        self.families = {
            name.lower(): family
            for name, family in Material.objects.filter(workshop=campaign.workshop).values_list(
                "name", "family"
            )
        }
        self.levels: dict[int, dict[str, str]] = {}
        self.infill: dict[tuple[int, int], float] = {}
        self.siblings = self._known_results()

    def _known_results(self) -> dict[tuple[int, int, str, str], list[float]]:
        """Exact results that count, by condition, procedure, property and outcome."""
        found: dict[tuple[int, int, str, str], list[float]] = defaultdict(list)
        rows = counted_rows(
            Q(turn__campaign=self.campaign, lower__isnull=False),
            *("turn__condition_id", "turn__procedure_id", "property_key", "turn__outcome"),
            *("lower", "upper"),
        )
        for condition, procedure, key, outcome, lower, upper in rows:
            if lower is not None and lower == upper:
                found[condition, procedure, key, outcome].append(lower)
        return found

    def work_out(self, row: ImportRow) -> None:
        """Fill in what a row becomes. Raises :class:`InputError` for what it cannot be."""
        assert row.procedure is not None
        method = row.procedure.method
        if row.outcome == "void":
            row.became = "void: " + row.texts["reason"]
            return
        _held_by_its_bound(row, method)
        if row.procedure.reading.key in row.texts or method.reading.key in row.texts:
            self._from_readings(row, row.procedure)
        else:
            self._stated(row, row.procedure)

    # -- from readings --------------------------------------------------------------------------

    def _from_readings(self, row: ImportRow, procedure: Procedure) -> None:
        method, prop = procedure.method, procedure.ranked_property
        inputs = {
            i.key: with_unit(row.texts[i.key], row.units.get(i.key, ""))
            for i in method.inputs
            if i.key in row.texts
        }
        known = self._known(row, procedure, inputs)
        done = compute(method, known, row.outcome, instruments_for(procedure))
        expected = self._expected(row, procedure, prop)
        if lies_outside(done, expected, prop.key) and row.condition is not None:
            expected = self._expected(row, procedure, prop, self._infill(row.condition, procedure))
        unit_mixup = find_unit_mixup(done, known, row.outcome, expected, self._sizes(row), prop.key)
        if unit_mixup and self._answered(row, unit_mixup, procedure):
            inputs[unit_mixup.field] = unit_mixup.instead
            known[unit_mixup.field] = unit_mixup.instead
            done = compute(method, known, row.outcome, instruments_for(procedure))
        row.texts |= inputs
        row.became = self._words(done, prop)

    def _words(self, done: Computation, prop: Property) -> str:
        return done.result(prop.key).working

    def _known(
        self, row: ImportRow, procedure: Procedure, inputs: Mapping[str, str]
    ) -> dict[str, str]:
        """What the procedure fixes, the levels set and was measured before, then the row's own."""
        known = dict(procedure.parameters)
        if row.condition is not None:
            left = [i for i in procedure.method.fixed if i.plain and i.key not in known]
            if left and row.condition.pk not in self.levels:
                self.levels[row.condition.pk] = row.condition.level_words
            words = self.levels.get(row.condition.pk, {})
            known |= {i.key: words[i.label.lower()] for i in left if i.label.lower() in words}
        sizes = [i.key for i in procedure.method.inputs if i.section or i.role == "size"]
        if not any(k in inputs for k in sizes):
            measured = self.marks.get(row.turn.specimen_id, {}) if row.turn else {}
            known |= {k: measured[k] for k in sizes if k in measured}
            if not has_section(procedure, known):
                known |= self._assumed(row, procedure)
        return known | dict(inputs)

    def _assumed(self, row: ImportRow, procedure: Procedure) -> dict[str, str]:
        """Sizes that the procedure takes unmeasured."""
        if row.turn is not None:
            return assumed_for(row.turn)
        return assumed_sizes(procedure, self._geometry(row), [])

    def _infill(self, condition: Condition, procedure: Procedure) -> float:
        """The infill its recipe asks for, looked up once for each condition and procedure."""
        key = (condition.pk, procedure.pk)
        if key not in self.infill:
            self.infill[key] = infill_of(condition, procedure)
        return self.infill[key]

    def _expected(
        self, row: ImportRow, procedure: Procedure, prop: Property, infill: float = 1.0
    ) -> tuple[float, float] | None:
        if row.condition is not None:
            material = row.condition.material
            family = material.family if material else ""
        else:
            family = self.families.get(row.new_condition.lower(), "other")
        siblings: list[float] = []
        if row.condition is not None:
            apart = procedure.method.apart
            for (condition, of, key, outcome), values in self.siblings.items():
                if (condition, of, key) == (row.condition.pk, procedure.pk, prop.key) and (
                    not apart or outcome == row.outcome
                ):
                    siblings += values
        usual = band(family, prop.key, infill) if family else None
        return expected_range(usual, siblings, prop.dimension)

    def _sizes(self, row: ImportRow) -> dict[str, float]:
        return {key: size / 1000 for key, size in self._geometry(row).nominal.items()}

    def _geometry(self, row: ImportRow) -> SpecimenType:
        assert row.procedure is not None
        if row.turn is not None:
            return row.turn.geometry
        if row.condition is not None:
            return geometry_asked(row.condition, row.procedure)
        return row.procedure.geometry

    def _answered(self, row: ImportRow, unit_mixup: UnitMixup, procedure: Procedure) -> bool:
        """Whether the unit mix-up is to be fixed; without an answer the row is asked about."""
        if not unit_mixup.instead:
            row.looks = unit_mixup.sentence
            row.answers = [{"asked": unit_mixup.sentence, "answer": "kept"}]
            return False
        row.unit_mixup, row.asked = unit_mixup, question_key(unit_mixup, procedure)
        answer = self.asked.answers.get(row.asked, "")
        if answer not in (CHANGE, KEEP):
            return False
        row.asked = ""
        said = "changed" if answer == CHANGE else "kept"
        row.answers = [{"asked": unit_mixup.sentence, "answer": said}]
        return answer == CHANGE

    # -- a finished figure ----------------------------------------------------------------------

    def _stated(self, row: ImportRow, procedure: Procedure) -> None:
        prop = procedure.ranked_property
        part = prop.key if prop.key in row.texts else "value"
        if part not in row.texts and row.outcome in held_outcomes():
            raise InputError("It did not break, and no load is given.")
        if part not in row.texts:
            raise InputError(f"Neither a load nor a {prop.name.lower()} is given.")
        asked = row.texts.get("property", prop.key).lower().replace(" ", "_")
        if asked != prop.key:
            raise InputError(f"{procedure.name} yields {prop.key}, not “{row.texts['property']}”.")
        text = with_unit(row.texts[part], row.units.get(part, ""))
        typed = parse_typed(text, prop.dimension, prop.unit)
        expected = self._expected(row, procedure, prop)
        unit_mixup = find_stated_unit_mixup(text, prop, expected, row.outcome in held_outcomes())
        if unit_mixup and self._answered(row, unit_mixup, procedure):
            text = unit_mixup.instead
            typed = parse_typed(text, prop.dimension, prop.unit)
        if typed.observation.anchor <= 0 and prop.dimension not in _ABOVE_ZERO:
            raise InputError(f"The {prop.name.lower()} must be more than zero.")
        row.stated = (
            Observation.at_least(typed.observation.anchor)
            if row.outcome in held_outcomes() and typed.observation.is_exact
            else typed.observation
        )
        row.texts["stated"] = typed.text
        row.became = f"{prop.name} stated: {bounded_text(row.stated, prop.dimension, prop.unit)}"


def question_key(unit_mixup: UnitMixup, procedure: Procedure) -> str:
    """What a unit mix-up has in common with others: its field, what it reads like, the procedure."""
    unit = (
        unit_mixup.unit
        if unit_mixup.unit != "decimal point"
        else f"decimal point {unit_mixup.instead[-1:]}"
    )
    return f"{procedure.pk}/{unit_mixup.field}/{unit}"


def _held_by_its_bound(row: ImportRow, method: Method) -> None:
    """``> 40 kgf`` without a word on outcome did not break."""
    if row.texts.get("outcome"):
        return
    given = row.texts.get(method.reading.key) or row.texts.get("value") or ""
    if given.lstrip()[:1] in (">", "≥") and method.outcome("held"):
        row.outcome = "held"


def with_unit(cell: str, unit: str) -> str:
    """A cell with the head's unit, unless it brings its own.

    >>> with_unit("58,4", "kgf"), with_unit("58.4 N", "kgf")
    ('58,4 kgf', '58.4 N')
    """
    bare = not any(c.isalpha() or c in '"″°%' for c in cell.replace("e", "").replace("E", ""))
    return f"{cell} {unit}" if unit and bare else cell
