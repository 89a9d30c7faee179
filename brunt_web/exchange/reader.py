"""Where the rows of a file belong: specimen, condition and procedure, and how each ended."""

import re
from collections.abc import Mapping
from uuid import UUID, uuid5

from brunt_core.errors import InputError
from brunt_core.identifiers import ALPHABET, nearest_codes, tidy_code
from brunt_core.methods.base import Method
from brunt_core.properties import PROPERTIES
from brunt_core.tables import ParsedTable
from brunt_web.campaigns.models import Campaign, Turn
from brunt_web.campaigns.queries import procedures_of
from brunt_web.exchange import columns
from brunt_web.exchange.rows import Asked, ImportRow
from brunt_web.exchange.values import Values
from brunt_web.exchange.words import is_words, not_tested, outcome_said
from brunt_web.library.models import Procedure
from brunt_web.testing.models import Test

_NAMESPACE = UUID("6f1c1f7e-7d0c-4a53-9b0e-0a6f6f2f7b11")
_ANY = f"[{ALPHABET}OISLQBZUVYG01]"
_LIKE_OURS = re.compile(rf"^([A-Z]\d[-_ ]{_ANY}{{3}}|[A-Z]{{2}}[-_ ]\d{_ANY}{{3}})$")
_NO = ("", "no", "false", "0", "n", "nein", "non")


