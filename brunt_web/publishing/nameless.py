"""A report in which nobody is named."""

import re
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from brunt_web.publishing.report import ReportContent

_BRACKETS = re.compile(r" \([^)]*\)")


def without_operators(told: "ReportContent") -> "ReportContent":
    """The report without who the operators were, which stands in brackets: that they differ is enough.

    All other names go by number where the page is written.
    """
    told.remarks = [_BRACKETS.sub("", r) if r.startswith("Operator ") else r for r in told.remarks]
    return told
