"""What the levels of a condition ask for, gathered in one place: ``Condition.asks``.

``settings`` recipe settings; ``speed`` in m/s; ``treatments`` and ``state`` with what is outstanding;
``age`` in s; ``drying``; ``orientation``; ``design``; ``lot``; ``ticks`` for what only its own name says.
"""

from collections.abc import Iterable
from typing import Any, Protocol

from brunt_core.planning.levels import Meaning, read_meaning
from brunt_web.library.models import Lot, SpecimenVariant


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
        """The published specimen type it asks for, if it asks for one."""

    @property
    def variant(self) -> SpecimenVariant | None:
        """The workshop's custom type it asks for."""

    @property
    def lot(self) -> Lot | None:
        """The lot it asks for."""


def asks_of(pairs: Iterable[tuple[AsFactor, AsLevel]]) -> dict[str, Any]:
    """What the levels of one condition ask for: (factor, level) pairs, planned or stored.

    Raises :class:`InputError` for a level that its kind cannot understand.
    """
    asks: dict[str, Any] = {}
    for factor, level in pairs:
        _ASKED.get(factor.kind, _tick)(asks, factor, level)
    return asks


def _setting(asks: dict[str, Any], factor: AsFactor, level: AsLevel) -> None:
    if not factor.setting:
        return _tick(asks, factor, level)
    row = {"text": level.label, "value": level.value, "shown": level.label}
    asks.setdefault("settings", {})[factor.setting] = row
    return None


def _rate(asks: dict[str, Any], factor: AsFactor, level: AsLevel) -> None:
    asks["speed"] = read_meaning("rate", level.label).value


def _treatment(asks: dict[str, Any], factor: AsFactor, level: AsLevel) -> None:
    meaning = read_meaning("treatment", level.label)
    asks.setdefault("treatments", []).append(_outstanding(level.label, meaning))


def _state(asks: dict[str, Any], factor: AsFactor, level: AsLevel) -> None:
    asks["state"] = _outstanding(level.label, read_meaning("condition", level.label))


def _outstanding(what: str, meaning: Meaning) -> dict[str, Any]:
    return {
        "what": what,
        "outstanding": meaning.outstanding,
        "temperature": meaning.temperature,
        "duration": meaning.duration,
    }


def _age(asks: dict[str, Any], factor: AsFactor, level: AsLevel) -> None:
    meaning = read_meaning("age", level.label)
    asks["age"] = {
        "what": level.label,
        "seconds": meaning.value,
        "outstanding": meaning.outstanding,
    }


def _drying(asks: dict[str, Any], factor: AsFactor, level: AsLevel) -> None:
    asks["drying"] = {"what": level.label, "word": read_meaning("drying", level.label).word}


def _orientation(asks: dict[str, Any], factor: AsFactor, level: AsLevel) -> None:
    asks["orientation"] = read_meaning("orientation", level.label).word


def _design(asks: dict[str, Any], factor: AsFactor, level: AsLevel) -> None:
    own = level.variant
    asks["design"] = {
        "what": level.label,
        "key": f"own-{own.pk}" if own else level.specimen_type,
        "shape": own.shape if own else "",
        "sizes": own.sizes if own else {},
        "part": own.part if own else None,
    }


def _lot(asks: dict[str, Any], factor: AsFactor, level: AsLevel) -> None:
    asks["lot"] = level.lot.pk if level.lot else None


def _nothing(asks: dict[str, Any], factor: AsFactor, level: AsLevel) -> None:
    """The material governs by the condition itself."""


def _tick(asks: dict[str, Any], factor: AsFactor, level: AsLevel) -> None:
    asks.setdefault("ticks", []).append({"name": factor.name, "what": level.label})


_ASKED = {
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
