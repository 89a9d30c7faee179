"""Rigs as the core's instruments."""

from brunt_core.computation import Instrument
from brunt_web.library.models import Procedure


def instruments_for(procedure: Procedure) -> dict[str, Instrument]:
    """The procedure's rig as the core's instrument, by dimension."""
    rig = procedure.rig
    if rig is None:
        return {}
    return {
        rig.dimension: Instrument(rig.name, resolution=rig.resolution, relative=rig.relative_error)
    }
