"""Import a load–displacement curve, move its picks, take it off."""

import zlib
from collections.abc import Mapping
from datetime import datetime

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Q

from brunt_core.curves.parting import CurveQuestion, questions_on, read_or_ask
from brunt_core.curves.reading import LoadCurve as CoreCurve
from brunt_core.curves.reduction import PICKS, reduce_curve
from brunt_core.errors import InputError
from brunt_web.campaigns import history
from brunt_web.campaigns.models import Turn
from brunt_web.interface.bounded import read_bounded
from brunt_web.testing.curve_queries import gauge_of, packed_points, used
from brunt_web.testing.models import AskedCurve, Curve

MOST_BYTES = 60_000_000
_MOST_OFFERED = 300


def bring_curve(
    turn: Turn, by: User, at: datetime, name: str, content: bytes, chosen: str = ""
) -> Curve | AskedCurve:
    """Read a file and keep its points; one that can be read in several ways, or holds several pulls, is kept to
    be asked.

    ``chosen`` is the tester's answer, the key of a guess. Raises :class:`InputError` for what is
    no curve.
    """
    if not turn.procedure.method.curve:
        raise InputError(f"{turn.procedure.method.name} takes no curve.", "curve")
    if not content:
        raise InputError("Choose a file first: displacement and force in two columns.", "curve")
    if len(content) > MOST_BYTES:
        raise InputError("The file is larger than 60 MB.", "curve")
    found = read_bounded(read_or_ask, _decoded(content), chosen)
    if isinstance(found, CurveQuestion):
        return _ask(turn, by, at, name, content, chosen)
    reduce_curve(found, gauge_of(turn))
    return _keep(turn, by, at, name, found)


@transaction.atomic
def _keep(turn: Turn, by: User, at: datetime, name: str, curve: CoreCurve) -> Curve:
    Turn.objects.select_for_update().get(pk=turn.pk)
    Curve.objects.filter(turn=turn).delete()
    AskedCurve.objects.filter(turn=turn).delete()
    history.note(
        [turn.specimen], "curve", by, at, f"curve imported: {name[:120]}", {"turn": turn.pk}
    )
    return Curve.objects.create(
        turn=turn,
        name=name[:120] or "curve",
        data=packed_points(curve),
        points=len(curve.force),
        notes=list(curve.notes),
        by=by,
        at=at,
    )


def _ask(turn: Turn, by: User, at: datetime, name: str, content: bytes, way: str) -> AskedCurve:
    told = {"name": name[:120], "way": way, "content": zlib.compress(content), "by": by, "at": at}
    return AskedCurve.objects.update_or_create(turn=turn, defaults=told)[0]


def ways_to_read(asked: AskedCurve) -> CurveQuestion:
    """What the tester is asked about a file: the sentence and the ways to read it, or the pulls in it."""
    text = _decoded(zlib.decompress(bytes(asked.content)))
    return read_bounded(questions_on, text, asked.way)


def may_have(turn: Turn) -> list[Turn]:
    """Whose a pull of a turn's file can be: its own, and those of its campaign and procedure without a curve."""
    rows = Turn.objects.filter(
        Q(pk=turn.pk) | Q(curve__isnull=True),
        campaign=turn.campaign_id,
        procedure=turn.procedure_id,
    )
    found = rows.exclude(state="void").select_related("specimen", "condition", "procedure")
    return list(found.order_by("run_order")[:_MOST_OFFERED])


@transaction.atomic
def share_out(turn: Turn, by: User, at: datetime, whose: Mapping[str, int]) -> list[Turn]:
    """Give each pull of the file that was asked about to its turn: the key of a pull to the turn's.

    Raises :class:`InputError` where two pulls go to one specimen, or none to any, or one cannot be reduced.
    """
    asked = AskedCurve.objects.select_for_update().filter(turn=turn).first()
    if asked is None:
        raise InputError("There is no file waiting to be read.", "curve")
    if not whose:
        raise InputError("Assign at least one of the curves, or discard the file.", "curve")
    if len(set(whose.values())) < len(whose):
        raise InputError("Two curves cannot belong to one specimen.", "curve")
    known = {t.pk: t for t in may_have(turn)}
    content = zlib.decompress(bytes(asked.content))
    found = []
    for key, pk in whose.items():
        if pk not in known:
            raise InputError("One of these specimens has a curve by now; check again.", "curve")
        try:
            bring_curve(known[pk], by, at, asked.name, content, key)
        except InputError as error:
            raise InputError(f"{known[pk].code}: {error.sentence}", "curve") from None
        found.append(known[pk])
    discard_file(turn)
    return found


def read_as_chosen(turn: Turn, by: User, at: datetime, chosen: str) -> None:
    """Read the file that was asked about in the way that was chosen."""
    asked = AskedCurve.objects.filter(turn=turn).first()
    if asked is None:
        raise InputError("There is no file waiting to be read.", "curve")
    bring_curve(turn, by, at, asked.name, zlib.decompress(bytes(asked.content)), chosen)


def discard_file(turn: Turn) -> None:
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


def remove_curve(turn: Turn) -> None:
    """Remove the curve; readings it filled in stay as they are stored."""
    Curve.objects.filter(turn=turn).delete()
