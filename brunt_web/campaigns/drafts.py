"""What a campaign is to be, before it is one."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from brunt_core.errors import InputError
from brunt_core.planning.designs import Fraction, full_factorial, two_level_fraction
from brunt_core.planning.power import spares
from brunt_core.printing.recipes import FIELDS
from brunt_web.campaigns.requirements import requirements_of
from brunt_web.library.models import (
    Lot,
    Material,
    Printer,
    Procedure,
    Recipe,
    SpecimenVariant,
)

KINDS = {
    "material": "material",
    "lot": "lot",
    "setting": "recipe setting",
    "drying": "dryness at printing",
    "orientation": "orientation on the plate",
    "design": "design or specimen type",
    "treatment": "treatment",
    "rate": "loading rate",
    "condition": "state at test",
    "age": "age or exposure",
    "other": "something else",
}
MOST_SPECIMENS = 10_000


@dataclass(frozen=True)
class LevelDraft:
    """One level: its label, and the thing or value it stands for."""

    label: str
    value: float | None = None
    material: Material | None = None
    lot: Lot | None = None
    specimen_type: str = ""
    variant: SpecimenVariant | None = None


@dataclass(frozen=True)
class FactorDraft:
    """One factor with its levels; ``setting`` is a recipe field's key."""

    kind: str
    name: str
    levels: tuple[LevelDraft, ...]
    setting: str = ""


@dataclass(frozen=True)
class Combination:
    """One condition to be: its levels in factor order, and how it is called."""

    levels: tuple[LevelDraft, ...]
    label: str
    detail: str

    @property
    def name(self) -> str:
        """Label and detail."""
        return f"{self.label}, {self.detail}" if self.detail else self.label

    @property
    def material(self) -> Material | None:
        """The material among its levels, or that of its lot."""
        return next(
            (
                x.material or (x.lot.material if x.lot else None)
                for x in self.levels
                if x.material or x.lot
            ),
            None,
        )

    @property
    def lot(self) -> Lot | None:
        """The lot among its levels."""
        return next((x.lot for x in self.levels if x.lot), None)


