"""A report as its template takes it: whole, or short enough for one sheet of A4."""

from collections.abc import Callable, Mapping
from typing import Any

from brunt_web.comparison.ranking_chart import HEIGHT, WIDTH
from brunt_web.publishing.report import ReportContent, gathered
from brunt_web.testing.models import Photo

_SHORT_ROWS, _SHORT_PARTS, _SHORT_SAID = 10, 2, 3


def report_context(
    told: ReportContent,
    query: Mapping[str, str],
    files: list[tuple[str, str]],
    photo_url: Callable[[Photo], str],
) -> dict[str, Any]:
    """The context of the report's template."""
    short = query.get("short") == "1"
    parts = [p for p in told.parts if p.page.lines] if short else told.parts
    rows = _SHORT_ROWS if len(parts) < 2 else _SHORT_ROWS // 2
    won = dict(told.campaign_summary).get("Best", [])
    return {
        "told": told,
        "short": short,
        "parts": parts[:_SHORT_PARTS] if short else parts,
        "more_parts": max(len(parts) - _SHORT_PARTS, 0) if short else 0,
        "most": rows if short else None,
        "said": won[:_SHORT_SAID] if short else [],
        "gathered": gathered(told.deviations),
        "files": files,
        "pictures": [(p, photo_url(p)) for p in told.photos],
        "ranking_chart": {"width": WIDTH, "height": HEIGHT},
    }
