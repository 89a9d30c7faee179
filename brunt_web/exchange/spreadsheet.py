"""A campaign as a spreadsheet: numbers as numbers, moments as moments, a row of units under the head."""

import io
from collections.abc import Sequence
from datetime import datetime
from typing import Any

from brunt_core.printing.recipes import FIELDS
from brunt_core.quantities import in_unit
from brunt_web.campaigns.models import Campaign, HistoryEvent, Specimen
from brunt_web.campaigns.resolved import Recipes
from brunt_web.exchange.export import Cell, local, table_of
from brunt_web.people.nameless import Nameless
from brunt_web.testing.marks import latest, marks_at

_WIDEST = 40
Head = tuple[str, str]


def export_xlsx(campaign: Campaign, hidden: Nameless | None = None) -> bytes:
    """Sheets of results, specimens, recipes and history, all with typed cells; text is never a formula."""
    out = io.BytesIO()
    book = _Book(out)
    plain = hidden.text if hidden else str
    columns, rows = table_of(campaign, hidden)
    book.sheet("Results", [(c.head, c.unit) for c in columns], rows)
    for name, (head, found) in (
        ("Specimens", _specimen_rows(_specimens(campaign))),
        ("Recipes", _recipe_rows(campaign)),
        ("History", (_HISTORY, _history_rows(campaign, hidden))),
    ):
        told = [[plain(c) if isinstance(c, str) else c for c in row] for row in found]
        book.sheet(name, [(plain(word), unit) for word, unit in head], told)
    book.close(plain(campaign.question)[:200])
    return out.getvalue()


class _Book:
    """A workbook with the formats of its cells."""

    def __init__(self, out: io.BytesIO) -> None:
        from xlsxwriter import Workbook

        self.book = Workbook(out, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False})  # fmt: skip
        self.bold = self.book.add_format({"bold": True})
        self.italic = self.book.add_format({"italic": True})
        self.moment = self.book.add_format({"num_format": "yyyy-mm-dd hh:mm:ss"})

    def sheet(self, name: str, head: Sequence[Head], rows: Sequence[Sequence[Cell]]) -> None:
        """A sheet: heads, units, rows."""
        sheet = self.book.add_worksheet(name)
        for i, (word, unit) in enumerate(head):
            sheet.write_string(0, i, word, self.bold)
            sheet.write_string(1, i, unit, self.italic)
            longest = max((len(str(row[i])) for row in rows if row[i] is not None), default=0)
            sheet.set_column(i, i, min(max(len(word), longest) + 2, _WIDEST))
        for at, row in enumerate(rows, start=2):
            for i, cell in enumerate(row):
                if isinstance(cell, datetime):
                    sheet.write_datetime(at, i, local(cell), self.moment)
                elif isinstance(cell, int | float):
                    sheet.write_number(at, i, float(f"{cell:.10g}"))
                elif cell:
                    sheet.write_string(at, i, str(cell)[:32_000])
        sheet.freeze_panes(2, 1)

    def close(self, title: str) -> None:
        """Write it out."""
        self.book.set_properties({"title": title})
        self.book.close()


def _specimens(campaign: Campaign) -> list[Specimen]:
    return list(
        Specimen.objects.filter(campaign=campaign)
        .select_related("condition", "procedure", "replaces")
        .order_by("condition__position", "procedure_id", "replicate")
    )


def _specimen_rows(specimens: Sequence[Specimen]) -> tuple[list[Head], list[list[Cell]]]:
    """A row a specimen; its sizes and mass at the last moment they were taken."""
    marks = marks_at(specimens)
    taken = {s.pk: latest(marks[s.pk]) for s in specimens}
    keys = sorted({k for row in taken.values() for k in row})
    head = [
        *((w, "") for w in ("specimen", "your id", "condition", "procedure", "replicate")),
        *((w, "") for w in ("orientation", "made", "made how", "made at", "lot", "recipe", "printer")),
        *((k.replace("_", " "), "g" if k == "mass" else "mm") for k in keys),
        *((w, "") for w in ("spare", "replaces", "outstanding", "not as planned", "defects", "note")),
    ]  # fmt: skip
    rows: list[list[Cell]] = []
    for s in specimens:
        sizes = [_size(taken[s.pk].get(k), k) for k in keys]
        rows.append([
            s.code, s.own_id, str(s.condition), s.procedure.name, s.replicate,
            s.orientation, s.made, s.made_how, s.made_at,
            s.made_as.lot, s.made_as.recipe, s.made_as.printer, *sizes,
            "yes" if s.spare else "", s.replaces.code if s.replaces else "",
            "; ".join(o.says for o in s.outstanding_steps), "; ".join(d.says for d in s.deviations),
            "; ".join(map(str, s.defects)), s.note,
        ])  # fmt: skip
    return head, rows


def _size(mark: Any, key: str) -> float | None:
    if mark is None:
        return None
    return in_unit(mark.value, "mass" if key == "mass" else "length", "g" if key == "mass" else "mm")  # fmt: skip


def _recipe_rows(campaign: Campaign) -> tuple[list[Head], list[list[Cell]]]:
    """A row for each condition under each procedure: the recipe it starts from and every setting resolved."""
    recipes = Recipes.of(campaign)
    procedures = list(campaign.procedures.all())
    found = [
        (c, p, recipes.resolved(c, p))
        for c in campaign.conditions.select_related("material", "recipe")
        for p in procedures
    ]
    fields = [
        (kind, k, f)
        for kind, known in FIELDS.items()
        for k, f in known.items()
        if any(r.kind == kind and k in r.settings for _, _, r in found)
    ]
    head = [("condition", ""), ("procedure", ""), ("recipe", ""), *((f.label, "%" if f.dimension == "share" else f.unit) for _, _, f in fields)]  # fmt: skip
    rows = [
        [str(c), p.name, str(r.recipe or ""), *(_setting(r, kind, k, f) for kind, k, f in fields)]
        for c, p, r in found
    ]
    return head, rows


def _setting(resolved: Any, kind: str, key: str, field: Any) -> Cell:
    """A setting as a number in its field's unit, else as it is shown."""
    one = resolved.settings.get(key) if resolved.kind == kind else None
    if not one:
        return None
    value = one.get("value")
    if not isinstance(value, int | float):
        return str(one.get("shown") or one.get("text") or "")
    if field.dimension == "share":
        return float(f"{value * 100:.10g}")
    if field.dimension in ("number", "text"):
        return float(value)
    return float(f"{in_unit(value, field.dimension, field.unit):.10g}")


_HISTORY: list[Head] = [(w, "") for w in ("specimen", "at", "written down", "what", "in words", "by", "undone")]  # fmt: skip


def _history_rows(campaign: Campaign, hidden: Nameless | None) -> list[list[Cell]]:
    """Every event of every specimen's history, in order."""
    events = (
        HistoryEvent.objects.filter(specimen__campaign=campaign)
        .select_related("specimen", "by")
        .order_by("specimen__code", "at", "id")
    )
    name = hidden.name if hidden else str
    return [
        [e.specimen.code, e.at, e.noted_at, e.kind, e.what, name(e.by.get_username() if e.by else ""), e.undone_at]
        for e in events
    ]  # fmt: skip
