"""A column or block of cells pasted into the queue: the next specimens in their order get its rows."""

import csv
import io

from brunt_core.errors import InputError
from brunt_core.quantities import parse_typed
from brunt_core.quantities.rendering import count_of
from brunt_core.tables import read_head
from brunt_web.campaigns.models import Campaign, Turn
from brunt_web.exchange.columns import column_part
from brunt_web.exchange.words import outcome_said
from brunt_web.library.models import Procedure


def waiting_specimens(campaign: Campaign, procedure: Procedure) -> list[Turn]:
    """The specimens that wait for this procedure, in the order of the queue."""
    return list(
        Turn.objects.filter(campaign=campaign, procedure=procedure, state="waiting", open=True)
        .exclude(specimen__made="failed")
        .filter(specimen__spare=False)
        .select_related("specimen", "condition")
        .order_by("skips", "run_order")
    )


def as_table(text: str, turns: list[Turn], procedure: Procedure) -> str:
    """The block as a table: specimens of the queue before its rows, a head where it has none.

    Raises :class:`InputError` for an empty block, and for more rows than specimens wait.
    """
    rows = _rows(text)
    if not rows:
        raise InputError("Paste one column at least: one row a specimen.", "text")
    head = None
    if _is_head(rows[0], procedure):
        head, *rows = rows
    width = max(len(r) for r in rows) if rows else 0
    if not rows:
        raise InputError("There is a header but no row below it.", "text")
    if len(rows) > len(turns):
        raise InputError(
            f"{count_of(len(rows), 'row')} pasted, but {count_of(len(turns), 'specimen')} waiting in this queue.",
            "text",
        )
    head = head or _heads(rows, width, procedure)
    out = io.StringIO()
    writer = csv.writer(out, delimiter="\t", lineterminator="\n")
    writer.writerow(["specimen", "procedure", *head])
    for turn, row in zip(turns, rows, strict=False):
        writer.writerow([turn.code, procedure.name, *row])
    return out.getvalue()


def _rows(text: str) -> list[list[str]]:
    lines = [line for line in text.strip("\n").splitlines() if line.strip()]
    delimiter = "\t" if any("\t" in line for line in lines) else ";"
    return [[c.strip() for c in row] for row in csv.reader(lines, delimiter=delimiter)]


def _is_head(cells: list[str], procedure: Procedure) -> bool:
    known = [c for c in cells if column_part(read_head(c), [procedure.method])]
    return bool(known) and not any(c[:1].isdigit() for c in cells)


def _heads(rows: list[list[str]], width: int, procedure: Procedure) -> list[str]:
    """Heads for a block without any: words are outcomes, the last column of numbers the reading,
    those before it the sizes of the section."""
    reading = procedure.reading
    sizes = [k for k in procedure.geometry.nominal if _has(procedure, k)]
    words = [i for i in range(width) if any(_worded(r, i) for r in rows)]
    numbers = [i for i in range(width) if i not in words]
    names = [""] * width
    for i in words[:1]:
        names[i] = "outcome"
    if numbers:
        names[numbers[-1]] = reading.key
        for i, key in zip(numbers[:-1], sizes, strict=False):
            names[i] = key
    return [name or f"column {i + 1}" for i, name in enumerate(names)]


def _has(procedure: Procedure, key: str) -> bool:
    return any(i.key == key for i in procedure.method.inputs)


def _worded(row: list[str], index: int) -> bool:
    if index >= len(row) or not row[index] or row[index][:1].isdigit():
        return False
    if outcome_said(row[index]):
        return True
    try:
        parse_typed(row[index], "force", "N")
    except InputError:
        return row[index][:1].isalpha()
    return False
