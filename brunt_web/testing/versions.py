"""Earlier versions of what was read: kept from the first change on, for until then the row itself is the first."""

from operator import attrgetter
from typing import Any

from django.db import models
from simple_history.models import HistoricalRecords


class LaterVersions(HistoricalRecords):
    """Nothing is written when a row is new; before it is first changed, it is kept as it was entered.

    ``at`` and ``by`` are where the row says when and by whom that was.
    """

    def __init__(self, *args: Any, at: str = "at", by: str = "by", **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.entered_at, self.entered_by = attrgetter(at), attrgetter(by)

    def finalize(self, sender: type[models.Model], **kwargs: Any) -> None:
        """Listen to saves before they are written, too."""
        super().finalize(sender, **kwargs)
        if self.cls is sender:
            models.signals.pre_save.connect(self.keep_first, sender=sender, weak=False)

    def keep_first(self, sender: type[models.Model], instance: models.Model, **more: Any) -> None:
        """The row as it was entered, when it is about to be changed for the first time."""
        if instance._state.adding:
            return
        kept = getattr(sender, self.manager_name)
        if kept.filter(**{self._key(sender): instance.pk}).exists():
            return
        stood = sender._default_manager.get(pk=instance.pk)
        kept.bulk_history_create(
            [stood], default_user=self.entered_by(stood), default_date=self.entered_at(stood)
        )

    def post_save(
        self, instance: models.Model, created: bool, using: str | None = None, **kwargs: Any
    ) -> None:
        """A changed row is kept, a new one is not."""
        if not created:
            super().post_save(instance, created, using, **kwargs)

    @staticmethod
    def _key(sender: type[models.Model]) -> str:
        key = sender._meta.pk
        assert key is not None
        return key.attname
