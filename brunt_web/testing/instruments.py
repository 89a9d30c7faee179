"""Rigs as the core's instruments; on which a turn is tested."""

from brunt_core.computation import Instrument
from brunt_core.errors import InputError
from brunt_web.campaigns.models import Turn
from brunt_web.library.models import Procedure, Rig


def instruments_for(of: Procedure | Turn) -> dict[str, Instrument]:
    """The rig of a procedure, or of a turn, as the core's instrument, by dimension."""
    rig = of.on_rig if isinstance(of, Turn) else of.rig
    if rig is None:
        return {}
    return {
        rig.dimension: Instrument(rig.name, resolution=rig.resolution, relative=rig.relative_error)
    }


def rigs_of(procedure: Procedure) -> list[Rig]:
    """The rigs it may be done on, its own first."""
    own = [procedure.rig] if procedure.rig else []
    return [*own, *(r for r in procedure.also_on.all() if r not in own)]


def put_on_rig(turn: Turn, chosen: int | None) -> None:
    """Say that a turn is tested on one of its procedure's rigs; not stored yet.

    Raises :class:`InputError` for a rig that is none of them.
    """
    if chosen is None or chosen == turn.procedure.rig_id:
        turn.rig = None
        return
    found = next((r for r in turn.procedure.also_on.all() if r.pk == chosen), None)
    if found is None:
        raise InputError(f"{turn.procedure.name} is not done on that rig.", "rig")
    turn.rig = found
