"""Note that specimens are not printed here, treated, conditioned, taken out of their state."""

from collections.abc import Sequence
from datetime import datetime

from django.contrib.auth.models import User
from django.db import transaction

from brunt_core.errors import InputError
from brunt_web.campaigns import history
from brunt_web.campaigns.models import Campaign, Condition, HistoryEvent, Specimen
from brunt_web.campaigns.outstanding import still_needs
from brunt_web.campaigns.recorded import MadeAs


@transaction.atomic
def mark_as_made(
    campaign: Campaign,
    condition: Condition | None,
    by: User,
    at: datetime,
    how: str,
    words: str = "",
) -> list[Specimen]:
    """A whole condition that Brunt did not print: printed elsewhere, cut from stock, bought.

    Without a condition everything of the campaign that is still planned.
    Raises :class:`InputError` when nothing of it is left to be made.
    """
    wanted = Specimen.objects.select_for_update().filter(campaign=campaign, made="planned")
    found = list(wanted.filter(condition=condition) if condition else wanted)
    if not found:
        what = f"of {condition}" if condition else "of this campaign"
        raise InputError(f"Every specimen {what} is made already.", "condition")
    facts = {s.pk: MadeAs(note=words.strip()[:300]) for s in found}
    history.made(found, by, at, how.strip()[:60] or "not printed here", facts)
    return found


@transaction.atomic
def carry_out(
    specimens: Sequence[Specimen], by: User, at: datetime, step: tuple[str, str], words: str = ""
) -> int:
    """A treatment or conditioning that these specimens owe was done; returns how many.

    Raises :class:`InputError` when none of them still needs it, or it is dated before they were made.
    """
    kind, what = step
    outstanding = [s for s in specimens if still_needs(s, kind, what)]
    if not outstanding:
        raise InputError(f"None of these specimens still needs “{what}”.", "step")
    early = next((s for s in outstanding if s.made_at and at < s.made_at), None)
    if early:
        raise InputError(
            f"{early.code} was made on {early.made_at:%d %b %Y %H:%M}; this cannot have been before.",
            "at",
        )
    unmade = next((s for s in outstanding if s.made != "made"), None)
    if unmade:
        raise InputError(f"{unmade.code} is not made yet.", "step")
    history.carried_out(outstanding, by, at, (kind, what), words.strip()[:300])
    return len(outstanding)


@transaction.atomic
def take_back_step(specimen: Specimen, event: HistoryEvent, by: User, at: datetime) -> None:
    """Undo that a step was done. Raises :class:`InputError` for another kind of event."""
    if event.kind not in ("treated", "conditioned") or event.undone_at:
        raise InputError("Only a treatment or conditioning can be undone here.", "event")
    event.undone_at = at
    event.save(update_fields=["undone_at"])
    history.note([specimen], "step_taken_back", by, at, f"undone: {event.what}")
    history.settle([specimen])


def take_out(specimens: Sequence[Specimen], by: User, at: datetime) -> None:
    """They leave the state they were conditioned in; the minutes count from here."""
    history.left_state(specimens, by, at)
