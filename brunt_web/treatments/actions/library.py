"""Vessels and the workshop's own kinds of treatment."""

from brunt_core.errors import InputError
from brunt_core.quantities import parse
from brunt_core.scheduling.room import room
from brunt_core.treatments.kind import composed
from brunt_web.people.models import Workshop
from brunt_web.treatments.models import OwnKind, Vessel


def add_vessel(
    workshop: Workshop,
    name: str,
    kind: str,
    capacity: str = "12",
    watts: float | None = None,
    thermometer: str = "",
) -> Vessel:
    """One more oven, bath, freezer … Raises :class:`InputError` for a name that is taken, or no room."""
    if Vessel.objects.filter(workshop=workshop, name=name).exists():
        raise InputError(f"There is something called {name} already.", "name")
    found = room(capacity)
    return Vessel.objects.create(
        workshop=workshop,
        name=name,
        kind=kind,
        capacity=found.specimens,
        each=found.each,
        room="" if capacity.strip().isdigit() else capacity.strip(),
        watts=watts,
        thermometer=thermometer,
    )


def add_own_kind(workshop: Workshop, name: str, event: str, steps: str) -> OwnKind:
    """A kind composed of steps, one a line: words, and after a colon how long, or settled, or core.

    Raises :class:`InputError` for a name that is taken or a line that cannot be read.
    """
    if OwnKind.objects.filter(workshop=workshop, name=name).exists():
        raise InputError(f"There is a treatment called {name} already.", "name")
    rows = [_step(line) for line in steps.splitlines() if line.strip()]
    composed("own", name, tuple(rows), event)
    return OwnKind.objects.create(workshop=workshop, name=name, event=event, steps=rows)


def _step(line: str) -> dict[str, object]:
    words, colon, how = line.strip().rpartition(":")
    if not colon:
        return {"label": line.strip(), "ends": "key", "minutes": 5}
    how = how.strip().lower()
    if how in ("settled", "steady"):
        return {"label": words.strip(), "ends": "settled", "minutes": 1440}
    if how == "core":
        return {"label": words.strip(), "ends": "core", "minutes": 240}
    try:
        seconds = parse(how, "time", "min").si
    except InputError as error:
        raise InputError(f"“{line.strip()}”: {error.sentence}", "steps") from None
    return {"label": words.strip(), "ends": "time", "minutes": seconds / 60}
