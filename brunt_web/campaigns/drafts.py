"""What a campaign is to be, before it is one."""

from collections.abc import Sequence
from dataclasses import dataclass

from brunt_core.errors import InputError
from brunt_core.planning.designs import Fraction, full_factorial, two_level_fraction
from brunt_core.planning.power import spares
from brunt_core.printing.recipes import FIELDS, read_setting
from brunt_web.library.models import Lot, Material, Printer, Procedure, Recipe

KINDS = {
    "material": "material",
    "lot": "lot",
    "setting": "recipe setting",
    "treatment": "treatment",
    "rate": "loading rate",
    "condition": "state at test",
    "age": "age or exposure",
    "other": "something else",
}
MOST_SPECIMENS = 2000


@dataclass(frozen=True)
class LevelDraft:
    """One level: its label, and the thing or value it stands for."""

    label: str
    value: float | None = None
    material: Material | None = None
    lot: Lot | None = None


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
    """All of a plan. Fractions are shares of one; ``dropped`` holds names of combinations not made."""

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
    scatter: float | None = None
    wanted: float | None = None
    power: float = 0.8
    loss: float = 0.0
    confidence: float = 0.95

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


def _combination(factors: Sequence[FactorDraft], row: Sequence[int]) -> Combination:
    levels = tuple(f.levels[i] for f, i in zip(factors, row, strict=True))
    words = [
        x.label
        if x.material or x.lot or f.kind in ("treatment", "age", "condition", "rate")
        else f"{f.name} {x.label}"
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
    **more,
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


def read_levels(
    kind: str, setting: str, texts: Sequence[str], recipe_kind: str = "filament"
) -> tuple[LevelDraft, ...]:
    """Levels from what was typed.

    Raises :class:`InputError` for a level twice, or one the recipe field cannot take.
    """
    levels = []
    for text in (t.strip() for t in texts):
        if not text:
            continue
        if kind == "setting" and setting in FIELDS[recipe_kind]:
            read = read_setting(recipe_kind, setting, text)
            levels.append(LevelDraft(read.shown or text, read.value))
        else:
            levels.append(LevelDraft(text[:80]))
    labels = [x.label for x in levels]
    twice = next((x for x in labels if labels.count(x) > 1), None)
    if twice:
        raise InputError(f"The level {twice} is there twice.", "levels")
    return tuple(levels)


def check(draft: PlanDraft) -> None:
    """Raise :class:`InputError` with the field for a draft that cannot be planned."""
    if not draft.question.strip():
        raise InputError("Write the question the campaign is to answer.", "question")
    if not draft.procedures:
        raise InputError("Choose at least one way of testing.", "procedures")
    if not 1 <= draft.replicates <= 100:
        raise InputError("Replicates must be between 1 and 100.", "replicates")
    for factor in draft.factors:
        if len(factor.levels) < (
            1 if factor.kind in ("material", "lot") and len(draft.factors) > 1 else 2
        ):
            raise InputError(
                f"{factor.name} needs two levels or more to be compared.",
                "materials" if factor.kind == "material" else "factors",
            )
    count = len(draft.kept) if draft.factors else 0
    if count < 2 and not (count == 1 and len({p.orientation for p in draft.procedures}) > 1):
        raise InputError(
            "A comparison needs two materials or more, or another factor with two levels.",
            "materials",
        )
    total = count * len(draft.procedures) * (draft.replicates + draft.spares)
    if total > MOST_SPECIMENS:
        raise InputError(
            f"That is {total} specimens; a campaign holds {MOST_SPECIMENS}.", "replicates"
        )
