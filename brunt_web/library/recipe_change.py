"""What a recipe's version comes to beside another: heat and air on one scale, times, mass, price."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from brunt_core.errors import InputError
from brunt_core.printing.recipes import usual, volumetric_flow
from brunt_core.printing.resin import cycle, print_seconds
from brunt_core.quantities.rendering import figures
from brunt_core.specimens.solid import filling_of, solid_share
from brunt_core.specimens.types import SpecimenType
from brunt_web.interface.scale import scale_for
from brunt_web.library.models import Material


@dataclass(frozen=True)
class RecipeChange:
    """One line of what a change comes to."""

    label: str
    before: str
    after: str
    unit: str

    @property
    def differs(self) -> bool:
        """Whether there is a before and it is another."""
        return bool(self.before) and self.before != self.after


_HEAT_ROWS = (
    ("cooling", "fan, %"),
    ("chamber_temperature", "chamber"),
    ("bed_temperature", "bed"),
    ("nozzle_temperature", "nozzle"),
)


def _degrees(value: float | None, key: str) -> float | None:
    if value is None:
        return None
    return value * 100 if key == "cooling" else value - 273.15


def heat(
    now: Mapping[str, float | None],
    then: Mapping[str, float | None] | None,
    material: Material | None,
) -> dict[str, Any]:
    """Fan and temperatures on one scale, with what is usual for the family."""
    known = [_degrees(v.get(k), k) for v in (now, then or {}) for k, _ in _HEAT_ROWS]
    most = max([300.0, *(k for k in known if k is not None)])
    scale = scale_for([0.0, most], width=330, pad=0)
    rows = []
    for i, (key, label) in enumerate(_HEAT_ROWS):
        own, was = _degrees(now.get(key), key), _degrees((then or {}).get(key), key)
        band = usual(material.family, key) if material else None
        rows.append(
            {
                "key": key,
                "label": label,
                "y": 14 + 26 * i,
                "at": None if own is None else scale.x(own),
                "own": "" if own is None else f"{own:.0f}",
                "was": None if was is None or was == own else scale.x(was),
                "text": max(scale.x(x) for x in (own, was) if x is not None) + 8
                if own is not None
                else 0,
                "band": band and (scale.x(band[0]), scale.x(band[1]) - scale.x(band[0])),
                "away": _away(own, band),
            }
        )
    return {"rows": rows, "ticks": scale.ticks, "low": 14 + 26 * len(_HEAT_ROWS)}


def _away(own: float | None, band: tuple[float, float] | None) -> str:
    """How far a temperature lies outside what is usual."""
    if own is None or band is None or band[0] <= own <= band[1]:
        return ""
    return f"{own - band[1]:.0f} over" if own > band[1] else f"{band[0] - own:.0f} under"


def cycle_drawing(
    now: Mapping[str, float | None], then: Mapping[str, float | None] | None, height: float
) -> dict[str, Any] | None:
    """One layer's times end to end, to scale, the other version's below it."""
    own = cycle(now)
    if own is None:
        return None
    was = cycle(then) if then else None
    most = max(own.total, was.total if was else 0.0)

    def spans(one: Any) -> list[dict[str, Any]]:
        at, found = 0.0, []
        for key in ("rest", "exposure", "lift", "retract"):
            long = getattr(one, key)
            found.append({"key": key, "x": at / most * 480, "w": long / most * 480, "s": figures(long, 3)})  # fmt: skip
            at += long
        return found

    return {
        "spans": spans(own),
        "was": spans(was) if was and was != own else [],
        "total": own.total,
        "assumed": own.assumed,
    }


def version_changes(
    kind: str,
    now: Mapping[str, float | None],
    then: Mapping[str, float | None] | None,
    geometry: SpecimenType,
    material: Material | None,
) -> list[RecipeChange]:
    """What a version comes to, beside another."""
    after, before = _figures(kind, now, geometry, material), {}
    if then is not None:
        before = _figures(kind, then, geometry, material)
    return [
        RecipeChange(label, before.get(label, ("", ""))[0], value, unit)
        for label, (value, unit) in after.items()
        if value
    ]


def _figures(
    kind: str,
    known: Mapping[str, float | None],
    geometry: SpecimenType,
    material: Material | None,
) -> dict[str, tuple[str, str]]:
    density = material.density if material and material.density else 1240.0
    if kind == "resin":
        seconds = print_seconds(known, geometry.sizes.get("thickness", 4.0) / 1e3)
        return {
            "mass of a bar": (figures(geometry.mass(density) * 1e3, 3), "g"),
            "print, however many": (f"{seconds / 60:.0f}" if seconds else "", "min"),
        }
    try:
        share = solid_share(geometry, "flat", filling_of(known))
    except InputError:
        return {}
    grams = geometry.mass(density) * share * 1e3
    flow = volumetric_flow(known)
    found = {
        "plastic in the cut": (figures(share * 100, 3), "%"),
        "mass of a bar": (figures(grams, 3), "g"),
        "flow": (figures(flow, 3) if flow else "", "mm³/s"),
        "printing a bar": (
            f"{geometry.volume * share / flow * 1.25 / 60:.0f}" if flow else "",
            "min",
        ),
    }
    if material and material.price is not None:
        cost = float(material.price) * grams / 1e3
        found["material of a bar"] = (f"{cost:.2f}", material.workshop.currency)
    return found