@dataclass(frozen=True)
class PlanDraft:
    """All of a plan. Fractions are shares of one; ``dropped`` holds names of combinations not made.

    ``after`` says which procedure is done on the very specimens of which other, by primary key;
    ``base_recipes`` which recipe a material, a procedure or both start from.
    """

    question: str
    factors: tuple[FactorDraft, ...]
    procedures: Sequence[Procedure]
    replicates: int
    seed: int
    shape: str = "rank"
    design: str = "full"
    dropped: frozenset[str] = frozenset()
    control: str = ""
    material: Material | None = None
    recipe: Recipe | None = None
    printer: Printer | None = None
    cv: float | None = None
    wanted: float | None = None
    power: float = 0.8
    loss: float = 0.0
    confidence: float = 0.95
    after: Mapping[int, int] = field(default_factory=dict)
    base_recipes: Mapping[tuple[int | None, int | None], Recipe] = field(default_factory=dict)

    @property
    def heads(self) -> list[Procedure]:
        """The procedures that have specimens of their own."""
        return [p for p in self.procedures if p.pk not in self.after]

    @property
    def spares(self) -> int:
        """Spares of each condition under each procedure."""
        return spares(self.replicates, self.loss)

    @property
    def fraction(self) -> Fraction | None:
        """The two-level fraction asked for, if one is."""
        if not self.design.startswith("fraction-"):
            return None
        if any(len(f.levels) != 2 for f in self.factors):
            raise InputError("A fraction needs exactly two levels of every factor.", "design")
        return two_level_fraction(
            [f.name for f in self.factors], int(self.design.removeprefix("fraction-"))
        )

    @property
    def every(self) -> list[Combination]:
        """All combinations of the design, dropped ones too."""
        fraction = self.fraction
        rows = (
            [tuple((x + 1) // 2 for x in run) for run in fraction.runs]
            if fraction
            else full_factorial([len(f.levels) for f in self.factors])
        )
        return [_combination(self.factors, row) for row in rows]

    @property
    def kept(self) -> list[Combination]:
        """The combinations that are made."""
        return [c for c in self.every if c.name not in self.dropped]


_SPEAK_FOR_THEMSELVES = frozenset(("treatment", "age", "condition", "rate", "drying", "design"))


def _combination(factors: Sequence[FactorDraft], row: Sequence[int]) -> Combination:
    levels = tuple(f.levels[i] for f, i in zip(factors, row, strict=True))
    words = [
        x.label if x.material or x.lot or f.kind in _SPEAK_FOR_THEMSELVES else f"{f.name} {x.label}"
        for f, x in zip(factors, levels, strict=True)
    ]
    return Combination(
        levels, words[0][:120] if words else "one condition", " · ".join(words[1:])[:160]
    )


def of_materials(
    question: str,
    materials: Sequence[Material],
    procedures: Sequence[Procedure],
    replicates: int,
    seed: int,
    **more: Any,
) -> PlanDraft:
    """A draft whose one factor is the material; the first is the control."""
    levels = tuple(LevelDraft(m.name, material=m) for m in materials)
    control = more.pop("control", materials[0].name if materials else "")
    return PlanDraft(
        question,
        (FactorDraft("material", "Material", levels),),
        procedures,
        replicates,
        seed,
        control=control,
        **more,
    )


def check_draft(draft: PlanDraft) -> None:
    """Raise :class:`InputError` with the field for a draft that cannot be planned."""
    if not draft.question.strip():
        raise InputError("Write the question the campaign is to answer.", "question")
    if not draft.procedures:
        raise InputError("Choose at least one way of testing.", "procedures")
    if not 1 <= draft.replicates <= 100:
        raise InputError("Replicates must be between 1 and 100.", "replicates")
    _check_chain(draft)
    _check_factors(draft)
    kept = draft.kept if draft.factors else []
    count = len(kept)
    if count < 2 and not (count == 1 and len({p.orientation for p in draft.procedures}) > 1):
        raise InputError(
            "A comparison needs two materials or more, or another factor with two levels.",
            "materials",
        )
    total = count * len(draft.heads) * (draft.replicates + draft.spares)
    if total > MOST_SPECIMENS:
        raise InputError(
            f"That is {total} specimens; a campaign holds {MOST_SPECIMENS}.", "replicates"
        )
    for combination in kept:
        requirements_of(zip(draft.factors, combination.levels, strict=True))


def _check_factors(draft: PlanDraft) -> None:
    for factor in draft.factors:
        alone = factor.kind in ("material", "lot") and len(draft.factors) > 1
        if len(factor.levels) < (1 if alone else 2):
            raise InputError(
                f"{factor.name} needs two levels or more to be compared.",
                "materials" if factor.kind == "material" else "factors",
            )
    _check_recipes(draft)


def _check_recipes(draft: PlanDraft) -> None:
    """Every base recipe must have a field for every setting that is varied."""
    used = [draft.recipe, *draft.base_recipes.values()]
    for factor in draft.factors:
        for recipe in used:
            if recipe and factor.setting and factor.setting not in FIELDS[recipe.kind]:
                label = next(
                    (f[factor.setting].label for f in FIELDS.values() if factor.setting in f),
                    factor.name,
                )
                raise InputError(
                    f"{recipe} is a {recipe.kind} recipe and has no {label.lower()}: "
                    "this level cannot be printed with it.",
                    "factors",
                )


def _check_chain(draft: PlanDraft) -> None:
    """Tests of one specimen follow one another, and only the last of them may destroy it."""
    known = {p.pk: p for p in draft.procedures}
    earlier = list(draft.after.values())
    for later, first in draft.after.items():
        if later not in known or first not in known or later == first:
            raise InputError("A test can only follow another test of this plan.", "procedures")
        if known[first].spends:
            raise InputError(
                f"{known[first].name} destroys the specimen: no further test is possible.",
                "procedures",
            )
        if known[first].geometry.key != known[later].geometry.key:
            raise InputError(
                f"{known[later].name} tests {known[later].geometry.name}, {known[first].name} "
                f"{known[first].geometry.name}: one specimen cannot be both.",
                "procedures",
            )
        if known[first].orientation != known[later].orientation:
            raise InputError(
                f"{known[first].name} is printed {known[first].orientation}, {known[later].name} "
                f"{known[later].orientation}: one specimen cannot be both.",
                "procedures",
            )
        if earlier.count(first) > 1:
            raise InputError(
                f"Two tests follow {known[first].name}; put one after the other.", "procedures"
            )
    if draft.procedures and not draft.heads:
        raise InputError(
            "The tests follow each other in a circle; one must come first.", "procedures"
        )
    _check_rings(draft)


def _check_rings(draft: PlanDraft) -> None:
    for start in draft.after:
        seen, at = {start}, start
        while at in draft.after:
            at = draft.after[at]
            if at in seen:
                raise InputError(
                    "The tests follow each other in a circle; one must come first.", "procedures"
                )
            seen.add(at)
