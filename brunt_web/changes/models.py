"""Who changed what, when, from what to what: one row for each row that was changed."""

from django.conf import settings
from django.contrib.postgres.indexes import GinIndex
from django.db import models

from brunt_web.people.models import Workshop


class Change(models.Model):
    """One row of one table as it was and as it became; written by the database alone.

    ``kind`` is the table, ``row`` its key there, ``act`` the transaction that did it; ``what`` is ``+``
    made, ``~`` changed, ``-`` deleted; ``keys`` what the row belongs to; ``before`` and ``after`` hold
    the columns that differ, or the whole row. Nobody (the command line) where ``who`` is empty.
    """

    at = models.DateTimeField()
    act = models.BigIntegerField()
    who = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.DO_NOTHING, null=True, db_constraint=False, related_name="+"
    )  # fmt: skip
    workshop = models.ForeignKey(
        Workshop, models.DO_NOTHING, null=True, db_constraint=False, db_index=False, related_name="+"
    )  # fmt: skip
    kind = models.CharField(max_length=40)
    row = models.BigIntegerField()
    what = models.CharField(max_length=1)
    keys = models.JSONField(default=dict)
    before = models.JSONField(default=dict)
    after = models.JSONField(default=dict)

    class Meta:
        ordering = ["-id"]
        indexes = [
            models.Index(fields=["workshop", "-id"], name="change_of_workshop"),
            models.Index(fields=["kind", "row"], name="change_of_row"),
            models.Index(fields=["act"], name="change_of_act"),
            GinIndex(fields=["keys"], name="change_keys", opclasses=["jsonb_path_ops"]),
        ]

    def __str__(self) -> str:
        return f"{self.what} {self.kind} {self.row}"
