"""Bring in a load–displacement curve, move its picks, take it off."""

from datetime import datetime

from django.contrib.auth.models import User
from django.db import transaction

from brunt_core.curves.reading import read_curve
from brunt_core.curves.reduction import PICKS, reduce_curve
from brunt_core.errors import InputError
from brunt_web.campaigns import life
from brunt_web.campaigns.models import Turn
from brunt_web.testing.curve_queries import gauge_of, packed, unpacked
from brunt_web.testing.models import Curve

MOST_BYTES = 60_000_000


@transaction.atomic
def bring_curve(turn: Turn, by: User, at: datetime, name: str, content: bytes) -> Curve:
    """Read a file and keep its points. Raises :class:`InputError` for what is no curve."""
    if not turn.procedure.method.curve:
        raise InputError(f"{turn.procedure.method.name} takes no curve.", "curve")
    if not content:
        raise InputError("Choose a file first: displacement and force in two columns.", "curve")
    if len(content) > MOST_BYTES:
        raise InputError("The file is larger than 60 MB.", "curve")
    curve = read_curve(_decoded(content))
    reduce_curve(curve, gauge_of(turn))
    Turn.objects.select_for_update().get(pk=turn.pk)
    Curve.objects.filter(turn=turn).delete()
    life.note(
        [turn.specimen], "curve", by, at, f"curve brought in: {name[:120]}", {"turn": turn.pk}
    )
    return Curve.objects.create(
        turn=turn,
        name=name[:120] or "curve",
        data=packed(curve),
        points=len(curve.force),
        notes=list(curve.notes),
        by=by,
        at=at,
    )


def _decoded(content: bytes) -> str:
    for encoding in (
        ("utf-8-sig", "utf-16") if content[:2] in (b"\xff\xfe", b"\xfe\xff") else ("utf-8-sig",)
    ):
        try:
            return content.decode(encoding)
        except UnicodeDecodeError:
            continue
    return content.decode("latin-1")


def move_pick(curve: Curve, pick: str, at: float) -> Curve:
    """Take a point elsewhere, at a displacement in m. Raises :class:`InputError` where it cannot be."""
    if pick not in PICKS:
        raise InputError(f"“{pick}” is not a point of the curve.", "pick")
    picks = {**curve.picks, pick: at}
    reduce_curve(unpacked(curve), gauge_of(curve.turn), picks)
    curve.picks = picks
    curve.save(update_fields=["picks"])
    return curve


def restore_picks(curve: Curve, pick: str = "") -> Curve:
    """The automatic pick again: of one point, or of all."""
    curve.picks = {k: v for k, v in curve.picks.items() if pick and k != pick}
    curve.save(update_fields=["picks"])
    return curve


def take_off(turn: Turn) -> None:
    """Remove the curve; readings it filled in stay as they are stored."""
    Curve.objects.filter(turn=turn).delete()
