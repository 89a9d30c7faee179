"""Note that specimens are made otherwise, treated, conditioned, taken out of their state."""

from collections.abc import Sequence
from datetime import datetime

from django.contrib.auth.models import User
from django.db import transaction

from brunt_core.errors import InputError
from brunt_web.campaigns import life
from brunt_web.campaigns.models import Campaign, Condition, LifeEvent, Specimen


@transaction.atomic
def make_otherwise(
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
    facts = {s.pk: {"note": words.strip()[:300]} if words.strip() else {} for s in found}
    life.made(found, by, at, how.strip()[:60] or "made otherwise", facts)
    return found


@transaction.atomic
def carry_out(
    specimens: Sequence[Specimen], by: User, at: datetime, step: tuple[str, str], words: str = ""
) -> int:
    """A treatment or conditioning that these specimens owe was carried out; returns how many.

    Raises :class:`InputError` when none of them owes it, or it is dated before they were made.
    """
    kind, what = step
    owing = [s for s in specimens if any((o["kind"], o["what"]) == step for o in s.owed)]
    if not owing:
        raise InputError(f"None of these specimens owes “{what}”.", "step")
    early = next((s for s in owing if s.made_at and at < s.made_at), None)
    if early:
        raise InputError(
            f"{early.code} was made on {early.made_at:%d %b %Y %H:%M}; this cannot have been before.",
            "at",
        )
    unmade = next((s for s in owing if s.made != "made"), None)
    if unmade:
        raise InputError(f"{unmade.code} is not made yet.", "step")
    life.carried_out(owing, by, at, (kind, what), words.strip()[:300])
    return len(owing)


@transaction.atomic
def take_back_step(specimen: Specimen, event: LifeEvent, by: User, at: datetime) -> None:
    """Take back that a step was carried out. Raises :class:`InputError` for another kind of event."""
    if event.kind not in ("treated", "conditioned") or event.undone_at:
        raise InputError("Only a treatment or a conditioning can be taken back here.", "event")
    event.undone_at = at
    event.save(update_fields=["undone_at"])
    life.note([specimen], "step_taken_back", by, at, f"taken back: {event.what}")
    life.settle([specimen])


def take_out(specimens: Sequence[Specimen], by: User, at: datetime) -> None:
    """They leave the state they were conditioned in; the minutes count from here."""
    life.left_state(specimens, by, at)
