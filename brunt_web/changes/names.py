"""What rows are called and what they belong to: of live ones from their table, of gone ones from what was kept."""

from collections.abc import Iterator, Sequence
from typing import Any

from django.apps import apps
from django.db import models
from django.urls import reverse

from brunt_web.changes.models import Change

# Which column leads from a row to what it belongs to, and the table that is in.
PARENTS = {
    "testing_reading": ("test_id", "testing_test"),
    "testing_test": ("turn_id", "campaigns_turn"),
    "testing_curve": ("turn_id", "campaigns_turn"),
    "testing_clock": ("turn_id", "campaigns_turn"),
    "testing_timedreading": ("turn_id", "campaigns_turn"),
    "testing_measurement": ("moment_id", "campaigns_historyevent"),
    "testing_picturereading": ("photo_id", "testing_photo"),
    "testing_photo": ("specimen_id", "campaigns_specimen"),
    "testing_dayreading": ("rig_id", "library_rig"),
    "campaigns_turn": ("specimen_id", "campaigns_specimen"),
    "campaigns_historyevent": ("specimen_id", "campaigns_specimen"),
    "campaigns_campaignprocedure": ("campaign_id", "campaigns_campaign"),
    "campaigns_baserecipe": ("campaign_id", "campaigns_campaign"),
    "campaigns_factor": ("campaign_id", "campaigns_campaign"),
    "campaigns_level": ("factor_id", "campaigns_factor"),
    "campaigns_condition": ("campaign_id", "campaigns_campaign"),
    "campaigns_acceptedconfounder": ("campaign_id", "campaigns_campaign"),
    "exchange_dataimportrow": ("data_import_id", "exchange_dataimport"),
    "publishing_reportphoto": ("report_id", "publishing_report"),
    "library_partmesh": ("variant_id", "library_specimenvariant"),
    "testing_askedcurve": ("turn_id", "campaigns_turn"),
    "printing_batch": ("campaign_id", "campaigns_campaign"),
    "printing_plate": ("batch_id", "printing_batch"),
    "printing_printattempt": ("plate_id", "printing_plate"),
    "printing_grade": ("batch_id", "printing_batch"),
    "printing_print": ("specimen_id", "campaigns_specimen"),
    "library_drying": ("lot_id", "library_lot"),
    "library_sealing": ("lot_id", "library_lot"),
    "library_blendpart": ("lot_id", "library_lot"),
    "library_tuning": ("recipe_id", "library_recipe"),
    "library_calibration": ("rig_id", "library_rig"),
    "library_procedure_also_on": ("procedure_id", "library_procedure"),
    "treatments_runstep": ("run_id", "treatments_run"),
    "treatments_inside": ("run_id", "treatments_run"),
    "treatments_logreading": ("run_id", "treatments_run"),
    "feedstock_attempt": ("qualification_id", "feedstock_qualification"),
    "feedstock_picture": ("qualification_id", "feedstock_qualification"),
    "checks_phase": ("check_standard_id", "checks_checkstandard"),
    "decisions_loadcase": ("campaign_id", "campaigns_campaign"),
    "publishing_report": ("campaign_id", "campaigns_campaign"),
    "publishing_reportlink": ("campaign_id", "campaigns_campaign"),
    "exchange_dataimport": ("campaign_id", "campaigns_campaign"),
    "people_seat": ("user_id", "auth_user"),
}
# Tables that others belong to.
OWNERS = {parent for _, parent in PARENTS.values()}
# The page of what a change is about: its address's name, and by what of the row.
PAGES = {
    "campaigns_specimen": ("specimen", "code"),
    "campaigns_campaign": ("ask", "pk"),
    "printing_batch": ("batch", "pk"),
    "library_lot": ("lot", "pk"),
    "library_material": ("material", "pk"),
    "library_recipe": ("recipe", "pk"),
    "library_procedure": ("procedure", "pk"),
    "library_rig": ("rig", "pk"),
    "treatments_run": ("run", "number"),
    "feedstock_qualification": ("qualification", "pk"),
    "checks_checkstandard": ("check", "pk"),
    "decisions_loadcase": ("load-case", "pk"),
}
NAMED = ("label", "name", "key", "aspect", "kind_key", "text")