class Reader:
    """Holds what rows are looked up in, read once."""

    def __init__(self, campaign: Campaign, table: ParsedTable, asked: Asked) -> None:
        self.campaign, self.table, self.asked = campaign, table, asked
        self.procedures = procedures_of(campaign)
        self.methods = [p.method for p in self.procedures]
        meanings = columns.remembered(campaign.workshop)
        self.parts = columns.parts_for(table.columns, self.methods, meanings, asked.mapping)
        rows = list(campaign.conditions.select_related("material"))
        self.conditions = {c.label.lower(): c for c in rows} | {str(c).lower(): c for c in rows}
        self.turns: dict[str, list[Turn]] = {}
        self.own: dict[str, list[Turn]] = {}
        for turn in campaign.turns.select_related(
            "specimen", "condition__material", "procedure__rig", "procedure__variant", "campaign"
        ).order_by("specimen_id", "step"):
            self.turns.setdefault(turn.code, []).append(turn)
            if turn.specimen.own_id:
                self.own.setdefault(turn.specimen.own_id.casefold(), []).append(turn)
        tests = Test.objects.filter(turn__campaign=campaign)
        self.keys = set(tests.values_list("entry_key", flat=True))
        self.taken: set[int] = set()
        self.named: dict[tuple[str, str, int], int] = {}
        self.values = Values(campaign, self.turns, asked)

    @property
    def problem(self) -> str:
        """Why no row can be placed, if so."""
        if {"specimen", "own_id", "condition"} & set(self.parts):
            return ""
        return (
            "No column names the specimen or the condition. Choose the column below "
            "(or call it “specimen”, “condition” or “material”)."
        )

    def row(self, line: int, cells: tuple[str, ...]) -> ImportRow:
        """One row, understood or refused."""
        texts, units = {}, {}
        for column, part, cell in zip(self.table.columns, self.parts, cells, strict=False):
            cell = cell[1:] if re.match(r"^'[=+\-@]", cell) else cell
            if part and cell and part not in texts:
                texts[part], units[part] = cell, column.unit
        key = uuid5(_NAMESPACE, f"{self.campaign.pk}:{line}:{'|'.join(cells)}")
        row = ImportRow(line, texts, units, key)
        try:
            if len([c for c in cells if c]) and len(cells) > len(self.table.columns):
                raise InputError(
                    "This row has more cells than the header has columns; is a decimal comma splitting a number?"
                )
            self._words_for_numbers(row)
            if self._waits(row):
                row.waiting = True
                return row
            self._place(row)
            self._outcome(row)
            self.values.work_out(row)
            _counts(row)
            if len(row.texts.get("reason", "")) > 300:
                raise InputError("The reason is longer than 300 characters.")
            if row.key in self.keys:
                raise InputError("This row was imported before.")
            self._no_duplicate(row)
        except InputError as error:
            row.refused = error.sentence
        return row

    def _words_for_numbers(self, row: ImportRow) -> None:
        """A cell of words where a number should be says outcome, or that there was no test."""
        wanted = {"value", *PROPERTIES, *(p.reading.key for p in self.procedures)}
        wanted |= {m.reading.key for m in self.methods}
        for part in [p for p in row.texts if p in wanted]:
            cell = row.texts[part]
            if not is_words(cell):
                continue
            if not_tested(cell):
                del row.texts[part]
            elif outcome_said(cell):
                row.texts.setdefault("outcome", cell)
                del row.texts[part]
        if not_tested(row.texts.get("outcome", "")):
            del row.texts["outcome"]

    def _waits(self, row: ImportRow) -> bool:
        """Whether it names a specimen, or a condition, and says nothing of a test."""
        told = {"outcome", "value", "reason", *PROPERTIES}
        told |= {p.reading.key for p in self.procedures} | {m.reading.key for m in self.methods}
        return bool(row.texts) and not told & set(row.texts)

    # -- specimen and condition -----------------------------------------------------------------

    def _place(self, row: ImportRow) -> None:
        if row.texts.get("specimen"):
            return self._by_specimen(row)
        if row.texts.get("own_id"):
            return self._by_own_id(row, row.texts["own_id"])
        return self._by_condition(row)

    def _by_specimen(self, row: ImportRow) -> None:
        """By a Brunt ID; what surely is none may be the tester's own, never a new specimen by a unit mix-up."""
        typed = row.texts["specimen"]
        code = tidy_code(typed)
        if turns := self.turns.get(code or ""):
            if row.texts.get("own_id"):
                row.own_id = _own(row.texts["own_id"])
            return self._by_turns(row, turns)
        if typed.casefold() in self.own:
            return self._by_own_id(row, typed)
        bare = "".join(c for c in typed.upper() if c.isalnum())
        near = nearest_codes(typed, list(self.turns)) if len(bare) in (4, 5, 6, 7) else []
        if code or near or _LIKE_OURS.match(typed.upper()) or not row.texts.get("condition"):
            raise InputError(
                f"There is no specimen {typed} in this campaign."
                + (f" Nearest: {', '.join(near)}." if near else "")
                + ("" if code or near else " If it is your ID, add a column for its condition.")
            )
        return self._by_own_id(row, typed)

    def _by_own_id(self, row: ImportRow, typed: str) -> None:
        row.own_id = _own(typed)
        known = self.own.get(row.own_id.casefold(), [])
        said = row.texts.get("condition", "").lower()
        if said:
            known = [
                t for t in known if said in (t.condition.label.lower(), str(t.condition).lower())
            ]
        if not known:
            if not said:
                raise InputError(
                    f"No specimen here is called “{typed}”, and no condition is given for it."
                )
            return self._by_condition(row)
        if len({t.specimen_id for t in known}) > 1:
            codes = ", ".join(sorted({t.code for t in known}))
            raise InputError(
                f"Several specimens are called “{typed}”: {codes}. Name one by its ID."
            )
        return self._by_turns(row, known)

    def _by_turns(self, row: ImportRow, turns: list[Turn]) -> None:
        turn = self._turn(turns, row)
        if turn.done:
            raise InputError(f"{turn.code} already has a test.")
        if turn.state == "gone":
            raise InputError(f"{turn.code} was destroyed by an earlier test.")
        if turn.pk in self.taken:
            raise InputError(f"{turn.code} is in an earlier row already.")
        self.taken.add(turn.pk)
        row.turn, row.condition, row.procedure = turn, turn.condition, turn.procedure

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
        if row.condition is None and not self.asked.create_missing:
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

    def _no_duplicate(self, row: ImportRow) -> None:
        """The same ID of the tester's twice under one condition and procedure is told."""
        if not row.own_id or row.procedure is None:
            return
        where = str(row.condition) if row.condition else row.new_condition
        name = (row.own_id.casefold(), where.lower(), row.procedure.pk)
        earlier = self.named.setdefault(name, row.line)
        if earlier != row.line:
            raise InputError(f"“{row.own_id}” stands in line {earlier} already.")

    # -- outcome ---------------------------------------------------------------------------

    def _outcome(self, row: ImportRow) -> None:
        assert row.procedure is not None
        method = row.procedure.method
        row.outcome = _outcome_key(method, row.texts.get("outcome", "").strip())
        if row.outcome == "void" and not row.texts.get("reason"):
            raise InputError("A void row needs a reason.")
        mode = row.texts.get("mode", "").strip()
        if mode:
            said = mode.lower().replace(" ", "_").replace("-", "_")
            keys = {m.label.lower().replace(" ", "_"): m.key for m in method.modes}
            keys |= {m.key: m.key for m in method.modes}
            if said not in keys:
                raise InputError(f"“{mode}” is not a failure mode of {method.name}.")
            row.texts["mode"] = keys[said]
        if row.texts.get("place"):
            said = row.texts["place"].strip().lower().replace(" ", "_")
            if method.place(said) is None:
                raise InputError(f"“{row.texts['place']}” is not a place on this specimen.")
            row.texts["place"] = said


def _own(text: str) -> str:
    name = " ".join(text.split())
    if len(name) > 80:
        raise InputError("Your ID has at most 80 characters.")
    return name


def _outcome_key(method: Method, said: str) -> str:
    """The method's outcome for what a file says; its first where nothing is said."""
    if not said:
        return method.outcomes[0].key
    plain = said.lower()
    known = next((o for o in method.outcomes if plain in (o.key, o.label.strip(" …"))), None)
    means = outcome_said(said)
    known = known or next((o for o in method.outcomes if o.key == means), None)
    if known is None:
        keys = ", ".join(o.key for o in method.outcomes)
        raise InputError(f"“{said}” is not an outcome: there are {keys}.")
    return known.key


def _counts(row: ImportRow) -> None:
    """Whether the row is to be excluded of the mean, as it was where it came from."""
    said = row.texts.get("excluded", "").strip().lower()
    why = row.texts.get("excluded_because", "").strip()
    if said in _NO and (said or not why):
        return
    if not why:
        raise InputError("This row is excluded, and no column says why (excluded because).")
    if row.outcome == "void":
        raise InputError("A void row is not counted anyway; it cannot be excluded as well.")
    row.excluded = why[:300]
    row.became += f"; excluded: {row.excluded}"
