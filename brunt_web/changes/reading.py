"""Changes as they are read: grouped by act, named, with the numbers before and after."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime
from typing import Any

from django.db.models import Q, QuerySet, TextField
from django.db.models.functions import Cast
from django.utils.dateparse import parse_datetime
from django.utils.timezone import localtime

from brunt_core.quantities.rendering import render
from brunt_web.changes.models import Change
from brunt_web.changes.names import NAMED, OWNERS, PARENTS, Names, models_by_table
from brunt_web.changes.tracked import RETURNABLE, TRACKED
from brunt_web.people.models import Workshop

# What a row says of itself beside these is worked out from them, or names where it stands.
_SILENT = {
    *(
        "id",
        "created_at",
        "changed_at",
        "recorded_at",
        "noted_at",
        "at",
        "version",
        "seed",
        "entry_key",
    ),
    *(
        "value",
        "lower",
        "upper",
        "uncertainty",
        "moment_id",
        "turn_id",
        "test_id",
        "specimen_id",
        "run_id",
    ),
    *(
        "workshop_id",
        "campaign_id",
        "by_id",
        "created_by_id",
        "changed_by_id",
        "made_by_id",
        "lot_id_",
    ),
    *(
        "data",
        "views",
        "file",
        "factor_id",
        "batch_id",
        "position",
        "unit_assumed",
        "computed_by_version",
    ),
    *("digest", "learnt", "working", "password", "made_at", "used_by_id", "plate_id", "photo_id"),
}
_KEPT = {"testing_dayreading": {"value"}, "campaigns_level": {"value"}, "testing_clock": set[str]()}
# Dimension and unit of what lies in the database in SI.
_UNITS = {
    "library_drying.temperature": ("temperature", "°C"),
    "library_drying.duration": ("time", "h"),
    "library_drying.before": ("mass", "g"),
    "library_drying.after": ("mass", "g"),
    "library_lot.bought": ("mass", "kg"),
    "library_lot.remaining": ("mass", "kg"),
    "library_material.density": ("density", "g/cm³"),
    "library_procedure.speed": ("speed", "mm/min"),
    "library_procedure.preload": ("force", "N"),
    "library_blendpart.mass": ("mass", "kg"),
    "library_roomair.temperature": ("temperature", "°C"),
    "testing_test.speed": ("speed", "mm/min"),
    "campaigns_turn.speed": ("speed", "mm/min"),
}


@dataclass
class ChangedValue:
    """One column as it was and became, in words."""

    name: str
    before: str
    after: str


@dataclass
class ChangeGroup:
    """One row that was changed: what it is, what became of it, and the columns."""

    change: Change
    noun: str
    called: str
    said: list[ChangedValue]
    about: str = ""
    url: str = ""
    gone: bool = False

    @property
    def verb(self) -> str:
        """What became of it."""
        return {"+": "made", "-": "deleted"}.get(self.change.what, "changed")


@dataclass
class Act:
    """What one person changed in one go."""

    at: datetime
    who: str
    rows: list[ChangeGroup] = field(default_factory=list)
    number: int = 0


def acts(changes: Iterable[Change]) -> list[Act]:
    """Rows grouped by who did them in one transaction, newest first, with names looked up."""
    rows = _in_place(list(changes))
    names = Names(rows)
    found: list[Act] = []
    for change in rows:
        told = _told(change, names)
        if found and found[-1].number == change.act:
            found[-1].rows.append(told)
            continue
        who = change.who.get_username() if change.who_id and change.who else "command line"
        found.append(Act(change.at, who, [told], number=change.act))
    for act in found:
        act.rows = [r for r in act.rows if r.said or r.change.what != "~"]
    return [act for act in found if act.rows]


def _in_place(rows: list[Change]) -> list[Change]:
    """A row that took another's place in one act, as one change from the one to the other."""
    slots = {kind: how.slot for kind, how in TRACKED.items() if how.slot}
    parts = [c for c in rows if c.kind in slots and c.what != "~"]
    if not parts:
        return rows
    there = {c.pk for c in rows}
    every = {c.pk: c for c in parts}
    for c in Change.objects.filter(act__in={c.act for c in parts}, kind__in=slots).exclude(
        what="~"
    ):
        every.setdefault(c.pk, c)
    pairs: dict[tuple[Any, ...], dict[str, Change]] = {}
    for c in every.values():
        pairs.setdefault((c.act, c.kind, c.keys.get(slots[c.kind])), {})[c.what] = c
    merged: dict[int, Change | None] = {}
    for pair in pairs.values():
        old, new = pair.get("-"), pair.get("+")
        if old is None or new is None:
            continue
        columns = {c for c in new.after if new.after[c] != old.before.get(c)} - {"id"}
        old.before = {c: old.before.get(c) for c in sorted(columns)}
        old.after = {c: new.after[c] for c in sorted(columns)}
        old.what, old.row, old.keys = "~", new.row, new.keys
        first = new if new.pk in there else old
        merged |= {new.pk: None, old.pk: None}
        merged[first.pk] = old
    found = [merged.get(c.pk, c) for c in rows]
    return [c for c in found if c is not None]


