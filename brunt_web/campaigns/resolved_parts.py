"""Base recipe and levels put together; a body's filling. Pure: nothing is read or stored."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from brunt_core.errors import InputError
from brunt_core.printing.resolved import Settings, resolve, setting_differences, values
from brunt_core.specimens.solid import Filling
from brunt_core.specimens.solid import filling_of as filling_of_values


@dataclass(frozen=True)
class Resolved:
    """A base recipe with the levels in it; ``problem`` says why it cannot be."""

    recipe: Any
    kind: str
    settings: Settings
    problem: str = ""

    @property
    def changed(self) -> list[tuple[str, str, str]]:
        """(label, base, level) where the levels depart from the base recipe."""
        return setting_differences(
            self.kind, self.recipe.settings if self.recipe else {}, self.settings
        )


def base_among(
    chosen: dict[tuple[int | None, int | None], Any],
    material: int | None,
    procedure: int | None,
    otherwise: Any,
) -> Any:
    """The nearest of several base recipes: of both, of the material, of the procedure, of all."""
    keys = ((material, procedure), (material, None), (None, procedure))
    return next((chosen[k] for k in keys if k in chosen), otherwise)


def resolved(base: Any, levels: Mapping[str, Mapping[str, object]]) -> Resolved:
    """A base recipe with levels in it."""
    kind = base.kind if base else "filament"
    try:
        settings = resolve(kind, base.settings if base else {}, list(levels.items()))
    except InputError as error:
        return Resolved(base, kind, dict(base.settings) if base else {}, error.sentence)
    return Resolved(base, kind, settings)


def filling_of_settings(settings: Settings) -> Filling:
    """How the settings fill a body; what they do not name fills nothing."""
    return filling_of_values(values(settings))
