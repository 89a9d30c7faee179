"""What a condition requires of its specimens: one typed record, read from its levels, matched by key."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import asdict, dataclass, field, fields, replace
from typing import Any, Protocol, Self

from brunt_core.planning.levels import read_meaning, step_key
from brunt_web.library.models import Lot, SpecimenVariant


@dataclass(frozen=True)
class RequiredStep:
    """A treatment, or a state at the test: its words as planned, whether anything is to be done for it.

    ``temperature`` in K and ``duration`` in s where its words name them. Two steps are the same where
    their keys are, however they are worded.
    """

    what: str
    outstanding: bool
    temperature: float | None = None
    duration: float | None = None

    @property
    def key(self) -> str:
        """What is done, without the order of its words."""
        return step_key(self.what)


@dataclass(frozen=True)
class RequiredAge:
    """How old a specimen is to be at its test, in s."""

    what: str
    seconds: float
    outstanding: bool


@dataclass(frozen=True)
class RequiredDrying:
    """Whether its filament is dried before the print: ``word`` is dried, or as it is."""

    what: str
    word: str


@dataclass(frozen=True)
class RequiredDesign:
    """The specimen type it is made as: a published one by ``key``, or one of the workshop's own."""

    what: str
    key: str
    shape: str = ""
    sizes: Mapping[str, float] = field(default_factory=dict)
    part: Mapping[str, Any] | None = None


@dataclass(frozen=True)
class RequiredTick:
    """What only a person can confirm at the bench: the factor's name and the level's words."""

    name: str
    what: str


@dataclass(frozen=True)
class Requirements:
    """All that the levels of a condition require. ``speed`` in m/s; ``settings`` of the recipe by key."""

    settings: Mapping[str, Mapping[str, Any]] = field(default_factory=dict)
    speed: float | None = None
    treatments: tuple[RequiredStep, ...] = ()
    state: RequiredStep | None = None
    age: RequiredAge | None = None
    drying: RequiredDrying | None = None
    orientation: str = ""
    design: RequiredDesign | None = None
    lot: int | None = None
    ticks: tuple[RequiredTick, ...] = ()

    @property
    def to_do(self) -> tuple[RequiredStep, ...]:
        """The treatments for which something is done, in order."""
        return tuple(t for t in self.treatments if t.outstanding)

    @property
    def state_to_reach(self) -> RequiredStep | None:
        """The state a specimen is brought to before its test, where it is brought to one."""
        return self.state if self.state and self.state.outstanding else None

    @property
    def steps(self) -> tuple[tuple[str, RequiredStep], ...]:
        """What is done before the test, with its kind: each treatment, then the state."""
        done = tuple(("treatment", t) for t in self.to_do)
        return (*done, ("state", self.state_to_reach)) if self.state_to_reach else done

    @property
    def seconds(self) -> float:
        """The age it requires in s; 0 where it requires none."""
        return self.age.seconds if self.age else 0.0

    def has(self, kind: str) -> bool:
        """Whether it requires anything of a kind, named as its field."""
        return bool(getattr(self, kind))

    def alike(self, other: "Requirements", but: str) -> bool:
        """Whether the two require the same but for one kind; steps by key, whatever their words."""
        return self._keyed(but) == other._keyed(but)

    def _keyed(self, but: str) -> Mapping[str, Any]:
        keys = asdict(replace(self, treatments=(), state=None)) | {
            "treatments": [t.key for t in self.to_do],
            "state": self.state_to_reach.key if self.state_to_reach else "",
        }
        return {k: v for k, v in keys.items() if k != but}

    @classmethod
    def read(cls, stored: Mapping[str, Any]) -> Self:
        """The record as it is stored. Raises :class:`TypeError` for a key that is none."""
        parts = {key: _PARTS.get(key, _as_is)(value) for key, value in stored.items()}
        return cls(**parts)

    @property
    def stored(self) -> dict[str, Any]:
        """The record to be stored: what it does not require stands nowhere."""
        return {
            key: value for key, value in asdict(self).items() if value not in (None, "", (), {})
        }


REQUIREMENT_KEYS = tuple(f.name for f in fields(Requirements))


def _as_is(value: Any) -> Any:
    return value


def _one(record: Callable[..., Any]) -> Callable[[Any], Any]:
    return lambda value: record(**value) if value else None


def _several(record: Callable[..., Any]) -> Callable[[Any], Any]:
    return lambda value: tuple(record(**v) for v in value or ())


