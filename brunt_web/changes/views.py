"""The workshop's changes as one page that can be searched, and as a file."""

import csv
import json
from collections.abc import Iterator
from datetime import date
from typing import Any

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse, StreamingHttpResponse
from django.shortcuts import redirect, render
from django.utils.dateparse import parse_date
from django.views.decorators.http import require_POST

from brunt_core.errors import InputError
from brunt_web.changes.actions.put_back import undelete_row
from brunt_web.changes.models import Change
from brunt_web.changes.reading import acts, changes_of_rows, search_changes
from brunt_web.changes.tracked import TRACKED
from brunt_web.interface.typed import whole
from brunt_web.people.queries import members

_AT_ONCE, _LINES = 60, 50_000


def _asked(request: HttpRequest) -> tuple[Any, dict[str, str]]:
    get = {k: request.GET.get(k, "").strip() for k in ("q", "kind", "who", "from", "to", "of")}
    workshop = request.workshop  # type: ignore[attr-defined]
    found = search_changes(
        workshop, get["q"], get["kind"], who=get["who"], days=(_day(get["from"]), _day(get["to"]))
    )
    kind, _, row = get["of"].partition(":")
    if kind in TRACKED and whole(row):
        found = found.filter(changes_of_rows(kind, [whole(row) or 0]))
    return found, get


def _day(text: str) -> date | None:
    try:
        return parse_date(text)
    except ValueError:
        return None


def changes_view(request: HttpRequest) -> HttpResponse:
    """Every change, newest first."""
    found, get = _asked(request)
    pages = Paginator(found, _AT_ONCE)
    page = pages.get_page(request.GET.get("page"))
    kept = request.GET.copy()
    kept.pop("page", None)
    context = {
        "acts": acts(page.object_list),
        "page": page,
        "count": pages.count,
        "asked": get,
        "kept": kept.urlencode(),
        "kinds": sorted(((k, t.noun) for k, t in TRACKED.items()), key=lambda x: x[1]),
        "people": [s.user.get_username() for s in members(request.workshop)],  # type: ignore[attr-defined]
    }
    return render(request, "changes/changes.html", context)


@require_POST
def change_back_view(request: HttpRequest, pk: int) -> HttpResponse:
    """Put back what was deleted."""
    try:
        change = undelete_row(request.workshop, pk)  # type: ignore[attr-defined]
    except InputError as problem:
        words = {
            "title": "Not restored",
            "happened": str(problem),
            "todo": "Go back to the changes and check the current values.",
        }
        return render(request, "interface/sorry.html", words, status=422)
    told = acts([change])
    messages.success(
        request, f"The {told[0].rows[0].noun} is restored." if told else "It is restored."
    )
    return redirect(told[0].rows[0].url if told and told[0].rows[0].url else "changes")


def changes_csv(request: HttpRequest) -> StreamingHttpResponse:
    """The same as a table: a line for each column that changed."""
    found, _ = _asked(request)
    answer = StreamingHttpResponse(_lines(found), content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = 'attachment; filename="changes.csv"'
    return answer


class _Echo:
    def write(self, text: str) -> str:
        return text


def _lines(found: Any) -> Iterator[str]:
    out = csv.writer(_Echo())
    yield out.writerow(
        ["at", "who", "what", "kind", "row", "called", "about", "column", "before", "after"]
    )
    rows: list[Change] = []
    for change in found[:_LINES].iterator(chunk_size=500):
        rows.append(change)
        if len(rows) == 500:
            yield from _written(out, rows)
            rows = []
    yield from _written(out, rows)


def _written(out: Any, rows: list[Change]) -> Iterator[str]:
    for act in acts(rows):
        for told in act.rows:
            c = told.change
            head = [c.at.isoformat(timespec="seconds"), act.who, told.verb, told.noun, c.row]
            head += [_harmless(told.called), _harmless(told.about)]
            for said in told.said:
                yield out.writerow(
                    [*head, said.name, _harmless(said.before), _harmless(said.after)]
                )
            if not told.said:
                yield out.writerow([*head, "", "", ""])


def _harmless(text: str) -> str:
    """What a spreadsheet would run as a formula, made text."""
    return (
        f"'{text}" if text[:1] in ("=", "+", "@", "\t", "\r") or text[:2] in ("-=", "-@") else text
    )


def changes_json(request: HttpRequest) -> HttpResponse:
    """The same in full, as it lies in the database."""
    found, _ = _asked(request)
    rows = [
        {
            "at": c.at.isoformat(),
            "who": c.who.get_username() if c.who_id and c.who else None,
            "what": {"+": "made", "-": "deleted"}.get(c.what, "changed"),
            "kind": c.kind,
            "row": c.row,
            "keys": c.keys,
            "before": {k: v for k, v in c.before.items() if k != "data"},
            "after": c.after,
        }
        for c in found[:_LINES].iterator(chunk_size=500)
    ]
    answer = HttpResponse(
        json.dumps(rows, ensure_ascii=False, indent=1), content_type="application/json"
    )
    answer["Content-Disposition"] = 'attachment; filename="changes.json"'
    return answer
