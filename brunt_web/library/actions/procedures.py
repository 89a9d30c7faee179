"""Add a rig or a procedure of the workshop's own."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from brunt_core.errors import InputError
from brunt_core.methods.base import Method
from brunt_core.methods.registry import method as core_method
from brunt_core.specimens.types import ORIENTATIONS, specimen_type
from brunt_web.library.models import Procedure, Rig, SpecimenVariant
from brunt_web.people.models import Workshop

RIG_DIMENSIONS = {"force": "N", "torque": "N·m", "length": "mm", "energy": "J"}


def add_rig(
    workshop: Workshop,
    name: str,
    dimension: str,
    *,
    capacity: float | None = None,
    resolution: float | None = None,
    relative_error: float | None = None,
) -> Rig:
    """A device: what it measures, its capacity and step in SI, its limit of error as a share (0.01 unless said).

    Raises :class:`InputError` with the field.
    """
    if dimension not in RIG_DIMENSIONS:
        raise InputError("Choose what the rig measures.", "dimension")
    if Rig.objects.filter(workshop=workshop, name=name).exists():
        raise InputError(f"There is a rig called {name} already.", "name")
    return Rig.objects.create(
        workshop=workshop,
        name=name,
        dimension=dimension,
        capacity=capacity,
        resolution=resolution or 0.0,
        relative_error=0.01 if relative_error is None else relative_error,
    )


@dataclass(frozen=True)
class ProcedureDraft:
    """A method with what is fixed: ``speed`` in m/s, ``preload`` in N, ``reading_times`` in s.

    ``specimen_type`` is a published key or ``own-N``; ``parameters`` are texts by fixed input;
    ``ranked_by`` a property of the method, its first when empty; ``destroys`` as the method says
    when it is ``None``; ``sizes`` whether they are measured on each specimen, on some of a batch, or
    taken as drawn.
    """

    name: str
    method: str
    specimen_type: str
    orientation: str = "flat"
    rig: Rig | None = None
    speed: float | None = None
    preload: float | None = None
    reading_times: Sequence[float] = ()
    conditioning: str = ""
    standard: str = ""
    parameters: Mapping[str, str] = field(default_factory=dict)
    ranked_by: str = ""
    destroys: bool | None = None
    sizes: str = "each"


def add_procedure(workshop: Workshop, draft: ProcedureDraft) -> Procedure:
    """Store a procedure. Raises :class:`InputError` with the field."""
    if Procedure.objects.filter(workshop=workshop, name=draft.name).exists():
        raise InputError(f"There is a procedure called {draft.name} already.", "name")
    method = core_method(draft.method)
    if draft.orientation not in ORIENTATIONS:
        raise InputError("Choose how the specimen is printed.", "orientation")
    key, variant = _type(workshop, draft.specimen_type)
    return Procedure.objects.create(
        workshop=workshop,
        name=draft.name,
        method_key=method.key,
        orientation=draft.orientation,
        specimen_type=key,
        variant=variant,
        rig=draft.rig,
        speed=draft.speed,
        preload=draft.preload,
        reading_times=list(draft.reading_times),
        conditioning=draft.conditioning,
        standard=draft.standard,
        parameters=dict(draft.parameters),
        ranked_by=_ranked_by(method, draft.ranked_by),
        destroys=draft.destroys,
        sizes=draft.sizes or "each",
    )


def _ranked_by(method: Method, key: str) -> str:
    """The property it is ranked by; empty for the method's first."""
    if key and key not in {r.property for r in method.results}:
        raise InputError(f"{method.name} does not give that property.", "ranked_by")
    return "" if key == method.results[0].property else key


def _type(workshop: Workshop, key: str) -> tuple[str, SpecimenVariant | None]:
    if key.startswith("own-") and key[4:].isdigit():
        variant = SpecimenVariant.objects.filter(workshop=workshop, pk=int(key[4:])).first()
        if variant:
            return key, variant
    try:
        return specimen_type(key).key, None
    except InputError as error:
        raise InputError("Choose a specimen type.", "specimen_type") from error