_PARTS: dict[str, Callable[[Any], Any]] = {
    "settings": lambda value: value or {},
    "treatments": _several(RequiredStep),
    "state": _one(RequiredStep),
    "age": _one(RequiredAge),
    "drying": _one(RequiredDrying),
    "orientation": lambda value: value or "",
    "design": _one(RequiredDesign),
    "ticks": _several(RequiredTick),
}


# -- read from levels ---------------------------------------------------------------------------


class AsFactor(Protocol):
    """What is read of a factor, planned or stored."""

    @property
    def kind(self) -> str:
        """What kind of factor it is."""

    @property
    def name(self) -> str:
        """Name."""

    @property
    def setting(self) -> str:
        """The recipe setting it varies, if it varies one."""


class AsLevel(Protocol):
    """What is read of a level, planned or stored."""

    @property
    def label(self) -> str:
        """Its words."""

    @property
    def value(self) -> float | None:
        """Its number in SI, if it is one."""

    @property
    def specimen_type(self) -> str:
        """The published specimen type it requires, if it requires one."""

    @property
    def variant(self) -> SpecimenVariant | None:
        """The workshop's own type it requires."""

    @property
    def lot(self) -> Lot | None:
        """The lot it requires."""


def requirements_of(pairs: Iterable[tuple[AsFactor, AsLevel]]) -> Requirements:
    """What the levels of one condition require: (factor, level) pairs, planned or stored.

    Raises :class:`InputError` for a level that its kind cannot understand.
    """
    found = Requirements()
    for factor, level in pairs:
        found = replace(found, **_REQUIRED.get(factor.kind, _tick)(found, factor, level))
    return found


Changed = dict[str, Any]


def _setting(so_far: Requirements, factor: AsFactor, level: AsLevel) -> Changed:
    if not factor.setting:
        return _tick(so_far, factor, level)
    row = {"text": level.label, "value": level.value, "shown": level.label}
    return {"settings": {**so_far.settings, factor.setting: row}}


def _rate(so_far: Requirements, factor: AsFactor, level: AsLevel) -> Changed:
    return {"speed": read_meaning("rate", level.label).value}


def _treatment(so_far: Requirements, factor: AsFactor, level: AsLevel) -> Changed:
    return {"treatments": (*so_far.treatments, _step("treatment", level.label))}


def _state(so_far: Requirements, factor: AsFactor, level: AsLevel) -> Changed:
    return {"state": _step("condition", level.label)}


def _step(kind: str, what: str) -> RequiredStep:
    meaning = read_meaning(kind, what)
    return RequiredStep(what, meaning.outstanding, meaning.temperature, meaning.duration)


def _age(so_far: Requirements, factor: AsFactor, level: AsLevel) -> Changed:
    meaning = read_meaning("age", level.label)
    return {"age": RequiredAge(level.label, meaning.value or 0.0, meaning.outstanding)}


def _drying(so_far: Requirements, factor: AsFactor, level: AsLevel) -> Changed:
    return {"drying": RequiredDrying(level.label, read_meaning("drying", level.label).word)}


def _orientation(so_far: Requirements, factor: AsFactor, level: AsLevel) -> Changed:
    return {"orientation": read_meaning("orientation", level.label).word}


def _design(so_far: Requirements, factor: AsFactor, level: AsLevel) -> Changed:
    own = level.variant
    if own is None:
        return {"design": RequiredDesign(level.label, level.specimen_type)}
    return {"design": RequiredDesign(level.label, f"own-{own.pk}", own.shape, own.sizes, own.part)}


def _lot(so_far: Requirements, factor: AsFactor, level: AsLevel) -> Changed:
    return {"lot": level.lot.pk if level.lot else None}


def _nothing(so_far: Requirements, factor: AsFactor, level: AsLevel) -> Changed:
    """The material governs by the condition itself."""
    return {}


def _tick(so_far: Requirements, factor: AsFactor, level: AsLevel) -> Changed:
    return {"ticks": (*so_far.ticks, RequiredTick(factor.name, level.label))}


_REQUIRED: dict[str, Callable[[Requirements, AsFactor, AsLevel], Changed]] = {
    "material": _nothing,
    "lot": _lot,
    "setting": _setting,
    "rate": _rate,
    "treatment": _treatment,
    "condition": _state,
    "age": _age,
    "drying": _drying,
    "orientation": _orientation,
    "design": _design,
}
