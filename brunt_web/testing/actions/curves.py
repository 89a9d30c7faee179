"""Bring in a load–displacement curve, move its picks, take it off."""

import zlib
from datetime import datetime

from django.contrib.auth.models import User
from django.db import transaction

from brunt_core.curves.reading import Curve as CoreCurve
from brunt_core.curves.reading import Doubtful, guesses, read_curve
from brunt_core.curves.reduction import PICKS, reduce_curve
from brunt_core.errors import InputError
from brunt_web.campaigns import life
from brunt_web.campaigns.models import Turn
from brunt_web.testing.curve_queries import gauge_of, packed, used
from brunt_web.testing.models import AskedCurve, Curve

MOST_BYTES = 60_000_000


def bring_curve(
    turn: Turn, by: User, at: datetime, name: str, content: bytes, chosen: str = ""
) -> Curve | AskedCurve:
    """Read a file and keep its points; one that can be read in several ways is kept to be asked.

    ``chosen`` is the tester's answer, the key of a guess. Raises :class:`InputError` for what is
    no curve.
    """
    if not turn.procedure.method.curve:
        raise InputError(f"{turn.procedure.method.name} takes no curve.", "curve")
    if not content:
        raise InputError("Choose a file first: displacement and force in two columns.", "curve")
    if len(content) > MOST_BYTES:
        raise InputError("The file is larger than 60 MB.", "curve")
    try:
        curve = read_curve(_decoded(content), chosen)
    except Doubtful:
        return _ask(turn, by, at, name, content)
    reduce_curve(curve, gauge_of(turn))
    return _keep(turn, by, at, name, curve)


@transaction.atomic
def _keep(turn: Turn, by: User, at: datetime, name: str, curve: CoreCurve) -> Curve:
    Turn.objects.select_for_update().get(pk=turn.pk)
    Curve.objects.filter(turn=turn).delete()
    AskedCurve.objects.filter(turn=turn).delete()
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


def _ask(turn: Turn, by: User, at: datetime, name: str, content: bytes) -> AskedCurve:
    told = {"name": name[:120], "content": zlib.compress(content), "by": by, "at": at}
    return AskedCurve.objects.update_or_create(turn=turn, defaults=told)[0]


def ways_to_read(asked: AskedCurve) -> Doubtful:
    """What the tester is asked about a file: the sentence and the ways to read it."""
    text = _decoded(zlib.decompress(bytes(asked.content)))
    try:
        read_curve(text)
    except Doubtful as doubt:
        return doubt
    except InputError as error:
        return Doubtful(error.sentence, [])
    return Doubtful("Is it read right now?", guesses(text))


def answer(turn: Turn, by: User, at: datetime, chosen: str) -> None:
    """Read the file that was asked about in the way that was chosen."""
    asked = AskedCurve.objects.filter(turn=turn).first()
    if asked is None:
        raise InputError("There is no file waiting to be read.", "curve")
    bring_curve(turn, by, at, asked.name, zlib.decompress(bytes(asked.content)), chosen)


def forget(turn: Turn) -> None:
    """Throw the file away that was asked about."""
    AskedCurve.objects.filter(turn=turn).delete()


def leave_spikes_out(curve: Curve, out: bool) -> None:
    """Reduce the curve without its spikes, or with them again."""
    curve.without_spikes = out
    curve.save(update_fields=["without_spikes"])


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
    reduce_curve(used(curve), gauge_of(curve.turn), picks)
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
