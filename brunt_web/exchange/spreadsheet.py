"""A campaign as a spreadsheet: numbers as numbers, moments as moments, a row of units under the head."""

import io
from datetime import datetime

from xlsxwriter import Workbook

from brunt_web.campaigns.models import Campaign
from brunt_web.exchange.export import local, table_of

_WIDEST = 40


def export_xlsx(campaign: Campaign) -> bytes:
    """The table with typed cells; text is never a formula."""
    columns, rows = table_of(campaign)
    out = io.BytesIO()
    book = Workbook(
        out, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False}
    )
    sheet = book.add_worksheet("Results")
    bold, units = book.add_format({"bold": True}), book.add_format({"italic": True})
    moment = book.add_format({"num_format": "yyyy-mm-dd hh:mm:ss"})
    for i, column in enumerate(columns):
        sheet.write_string(0, i, column.head, bold)
        sheet.write_string(1, i, column.unit, units)
        longest = max((len(str(row[i])) for row in rows if row[i] is not None), default=0)
        sheet.set_column(i, i, min(max(len(column.head), longest) + 2, _WIDEST))
    for at, row in enumerate(rows, start=2):
        for i, cell in enumerate(row):
            if isinstance(cell, datetime):
                sheet.write_datetime(at, i, local(cell), moment)
            elif isinstance(cell, int | float):
                sheet.write_number(at, i, float(f"{cell:.10g}"))
            elif cell:
                sheet.write_string(at, i, cell)
    sheet.freeze_panes(2, 1)
    book.set_properties({"title": campaign.question[:200]})
    book.close()
    return out.getvalue()