def models_by_table() -> dict[str, Any]:
    """Each tracked table's model."""
    return {m._meta.db_table: m for m in apps.get_models(include_auto_created=True)}


class Names:
    """Names of rows that changes point at: of live ones from their table, of gone ones from what was kept."""

    def __init__(self, changes: Sequence[Change]) -> None:
        self.tables = models_by_table()
        self.rows: dict[tuple[str, int], Any] = {}
        self.missing: set[tuple[str, int]] = set()
        wanted: set[tuple[str, int]] = set()
        for change in changes:
            wanted |= set(self._pointed(change))
        while wanted:
            self._fetch(wanted)
            wanted = (
                {
                    (PARENTS[kind][1], key)
                    for (kind, row), found in list(self.rows.items())
                    if kind in PARENTS and (key := self._up(kind, found)) is not None
                }
                - set(self.rows)
                - self.missing
            )

    def _pointed(self, change: Change) -> Iterator[tuple[str, int]]:
        yield change.kind, change.row
        if change.kind in PARENTS:
            column, parent = PARENTS[change.kind]
            if change.keys.get(column):
                yield parent, change.keys[column]
        model = self.tables.get(change.kind)
        for side in (change.before, change.after):
            for f in model._meta.concrete_fields if model else ():
                value = side.get(f.column)
                if f.is_relation and f.related_model and isinstance(value, int):
                    yield f.related_model._meta.db_table, value

    def _up(self, kind: str, found: Any) -> int | None:
        column = PARENTS[kind][0]
        return found.keys.get(column) if isinstance(found, Change) else getattr(found, column, None)

    def _fetch(self, wanted: set[tuple[str, int]]) -> None:
        by_table: dict[str, set[int]] = {}
        for kind, row in wanted:
            by_table.setdefault(kind, set()).add(row)
        for kind, rows in by_table.items():
            live: dict[int, Any] = {}
            if kind in self.tables:
                model = self.tables[kind]
                heavy = [
                    f.name for f in model._meta.concrete_fields if isinstance(f, models.BinaryField)
                ]
                live = model._default_manager.defer(*heavy).in_bulk(rows)
            gone = rows - set(live)
            kept = Change.objects.filter(kind=kind, row__in=gone, what="-") if gone else ()
            for row, found in [*live.items(), *((c.row, c) for c in kept)]:
                self.rows[kind, row] = found
            self.missing |= {(kind, row) for row in rows if (kind, row) not in self.rows}

    def name(self, kind: str, row: int) -> str:
        """What a row is called, gone or not."""
        found = self.rows.get((kind, row))
        if found is None:
            return f"no. {row}"
        if isinstance(found, Change):
            kept = {**found.keys, **found.before}
            return str(
                next((kept[n] for n in ("code", "question", *NAMED) if kept.get(n)), f"no. {row}")
            )
        if kind == "campaigns_specimen":
            return str(found.code)
        return str(getattr(found, "question", None) or found)

    def about(self, change: Change) -> tuple[str, str]:
        """What a change is about at the top, and its page."""
        kind, row, found = change.kind, change.row, self.rows.get((change.kind, change.row))
        if kind in PARENTS:
            row = change.keys.get(PARENTS[kind][0]) or 0
            kind = PARENTS[kind][1]
            while kind in PARENTS and kind not in PAGES and (kind, row) in self.rows:
                row = self._up(kind, self.rows[kind, row]) or 0
                kind = PARENTS[kind][1]
            found = self.rows.get((kind, row))
        if not row:
            return "", ""
        if found is None or isinstance(found, Change) or kind not in PAGES:
            return self.name(kind, row), ""
        page, by = PAGES[kind]
        return self.name(kind, row), reverse(page, args=[getattr(found, by)])
