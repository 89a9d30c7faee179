"""Keep what was read of the rig today, before a series."""

from datetime import datetime

from django.contrib.auth.models import User

from brunt_core.computation import read_input
from brunt_core.errors import InputError
from brunt_web.campaigns.models import Turn
from brunt_web.testing.day import daily_inputs
from brunt_web.testing.models import DayReading


def note_daily(turn: Turn, by: User, at: datetime, texts: dict[str, str]) -> list[DayReading]:
    """Keep what was read of the rig today. Raises :class:`InputError` for what is no reading."""
    specs = {i.key: i for i in daily_inputs(turn.procedure)}
    told = {k: t.strip() for k, t in texts.items() if k in specs and t.strip()}
    if not told:
        raise InputError(
            "Let it swing freely a few times and type the readings, e.g. 138; 138.5.", "daily"
        )
    for key, text in told.items():
        read_input(specs[key], text, {})
        if len(text) > 120:
            raise InputError("Use fewer than 120 characters: about ten readings.", key)
    return DayReading.objects.bulk_create(
        DayReading(
            workshop_id=turn.workshop_id,
            procedure=turn.procedure,
            rig_id=turn.procedure.rig_id,
            key=key,
            text=text,
            at=at,
            by=by,
        )
        for key, text in told.items()
    )