def changes_of_rows(kind: str, rows: Sequence[int]) -> Q:
    """All changes of some rows and of what belongs to them, down to the last reading.

    A change keeps what its row belongs to, so the lowest tables need no looking up.
    """
    found = Q(kind=kind, row__in=rows)
    for child, (column, parent) in PARENTS.items():
        if parent != kind or not rows:
            continue
        if child in OWNERS:
            found |= changes_of_rows(child, _rows_below(child, column, rows))
        else:
            found |= Q(kind=child) & _any(Q(keys__contains={column: row}) for row in rows)
    return found


def _rows_below(child: str, column: str, rows: Sequence[int]) -> list[int]:
    """Keys of the rows that belong or belonged to these."""
    model = models_by_table()[child]
    live = model._default_manager.filter(**{f"{column}__in": rows}).values_list("pk", flat=True)
    gone = Change.objects.filter(kind=child)
    gone = gone.filter(_any(Q(keys__contains={column: row}) for row in rows))
    return [*{*live, *gone.values_list("row", flat=True)}]


def _any(parts: Iterable[Q]) -> Q:
    found = Q(pk__in=[])
    for part in parts:
        found |= part
    return found


def search_changes(
    workshop: Workshop,
    words: str = "",
    kind: str = "",
    who: str = "",
    days: tuple[date | None, date | None] = (None, None),
) -> QuerySet[Change]:
    """The workshop's changes, newest first: with these words in what was or became, of a kind, a person, days."""
    found = Change.objects.filter(workshop=workshop).select_related("who")
    for word in words.split()[:8]:
        found = found.annotate(
            was=Cast("before", TextField()),
            became=Cast("after", TextField()),
            owner=Cast("keys", TextField()),
        ).filter(Q(was__icontains=word) | Q(became__icontains=word) | Q(owner__icontains=word))
    if kind in TRACKED:
        found = found.filter(kind=kind)
    if who:
        found = found.filter(who__username=who)
    if days[0]:
        found = found.filter(at__date__gte=days[0])
    if days[1]:
        found = found.filter(at__date__lte=days[1])
    return found.order_by("-id")


def _told(change: Change, names: Names) -> ChangeGroup:
    noun = TRACKED[change.kind].noun if change.kind in TRACKED else change.kind
    kept = {**change.keys, **change.before, **change.after}
    called = str(next((kept[n] for n in NAMED if kept.get(n)), "")).replace("_", " ")
    about, url = names.about(change)
    said = list(_columns(change, names))
    gone = (
        change.what == "-"
        and change.kind in RETURNABLE
        and isinstance(names.rows.get((change.kind, change.row)), Change)
    )
    called = "" if called == about else called
    return ChangeGroup(change, noun, called, said, about=about, url=url, gone=gone)


def _columns(change: Change, names: Names) -> Iterator[ChangedValue]:
    model = names.tables.get(change.kind)
    columns = {f.column: f for f in model._meta.concrete_fields} if model else {}
    silent = _SILENT - _KEPT.get(change.kind, set())
    for column in dict.fromkeys([*change.before, *change.after]):
        if column == PARENTS.get(change.kind, ("",))[0] and change.what != "~":
            continue
        if column in silent and not (column == "at" and change.what == "~"):
            continue
        was, became = change.before.get(column), change.after.get(column)
        if change.what != "~" and (was if change.what == "-" else became) in (
            None,
            "",
            [],
            {},
            False,
        ):
            continue
        yield from _pairs(change, column, columns.get(column), was, became, names)


def _pairs(
    change: Change, column: str, f: Any, was: Any, became: Any, names: Names
) -> Iterator[ChangedValue]:
    name = (f.verbose_name if f is not None else column).replace("_", " ")
    if isinstance(was, dict) and isinstance(became, dict):
        for key in dict.fromkeys([*was, *became]):
            if was.get(key) != became.get(key):
                yield ChangedValue(
                    key.replace("_", " "), _plain(was.get(key)), _plain(became.get(key))
                )
        return
    if f is not None and f.is_relation:
        table = f.related_model._meta.db_table
        before, after = (names.name(table, x) if isinstance(x, int) else "–" for x in (was, became))
    else:
        unit = _UNITS.get(f"{change.kind}.{column}")
        before, after = _value(was, unit), _value(became, unit)
    yield ChangedValue(
        name, before if change.what != "+" else "", after if change.what != "-" else ""
    )


def _value(value: Any, unit: tuple[str, str] | None) -> str:
    if unit and isinstance(value, int | float):
        return render(value, *unit)
    return _plain(value)


def _plain(value: Any) -> str:
    if value is None or value in ("", [], {}):
        return "–"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:.6g}"
    if isinstance(value, list):
        return ", ".join(_plain(v) for v in value)[:300]
    if isinstance(value, dict):
        return ", ".join(f"{k.replace('_', ' ')} {_plain(v)}" for k, v in value.items())[:300]
    text = str(value)
    moment = parse_datetime(text) if len(text) >= 19 and text[4:5] == "-" else None
    return localtime(moment).strftime("%-d %b %Y %H:%M") if moment and moment.tzinfo else text


def last_by(kind: str, rows: Sequence[int]) -> str:
    """Who changed some rows, or what belongs to them, last, and when; empty where nobody has."""
    change = (
        Change.objects.filter(changes_of_rows(kind, rows))
        .select_related("who")
        .order_by("-id")
        .first()
    )
    if change is None or not change.who:
        return ""
    return f"{change.who.get_username()}, {localtime(change.at):%H:%M}"
