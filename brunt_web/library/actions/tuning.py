"""A bring-up trial, kept, and the recipe version it leads to."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from django.contrib.auth.models import User
from django.db import transaction

from brunt_core.errors import InputError
from brunt_core.printing.recipes import FIELDS
from brunt_core.printing.tuning import TRIALS, Judged, Trial, flow_after, judge_trial
from brunt_core.quantities import in_unit
from brunt_web.library.actions.recipes import kept_setting, save_recipe
from brunt_web.library.models import Lot, Recipe, Tuning


@dataclass(frozen=True)
class TrialDraft:
    """A trial as typed: per step its setting in the field's unit, and a grade or a measurement.

    ``walls`` in mm for a single wall; ``asked`` the width it was set to.
    """

    kind: str
    setting: str
    rows: Sequence[tuple[float, float]] = ()
    walls: Sequence[float] = ()
    asked: float | None = None
    lot: Lot | None = None
    note: str = ""


def trial_of(kind: str) -> Trial:
    """The trial of this kind. Raises :class:`InputError` for none."""
    if kind not in TRIALS:
        raise InputError("Choose what was printed.", "kind")
    return TRIALS[kind]


def in_field(recipe: Recipe, key: str) -> float | None:
    """A setting of a recipe as a number in its field's own unit."""
    value = (recipe.settings.get(key) or {}).get("value")
    spec = FIELDS[recipe.kind].get(key)
    if value is None or spec is None:
        return None
    if spec.dimension == "share":
        return float(value) * 100
    if spec.dimension == "number":
        return float(value)
    return float(in_unit(float(value), spec.dimension, spec.unit))


def judged_trial(recipe: Recipe, draft: TrialDraft) -> Judged:
    """What a trial says to set. Raises :class:`InputError`."""
    trial = trial_of(draft.kind)
    if draft.setting not in trial.settings or draft.setting not in FIELDS[recipe.kind]:
        raise InputError("This trial does not step that setting.", "setting")
    if trial.key == "flow":
        flow = in_field(recipe, "flow") or 100.0
        asked = draft.asked or in_field(recipe, "line_width")
        if not asked:
            raise InputError("Type the wall that was asked for.", "asked")
        return flow_after(flow, asked, draft.walls)
    return judge_trial(trial, draft.rows, FIELDS[recipe.kind][draft.setting].unit)


@transaction.atomic
def tuning(recipe: Recipe, by: User, at: datetime, draft: TrialDraft, adopt: bool = True) -> Tuning:
    """Keep a trial; with ``adopt`` its outcome becomes the recipe's next version, with its reason.

    Where it says what is set already, no version is made. Raises :class:`InputError` with the field.
    """
    recipe = Recipe.objects.select_for_update().get(pk=recipe.pk)
    found = judged_trial(recipe, draft)
    spec = FIELDS[recipe.kind][draft.setting]
    text = f"{found.value:g} {spec.unit}".strip()
    setting = kept_setting(recipe.kind, draft.setting, text)
    kept = Tuning.objects.create(
        recipe=recipe,
        kind=draft.kind,
        setting=draft.setting,
        rows=_rows(draft, spec.unit),
        chosen=str(setting["shown"]),
        words=found.reason[:300],
        lot=draft.lot,
        note=draft.note.strip()[:300],
        by=by,
        at=at,
    )
    if adopt and not _as_it_is(recipe.settings, draft.setting, setting):
        changed = {**recipe.settings, draft.setting: setting}
        kept.made = save_recipe(
            recipe.workshop, recipe.name, recipe.kind, changed, recipe, found.reason
        )
        kept.save(update_fields=["made"])
    return kept


def _as_it_is(settings: Mapping[str, Mapping[str, object]], key: str, new: Mapping[str, object]) -> bool:  # fmt: skip
    return (settings.get(key) or {}).get("shown") == new["shown"]


def _rows(draft: TrialDraft, unit: str) -> list[dict[str, object]]:
    if draft.walls:
        return [{"text": f"{w:g} mm", "score": w} for w in draft.walls]
    return [{"text": f"{v:g} {unit}".strip(), "score": s} for v, s in draft.rows]
