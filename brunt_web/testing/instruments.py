"""Rigs as the core's instruments; on which a turn is tested; the live instrument on it."""

import json
from time import time
from typing import Any

from django.conf import settings

from brunt_core.computation import Instrument
from brunt_core.errors import InputError
from brunt_core.quantities import DIMENSIONS
from brunt_web.campaigns.models import Turn
from brunt_web.interface.instrument_tokens import Wire, sign_token
from brunt_web.library.models import Procedure, Rig


def instruments_for(of: Procedure | Turn) -> dict[str, Instrument]:
    """The rig of a procedure, or of a turn, as the core's instrument, by dimension."""
    rig = of.on_rig if isinstance(of, Turn) else of.rig
    if rig is None:
        return {}
    return {
        rig.dimension: Instrument(rig.name, resolution=rig.resolution, relative=rig.relative_error)
    }


def allowed_rigs(procedure: Procedure) -> list[Rig]:
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
        raise InputError(f"{turn.procedure.name} cannot be done on that rig.", "rig")
    turn.rig = found


_LIVE = ("force", "torque", "angle", "temperature", "mass", "length", "time", "energy")
# What is read at its greatest; of the rest the figure of the moment is taken.
_PEAK = ("force", "torque", "angle")
_HOURS = 12


def live_of(turn: Turn, who: str) -> dict[str, Any] | None:
    """What the bench needs to show a live instrument to a person: where, what it reads, by which units it is known."""
    rig, spec = turn.on_rig, turn.procedure.reading
    if rig is None or not rig.instrument:
        return None
    wire = Wire(rig.instrument, who, rig.workshop.instrument_networks)
    return {
        "token": sign_token(wire, time() + _HOURS * 3600, settings.SECRET_KEY),
        "port": settings.BRIDGE_PORT,
        "at": settings.BRIDGE_AT,
        "address": rig.instrument,
        "dimension": spec.dimension,
        "mode": "peak" if spec.dimension in _PEAK else "now",
        "units": _units(spec.dimension if spec.dimension in DIMENSIONS else rig.dimension),
        "curve": bool(turn.procedure.method.curve),
        "name": rig.name,
    }


def _units(first: str) -> str:
    """Every unit a line may carry, with what it measures; “kg” is what the instrument measures."""
    order = [*(d for d in _LIVE if d != first), first]
    known = {u: d for d in order for u in DIMENSIONS[d].spellings if len(u) < 9}
    return json.dumps(known, ensure_ascii=False)
