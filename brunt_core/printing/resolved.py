"""The effective recipe: a base recipe with a condition's levels in it, and what can share a plate."""

from collections.abc import Mapping, Sequence

from brunt_core.errors import InputError
from brunt_core.printing.recipes import FIELDS

Settings = dict[str, dict[str, object]]
Level = tuple[str, Mapping[str, object]]


def resolve(
    kind: str, base: Mapping[str, Mapping[str, object]], levels: Sequence[Level]
) -> Settings:
    """The settings that must really be printed.

    Parameters: ``kind`` filament or resin; ``base`` settings by key (``{"text", "value", "shown"}``);
    ``levels`` as (field, setting), the later winning.
    Raises :class:`InputError` for a level that a recipe of this kind has no field for.

    >>> base = {"walls": {"value": 4.0, "shown": "4"}}
    >>> resolve("filament", base, [("walls", {"value": 2.0, "shown": "2"})])["walls"]["shown"]
    '2'
    >>> resolve("resin", {}, [("nozzle_temperature", {"shown": "250 °C"})])
    Traceback (most recent call last):
    brunt_core.errors.InputError: A resin recipe has no nozzle temperature: this level cannot be printed with it.
    """
    found = {k: dict(v) for k, v in base.items()}
    for key, setting in levels:
        if key not in FIELDS[kind]:
            label = next((f[key].label for f in FIELDS.values() if key in f), key).lower()
            raise InputError(
                f"A {kind} recipe has no {label}: this level cannot be printed with it.", "recipe"
            )
        found[key] = dict(setting)
    return found


def setting_text(settings: Mapping[str, Mapping[str, object]], key: str) -> str:
    """A setting as text; empty where it is not stated."""
    return str((settings.get(key) or {}).get("shown", ""))


def values(settings: Mapping[str, Mapping[str, object]]) -> dict[str, float | None]:
    """The settings in SI by key.

    >>> values({"walls": {"value": 4.0, "shown": "4"}})
    {'walls': 4.0}
    """
    return {
        k: float(v) if isinstance(v := s.get("value"), int | float) else None
        for k, s in settings.items()
    }


def plate_key(
    kind: str, settings: Mapping[str, Mapping[str, object]], per_object: bool
) -> tuple[str, ...]:
    """What must be alike on one plate; equal for recipes that one plate can hold together.

    ``per_object`` says that the slicer sets walls, infill and the like for each object.

    >>> four, two = ({"walls": {"shown": n}, "speed": {"shown": "50 mm/s"}} for n in "42")
    >>> plate_key("filament", four, False) == plate_key("filament", two, False)
    False
    >>> plate_key("filament", four, True) == plate_key("filament", two, True)
    True
    """
    fields = (f for f in FIELDS[kind].values() if not (per_object and f.per_object))
    return tuple(
        f"{f.key}={setting_text(settings, f.key)}" for f in fields if setting_text(settings, f.key)
    )


def only_per_object(kind: str, several: Sequence[Mapping[str, Mapping[str, object]]]) -> bool:
    """Whether recipes differ, and only in what can be set for each object.

    >>> only_per_object("filament", [{"walls": {"shown": "2"}}, {"walls": {"shown": "4"}}])
    True
    """
    strict = {plate_key(kind, s, False) for s in several}
    return len(strict) > 1 and len({plate_key(kind, s, True) for s in several}) == 1


def setting_differences(
    kind: str, base: Mapping[str, Mapping[str, object]], other: Mapping[str, Mapping[str, object]]
) -> list[tuple[str, str, str]]:
    """(label, base, other) for every setting that is not the same in both.

    >>> setting_differences("filament", {"walls": {"shown": "4"}}, {"walls": {"shown": "2"}})
    [('Walls', '4', '2')]
    """
    return [
        (f.label, setting_text(base, k), setting_text(other, k))
        for k, f in FIELDS[kind].items()
        if setting_text(base, k) != setting_text(other, k)
    ]
