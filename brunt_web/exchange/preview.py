"""What each row of a file would become. Nothing is stored here."""

from collections.abc import Callable

from brunt_core.quantities.rendering import count_of
from brunt_core.tables import Column, ParsedTable, read_table
from brunt_web.campaigns.models import Campaign
from brunt_web.campaigns.queries import procedures_of
from brunt_web.exchange import columns
from brunt_web.exchange.reader import Reader
from brunt_web.exchange.rows import Asked, ImportRow, Preview, RowQuestion, UsedColumn
from brunt_web.exchange.values import question_key
from brunt_web.jobs.progress import stepped

_SHOWN = 4
_READS_LIKE = {
    "thousands": ("have a point that may separate thousands", "The point separates thousands"),
    "radius": ("read like a radius", "It is the radius; double it"),
}


def known_heads(campaign: Campaign) -> Callable[[Column], bool]:
    """Whether a heading means something here."""
    methods = [p.method for p in procedures_of(campaign)]
    meanings = columns.remembered(campaign.workshop)
    return lambda column: bool(meanings.get(column.name) or columns.column_part(column, methods))


def preview(campaign: Campaign, asked: Asked) -> Preview:
    """Read a file against a campaign. Raises :class:`InputError` when it is no table at all."""
    table = read_table(asked.text, known_heads(campaign))
    reader = Reader(campaign, table, asked)
    problem = reader.problem
    rows = (
        []
        if problem
        else [reader.row(*row) for row in stepped(table.rows, len(table.rows), "rows read")]
    )
    used = [
        UsedColumn(i, column, part, _first_cells(table, i))
        for i, (column, part) in enumerate(zip(table.columns, reader.parts, strict=True))
        if column.head or any(_first_cells(table, i))
    ]
    questions = _questions(rows, asked)
    return Preview(
        rows, used, questions, columns.part_choices(reader.methods), _aside(table), problem
    )


def _first_cells(table: ParsedTable, index: int) -> tuple[str, ...]:
    cells = (row[index] for _, row in table.rows[:40] if index < len(row) and row[index])
    return tuple(cell[:24] for _, cell in zip(range(_SHOWN), cells, strict=False))


def _aside(table: ParsedTable) -> list[str]:
    said = [f"Above the header: {line[:80]}" for line in table.above]
    if table.summary:
        lines = ", ".join(f"{n} ({cells[0] or cells[1]})" for n, cells in table.summary[:6])
        said.append(f"Means and counts, not specimens: line {lines}")
    if table.repeated:
        said.append(f"Header repeated: line {', '.join(str(n) for n in table.repeated[:6])}")
    return said


def _questions(rows: list[ImportRow], asked: Asked) -> list[RowQuestion]:
    """The unit mix-ups that rows share, with the answer given so far."""
    found: dict[str, RowQuestion] = {}
    for row in rows:
        if row.unit_mixup is None or row.refused or row.procedure is None:
            continue
        key = _key(row)
        if key not in found:
            found[key] = RowQuestion(key, "", "", answer=asked.answers.get(key, ""))
        found[key].rows.append(row)
    for question in found.values():
        _word(question)
    return list(found.values())


def _key(row: ImportRow) -> str:
    assert row.unit_mixup is not None and row.procedure is not None
    return question_key(row.unit_mixup, row.procedure)


def _word(question: RowQuestion) -> None:
    """“12 rows read like kgf: 58.4 → 58.4 kgf.”"""
    first = question.rows[0]
    assert first.unit_mixup is not None and first.procedure is not None
    unit_mixup, several = first.unit_mixup, len(question.rows) > 1
    known = {i.key: i.label for i in first.procedure.method.inputs}
    label = known.get(unit_mixup.field, first.procedure.ranked_property.name)
    count = count_of(len(question.rows), "row")
    like, change = _READS_LIKE.get(
        unit_mixup.unit, (f"read like {unit_mixup.unit}", f"All as {unit_mixup.unit}")
    )
    if unit_mixup.unit == "decimal point":
        like, change = "have a misplaced decimal point", "Move the point in all"
    if not several:
        like = like.replace("read ", "reads ", 1).replace("have ", "has ", 1)
        change = change.replace("All as", "As").replace(" in all", "")
    question.sentence = f"{count} {like}: {label.lower()}, for instance {unit_mixup.instead}."
    question.change = change
