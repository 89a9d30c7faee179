"""A report in which nobody is named."""

import re
from typing import TYPE_CHECKING

from brunt_web.people.nameless import Nameless

if TYPE_CHECKING:
    from brunt_web.publishing.report import Told

_BRACKETS = re.compile(r" \([^)]*\)")


def without_names(told: "Told", hidden: Nameless) -> "Told":
    """The report with every person of the workshop by number, also in remarks, reasons and notes."""
    plain = hidden.text
    # Who the operators were is in brackets, short names among them: that they differ is enough.
    told.remarks = [
        plain(_BRACKETS.sub("", r) if r.startswith("Operator ") else r) for r in told.remarks
    ]
    told.deviations = [(code, plain(says)) for code, says in told.deviations]
    told.accepted = [(plain(sentence), plain(reason)) for sentence, reason in told.accepted]
    for part in told.parts:
        for row in part.rows:
            row.note, row.out = plain(row.note), plain(row.out)
    return told
