"""Packages of format 1 to 3 read under today's names: tables, columns and values that were renamed since."""

import csv
import io
from collections.abc import Iterator, Mapping

# Today's name of a table: its name until format 2.
TABLES = {
    "history": "life",
    "load_cases": "duties",
    "load_cases_history": "duties_history",
    "data_import": "brought_in",
    "data_import_rows": "brought_in_rows",
    "tuning_trials": "bring_ups",
    "check_standards": "check_bars",
    "feedstock_qualifications": "feedstock_ladders",
}
# By today's table: a column's name until format 2, and its name today.
COLUMNS = {
    "campaigns": {"scatter": "cv"},
    "conditions": {"asks": "requirements"},
    "specimens": {"owes": "outstanding", "owed": "outstanding_steps"},
    "turns": {"reading_owed": "reading_outstanding"},
    "clocks": {"rung": "load_step"},
    "timed_readings": {"rung": "load_step"},
    "timed_readings_history": {"rung": "load_step"},
    "data_import_rows": {"brought_in": "data_import"},
    "check_phases": {"check_bar": "check_standard"},
    "feedstock_attempts": {"ladder": "qualification"},
    "feedstock_pictures": {"ladder": "qualification"},
}
_MODES = {
    "through_the_roads": "across_the_beads",
    "slanting": "oblique",
    "necked_and_drew": "necking",
    "bent_and_kept": "bent_without_breaking",
    "wrung_and_kept": "twisted_without_breaking",
}
# Whole cells by today's table and column.
_VALUES = {
    ("tests", "mode"): _MODES,
    ("tests_history", "mode"): _MODES,
    ("history", "kind"): {"left_out": "excluded"},
    ("campaigns", "shape"): {"sweep": "one_factor", "league": "all_campaigns"},
    ("heading_meanings", "part"): {"left_out": "excluded", "left_out_because": "excluded_because"},
}
# Keys inside cells of JSON.
_INSIDE = {
    ("conditions", "requirements"): ('"owes":', '"outstanding":'),
    ("turns", "tested_as"): ('"owed":', '"outstanding_steps":'),
    ("specimens", "deviations"): ('"key": "owed ', '"key": "outstanding '),
}


class Older(Mapping[str, bytes]):
    """The files of an older package, its tables under today's names."""

    def __init__(self, parts: Mapping[str, bytes]) -> None:
        self.parts = parts

    def __getitem__(self, name: str) -> bytes:
        """A file's content; a table with today's headings and values."""
        table = name.removeprefix("data/").removesuffix(".csv")
        if name != f"data/{table}.csv":
            return self.parts[name]
        before = f"data/{TABLES.get(table, table)}.csv"
        content = self.parts[before if before in self.parts else name]
        return _translated(table, content) if _changed(table) else content

    def __iter__(self) -> Iterator[str]:
        return iter(self.parts)

    def __len__(self) -> int:
        return len(self.parts)


def _changed(table: str) -> bool:
    return table in COLUMNS or any(table == t for t, _ in (*_VALUES, *_INSIDE))


def _translated(table: str, content: bytes) -> bytes:
    """A table under today's names; one that cannot be read is left as it is and refused later."""
    try:
        head, *rows = csv.reader(io.StringIO(content.decode(), newline=""))
    except (UnicodeDecodeError, csv.Error, ValueError):
        return content
    renamed = COLUMNS.get(table, {})
    head = [renamed.get(h, h) for h in head]
    for place, column in enumerate(head):
        words = _VALUES.get((table, column), {})
        old, new = _INSIDE.get((table, column), ("", ""))
        if not words and not old:
            continue
        for row in rows:
            if place < len(row):
                cell = words.get(row[place], row[place])
                row[place] = cell.replace(old, new) if old else cell
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(head)
    writer.writerows(rows)
    return out.getvalue().encode()
