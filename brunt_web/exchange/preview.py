"""What each row of a file would become. Nothing is stored here."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from uuid import UUID, uuid5

from brunt_core.computation import compute
from brunt_core.computation.working import bounded_text
from brunt_core.errors import InputError
from brunt_core.identifiers import nearest_codes, tidy_code
from brunt_core.methods.base import Method
from brunt_core.methods.registry import held_outcomes
from brunt_core.observations import Observation
from brunt_core.properties import PROPERTIES
from brunt_core.quantities import parse_typed
from brunt_core.tables import Table, read_table
from brunt_web.campaigns.models import Campaign, Condition, Turn
from brunt_web.campaigns.queries import procedures_of
from brunt_web.exchange.columns import part_of
from brunt_web.library.models import Procedure
from brunt_web.testing.instruments import instruments_for
from brunt_web.testing.models import Test

_NAMESPACE = UUID("6f1c1f7e-7d0c-4a53-9b0e-0a6f6f2f7b11")
_SAID = {
    "break": "broke",
    "broken": "broke",
    "did not break": "held",
    "no break": "held",
    "held": "held",
    "runout": "held",
    "rig limit": "limit",
}


@dataclass
class ImportRow:
    """One row: what it becomes, or the sentence that refuses it."""

    line: int
    texts: dict[str, str]
    became: str = ""
    refused: str = ""
    waiting: bool = False
    procedure: Procedure | None = None
    condition: Condition | None = None
    new_condition: str = ""
    turn: Turn | None = None
    left_out: str = ""
    stated: Observation | None = None
    outcome: str = "broke"
    key: UUID = field(default_factory=lambda: _NAMESPACE)


@dataclass(frozen=True)
class Preview:
    """All rows, the columns that are used with their part, and those that are not."""

    rows: list[ImportRow]
    used: list[tuple[str, str]]
    unused: list[str]

    @property
    def good(self) -> list[ImportRow]:
        """The rows that can be stored."""
        return [r for r in self.rows if not r.refused and not r.waiting]

    @property
    def refused(self) -> list[ImportRow]:
        """The rows that cannot."""
        return [r for r in self.rows if r.refused]

    @property
    def waiting(self) -> list[ImportRow]:
        """The rows of specimens that are not tested yet, as a file taken out of here has them."""
        return [r for r in self.rows if r.waiting]


def preview(campaign: Campaign, text: str, create_missing: bool) -> Preview:
    """Read a file against a campaign. Raises :class:`InputError` when it is no table at all."""
    table = read_table(text)
    reader = _Reader(campaign, table, create_missing, text)
    return Preview(
        [reader.row(line, cells) for line, cells in table.rows],
        [(c.head, p) for c, p in zip(table.columns, reader.parts, strict=True) if p],
        [c.head for c, p in zip(table.columns, reader.parts, strict=True) if not p and c.head],
    )


class _Reader:
    """Holds what rows are looked up in, read once."""

    def __init__(self, campaign: Campaign, table: Table, create_missing: bool, text: str) -> None:
        self.campaign, self.table, self.create_missing, self.text = (
            campaign,
            table,
            create_missing,
            text,
        )
        self.procedures = procedures_of(campaign)
        self.parts = [part_of(c, [p.method for p in self.procedures]) for c in table.columns]
        self.conditions = {str(c).lower(): c for c in campaign.conditions.all()}
        self.conditions |= {c.label.lower(): c for c in campaign.conditions.all()}
        self.turns: dict[str, list[Turn]] = {}
        for turn in campaign.turns.select_related(
            "specimen", "condition", "procedure__rig", "campaign"
        ).order_by("specimen_id", "step"):
            self.turns.setdefault(turn.code, []).append(turn)
        self.keys = set(
            Test.objects.filter(turn__campaign=campaign).values_list("entry_key", flat=True)
        )
        self.taken: set[int] = set()
        if not {"specimen", "condition"} & set(filter(None, self.parts)):
            raise InputError(
                "No column names the specimen or the condition (call one “specimen”, “condition” or “material”).",
                "file",
            )

    def row(self, line: int, cells: tuple[str, ...]) -> ImportRow:
        """One row, understood or refused."""
        texts, units = {}, {}
        for column, part, cell in zip(self.table.columns, self.parts, cells, strict=False):
            if part and cell:
                texts[part], units[part] = cell, column.unit
        row = ImportRow(
            line, texts, key=uuid5(_NAMESPACE, f"{self.campaign.pk}:{line}:{'|'.join(cells)}")
        )
        try:
            if len(cells) > len(self.table.columns):
                raise InputError(
                    "This row has more cells than the head has columns; is a decimal comma splitting a number?"
                )
            if self._waits(row):
                row.waiting = True
                return row
            self._place(row)
            self._outcome(row)
            self._value(row, units)
            self._counts(row)
            if len(row.texts.get("reason", "")) > 300:
                raise InputError("The reason is longer than 300 characters.")
            if row.key in self.keys:
                raise InputError("This row was brought in before.")
        except InputError as error:
            row.refused = error.sentence
        return row

    def _waits(self, row: ImportRow) -> bool:
        """Whether it names a specimen of ours and says nothing of a test."""
        code = tidy_code(row.texts.get("specimen", "")) if row.texts.get("specimen") else None
        turns = self.turns.get(code or "", [])
        told = {"outcome", "value", "reason", *PROPERTIES}
        told |= {t.procedure.method.reading.key for t in turns}
        return bool(turns) and not told & set(row.texts)

    def _place(self, row: ImportRow) -> None:
        if row.texts.get("specimen"):
            self._by_specimen(row)
        else:
            self._by_condition(row)

    def _by_specimen(self, row: ImportRow) -> None:
        typed = row.texts["specimen"]
        code = tidy_code(typed)
        turns = self.turns.get(code or "")
        if not turns:
            if row.texts.get("condition"):
                return self._by_condition(row)
            near = nearest_codes(typed, list(self.turns))
            raise InputError(
                f"There is no specimen {typed} in this campaign."
                + (f" Nearest: {', '.join(near)}." if near else "")
            )
        turn = self._turn(turns, row)
        if turn.done:
            raise InputError(f"{turn.code} already has a test.")
        if turn.state == "gone":
            raise InputError(f"{turn.code} was spent by an earlier test.")
        if turn.pk in self.taken:
            raise InputError(f"{turn.code} stands in an earlier row already.")
        self.taken.add(turn.pk)
        row.turn, row.condition, row.procedure = turn, turn.condition, turn.procedure
        return None

    def _turn(self, turns: list[Turn], row: ImportRow) -> Turn:
        """Which of a specimen's tests a row is about."""
        if len(turns) == 1 or not row.texts.get("procedure"):
            return next((t for t in turns if not t.done and t.pk not in self.taken), turns[0])
        procedure = self._procedure(row.texts)
        return next((t for t in turns if t.procedure_id == procedure.pk), turns[0])

    def _by_condition(self, row: ImportRow) -> None:
        name = row.texts.get("condition", "")
        if not name:
            raise InputError("Neither specimen nor condition is given.")
        row.procedure = self._procedure(row.texts)
        row.condition = self.conditions.get(name.lower())
        if row.condition is None and not self.create_missing:
            known = ", ".join(str(c) for c in list(dict.fromkeys(self.conditions.values()))[:6])
            raise InputError(f"There is no condition “{name}”; there are {known}.")
        if row.condition is None and len(name) > 80:
            raise InputError("The condition's name is longer than 80 characters.")
        row.new_condition = "" if row.condition else name

    def _procedure(self, texts: Mapping[str, str]) -> Procedure:
        said = texts.get("procedure", "").lower()
        if not said and len(self.procedures) == 1:
            return self.procedures[0]
        found = [
            p
            for p in self.procedures
            if said and said in (p.name.lower(), p.method_key, p.method.name.lower(), p.orientation)
        ]
        if len(found) != 1:
            names = ", ".join(p.name for p in self.procedures)
            raise InputError(
                f"“{said}” is not one of this campaign's procedures: {names}."
                if said
                else f"Which test is this? Add a column “procedure” with one of: {names}."
            )
        return found[0]

    def _outcome(self, row: ImportRow) -> None:
        said = row.texts.get("outcome", "").strip().lower()
        assert row.procedure is not None
        row.outcome = _outcome_key(row.procedure.method, said)
        if row.outcome == "void" and not row.texts.get("reason"):
            raise InputError("A void row needs a reason.")
        mode = row.texts.get("mode", "").strip()
        if mode and row.procedure:
            folded = mode.lower().replace(" ", "_").replace("-", "_")
            named = next(
                (
                    m.key
                    for m in row.procedure.method.modes
                    if folded in (m.key, m.label.lower().replace(" ", "_"))
                ),
                None,
            )
            if named is None:
                raise InputError(f"“{mode}” is not a failure mode of {row.procedure.method.name}.")
            row.texts["mode"] = named
        if row.texts.get("place") and row.procedure:
            said = row.texts["place"].strip().lower().replace(" ", "_")
            if row.procedure.method.place(said) is None:
                raise InputError(f"“{row.texts['place']}” is not a place on this specimen.")
            row.texts["place"] = said

    def _counts(self, row: ImportRow) -> None:
        """Whether the row is to be left out of the mean, as it was where it came from."""
        said = row.texts.get("left_out", "").strip().lower()
        why = row.texts.get("left_out_because", "").strip()
        if said in ("", "no", "false", "0", "n") and not why:
            return
        if said in ("no", "false", "0", "n"):
            return
        if not why:
            raise InputError("This row is left out, and no column says why (left out because).")
        if row.outcome == "void":
            raise InputError("A void row counts nowhere already; it is not left out as well.")
        row.left_out = why[:300]
        row.became += f"; left out: {row.left_out}"

    def _value(self, row: ImportRow, units: Mapping[str, str]) -> None:
        assert row.procedure is not None
        method, prop = row.procedure.method, row.procedure.ranked_property
        if row.outcome == "void":
            row.became = "void: " + row.texts["reason"]
            return
        if row.procedure.reading.key in row.texts or method.reading.key in row.texts:
            inputs = {
                i.key: _with_unit(row.texts[i.key], units[i.key])
                for i in method.inputs
                if i.key in row.texts
            }
            row.texts |= inputs
            known = {**row.procedure.parameters, **inputs}
            done = compute(method, known, row.outcome, instruments_for(row.procedure))
            row.became = done.result(prop.key).working
            return
        part = prop.key if prop.key in row.texts else "value"
        if part not in row.texts:
            raise InputError(f"Neither a load nor a {prop.name.lower()} is given.")
        asked = row.texts.get("property", prop.key).lower().replace(" ", "_")
        if asked != prop.key:
            raise InputError(
                f"{row.procedure.name} yields {prop.key}, not “{row.texts['property']}”."
            )
        typed = parse_typed(_with_unit(row.texts[part], units[part]), prop.dimension, prop.unit)
        if typed.observation.anchor <= 0 and prop.dimension not in ("ratio", "temperature"):
            raise InputError(f"The {prop.name.lower()} must be more than zero.")
        row.stated = (
            Observation.at_least(typed.observation.anchor)
            if row.outcome in held_outcomes() and typed.observation.is_exact
            else typed.observation
        )
        row.texts["stated"] = typed.text
        row.became = f"{prop.name} stated: {bounded_text(row.stated, prop.dimension, prop.unit)}"


def _outcome_key(method: Method, said: str) -> str:
    """The method's outcome for what a file says; its first where nothing is said."""
    if not said:
        return method.outcomes[0].key
    folded = _SAID.get(said, said)
    found = next((o for o in method.outcomes if folded in (o.key, o.label.strip(" …"))), None)
    if found is None:
        known = ", ".join(o.key for o in method.outcomes)
        raise InputError(f"“{said}” is not an outcome: there are {known}.")
    return found.key


def _with_unit(cell: str, unit: str) -> str:
    """A cell with the head's unit, unless it brings its own."""
    bare = not any(c.isalpha() or c in '"″°%' for c in cell.replace("e", "").replace("E", ""))
    return f"{cell} {unit}" if unit and bare else cell
