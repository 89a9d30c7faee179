"""Levels from what was typed: each understood by its factor's kind, or refused with a sentence."""

from collections.abc import Sequence

from brunt_core.errors import InputError
from brunt_core.planning.levels import read_meaning
from brunt_core.printing.recipes import FIELDS, read_setting
from brunt_core.specimens.types import TYPES
from brunt_web.campaigns.drafts import LevelDraft
from brunt_web.library.models import SpecimenVariant


def read_levels(
    kind: str,
    setting: str,
    texts: Sequence[str],
    recipe_kind: str = "filament",
    variants: Sequence[SpecimenVariant] = (),
) -> tuple[LevelDraft, ...]:
    """Levels from what was typed.

    Raises :class:`InputError` for a level twice, one the recipe field cannot take, or one whose words
    its kind does not understand.
    """
    typed = [t.strip() for t in texts if t.strip()]
    levels = [_level(kind, setting, text, recipe_kind, variants) for text in typed]
    labels = [x.label.lower() for x in levels]
    twice = next((x.label for x in levels if labels.count(x.label.lower()) > 1), None)
    if twice:
        raise InputError(f"The level {twice} is listed twice.", "levels")
    return tuple(levels)


def _level(
    kind: str, setting: str, text: str, recipe_kind: str, variants: Sequence[SpecimenVariant]
) -> LevelDraft:
    if kind == "setting" and setting in FIELDS[recipe_kind]:
        read = read_setting(recipe_kind, setting, text)
        return LevelDraft((read.shown or text)[:80], read.value)
    if kind == "design":
        return _design(text, variants)
    meaning = read_meaning(kind, text)
    label = meaning.word if kind == "orientation" else text
    if kind == "rate" and not any(c.isalpha() for c in text):
        label = f"{text} mm/min"
    return LevelDraft(label[:80], meaning.value)


def _design(text: str, variants: Sequence[SpecimenVariant]) -> LevelDraft:
    """A specimen type of the library by its name or key."""
    said = text.lower()
    own = next((v for v in variants if v.name.lower() == said), None)
    if own:
        return LevelDraft(own.name[:80], variant=own)
    known = next((t for t in TYPES.values() if said in (t.key, t.name.lower())), None)
    if known is None:
        raise InputError(
            f"There is no specimen type called “{text}” in the library; add it there, or choose "
            "“something else” as the kind of factor.",
            "levels",
        )
    return LevelDraft(known.name[:80], specimen_type=known.key)
