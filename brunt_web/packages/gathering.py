"""The rows of a package: those of its campaigns, then what they rest on, each with its number within its table."""

from dataclasses import dataclass
from typing import Any

from django.contrib.auth import get_user_model
from django.db import models

from brunt_core.quantities.rendering import count_of
from brunt_web.campaigns.models import Campaign
from brunt_web.checks.queries import checks_of
from brunt_web.interface.records import RecordField
from brunt_web.packages.earlier import packaged_changes, people_in
from brunt_web.packages.tables import ALONG, TABLES, Table, columns, is_person, target
from brunt_web.packages.told import is_told
from brunt_web.people.models import Workshop
from brunt_web.people.nameless import Nameless
from brunt_web.treatments.models import Inside, Run

_TABLE = {t.name: t for t in TABLES}
Rows = list[dict[str, Any]]


@dataclass(frozen=True)
class Scope:
    """How much of it: ``whole`` also what no campaign refers to (unused library, feedstock, hours); without
    ``money`` no price and no note on a material or lot, which may name a supplier; ``by_link`` what
    :data:`brunt_web.packages.told.TOLD` allows, and of the photos those chosen for the report.
    """

    money: bool = True
    whole: bool = False
    by_link: bool = False


class Gathered:
    """What goes into a package, read at one moment."""

    def __init__(self, workshop: Workshop, campaigns: list[Campaign], scope: Scope) -> None:
        self.scope = scope
        self.workshop = Workshop.objects.get(pk=workshop.pk)
        self.campaigns = campaigns
        self.rows: dict[str, Rows] = {}
        self.numbers: dict[str, dict[int, int]] = {}
        self.people: dict[int, int] = {}
        self.names: dict[str, str] = {}
        self.not_included: list[str] = []
        self._gather()
        self._number()

    def _gather(self) -> None:
        """The rows of every table: those of the campaigns first, then what they refer to."""
        keys = [c.pk for c in self.campaigns]
        runs = Run.objects.filter(
            pk__in=Inside.objects.filter(specimen__campaign__in=keys).values("run")
        )
        for table in TABLES:
            if not table.path:
                continue
            if self.scope.by_link and not is_told(table):
                self.rows[table.name] = []
                continue
            if table.whole:
                self.rows[table.name] = (
                    _read(table, {table.path: self.workshop.pk}) if self.scope.whole else []
                )
                continue
            if table.path in ("run", "run__run"):
                where: dict[str, Any] = {"pk__in" if table.path == "run" else "run__in": runs}
            else:
                where = {f"{table.path}__in": keys}
            self.rows[table.name] = _read(table, where)
        self._check_standards()
        self._only_chosen_photos()
        self._library()
        # Twice: a procedure's further rigs come along, and what comes along with those.
        for table in 2 * [t for t in TABLES if t.name in ALONG]:
            owner = ALONG[table.name]
            of = next(target(f) for f in columns(table) if f.name == owner)
            theirs = [r["pk"] for r in self.rows[of.name]] if of else []
            self.rows[table.name] = _read(table, {f"{owner}__in": theirs})
            self._library()
        self.changes = packaged_changes(self.rows)

    def _check_standards(self) -> None:
        """What warnings of a comparison rest on: the check standards tested as one of the campaigns' procedures."""
        keys = {p.comparability_key for c in self.campaigns for p in c.procedures.all()}
        self.checks = [c for c in checks_of(self.workshop) if c.procedure.comparability_key in keys]
        if self.scope.whole:
            return
        own = [c.pk for c in self.checks]
        for name, path in (("check_standards", "pk__in"), ("check_phases", "check_standard__in")):
            self.rows[name] = _read(_TABLE[name], {path: own})
        for check in self.checks:
            self.not_included.append(
                f"The tests of the check standard “{check}” in other campaigns: flat/check_points.csv lists them; their "
                "specimens are not in this package."
            )

    def _only_chosen_photos(self) -> None:
        """By a link, the photos that were chosen for the report, and what was measured on them."""
        if not self.scope.by_link:
            return
        chosen = {r["photo_id"] for r in self.rows["report_photos"]}
        every = self.rows["photos"]
        self.rows["photos"] = [r for r in every if r["pk"] in chosen]
        self.rows["picture_readings"] = [
            r for r in self.rows["picture_readings"] if r["photo_id"] in chosen
        ]
        if missing := len(every) - len(chosen):
            self.not_included.append(
                f"{count_of(missing, 'photo')} that nobody chose for the report."
            )

    def _library(self) -> None:
        """What is referred to, from those that refer to others down to those that refer to nothing."""
        for table in reversed([t for t in TABLES if not t.path and t.name not in ALONG]):
            self._referred(table)

    def _referred(self, table: Table) -> None:
        """The library's rows that rows already gathered refer to, those that they rest on too."""
        wanted: set[int] = set()
        if self.scope.whole:
            wanted = set(table.model._default_manager.filter(workshop=self.workshop.pk).values_list("pk", flat=True))  # fmt: skip
        for other in TABLES:
            for f in columns(other):
                if target(f) is table:
                    wanted |= {r[f.attname] for r in self.rows.get(other.name, []) if r[f.attname]}
        have: set[int] = set()
        rows: Rows = []
        while wanted - have:
            more = _read(table, {"pk__in": wanted - have})
            have |= wanted
            rows += more
            own = [f for f in columns(table) if target(f) is table]
            wanted |= {r[f.attname] for r in more for f in own if r[f.attname]}
        self.rows[table.name] = sorted(rows, key=lambda r: r["pk"])

    def _number(self) -> None:
        """Every row gets its number within its table, every person one by the order they came."""
        users = people_in(self.changes)
        for table in TABLES:
            rows = self.rows[table.name]
            self.numbers[table.name] = {r["pk"]: i for i, r in enumerate(rows, 1)}
            for f in columns(table):
                if is_person(f):
                    users |= {r[f.attname] for r in rows if r[f.attname]}
        self.people = {pk: i for i, pk in enumerate(sorted(users), 1)}
        for user in get_user_model().objects.filter(pk__in=users):
            self.names[user.get_username()] = f"person {self.people[user.pk]}"
        self.hidden = Nameless.of_all(self.people)


def _read(table: Table, where: dict[str, Any]) -> Rows:
    names = [f.attname for f in columns(table) if not isinstance(f, models.BinaryField)]
    rows = table.model._default_manager.filter(**where).order_by("pk").distinct()
    found = [
        dict(zip(["pk", *names], map(RecordField.plain, r), strict=True))
        for r in rows.values_list("pk", *names)
    ]
    return found
