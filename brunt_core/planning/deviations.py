"""Planned against what happened: each difference in words."""

from collections.abc import Mapping
from dataclasses import dataclass

from brunt_core.printing.recipes import FIELDS
from brunt_core.quantities import in_unit
from brunt_core.quantities.rendering import time_words

Settings = Mapping[str, Mapping[str, object]]


@dataclass(frozen=True)
class Deviation:
    """One thing that was not done as planned. ``key`` tells its kind, the rest is text."""

    key: str
    name: str
    planned: str
    actual: str
    verb: str = "was"

    @property
    def sentence(self) -> str:
        """``Nozzle temperature: planned 250 °C, printed at 235 °C``."""
        return f"{self.name}: planned {self.planned}, {self.verb} {self.actual}"


def setting_deviations(kind: str, planned: Settings, used: Settings) -> list[Deviation]:
    """Settings that both name and in which they differ, in the recipe's order.

    Parameters: ``kind`` filament or resin; settings by key as ``{"value": SI or None, "shown": text}``.
    Numbers differ by more than a part in 10⁴ (temperatures by more than half a kelvin); what one of
    them does not name is unknown and no deviation.

    >>> hot, cold = ({"nozzle_temperature": {"value": t, "shown": f"{t - 273.15:.0f} °C"}} for t in (523.15, 508.15))
    >>> setting_deviations("filament", hot, cold)[0].sentence
    'Nozzle temperature: planned 250 °C, printed at 235 °C'
    """
    found = []
    for key, field in FIELDS[kind].items():
        want, got = planned.get(key), used.get(key)
        if want and got and _differ(want, got, field.dimension == "temperature"):
            verb = "printed at" if field.dimension != "text" else "printed with"
            said = str(want["shown"]), str(got["shown"])
            found.append(Deviation(f"setting {key}", field.label, *said, verb))
    return found


def _differ(want: Mapping[str, object], got: Mapping[str, object], heat: bool) -> bool:
    a, b = want.get("value"), got.get("value")
    if isinstance(a, int | float) and isinstance(b, int | float):
        return abs(a - b) > (0.5 if heat else 1e-4 * max(abs(a), abs(b)))
    return str(want.get("shown", "")).strip().lower() != str(got.get("shown", "")).strip().lower()


def speed_deviation(planned: float | None, actual: float | None) -> Deviation | None:
    """The rig's speed, when it is more than a twentieth off; both in m/s, ``None`` for unknown.

    >>> speed_deviation(0.5 / 60, 0.005 / 60).sentence
    'Speed: planned 500 mm/min, tested at 5 mm/min'
    """
    if not planned or not actual or abs(actual / planned - 1) <= 0.05:
        return None
    return Deviation("speed", "Speed", speed_words(planned), speed_words(actual), "tested at")


def speed_words(speed: float) -> str:
    """A speed in m/s as text in mm/min.

    >>> speed_words(0.005 / 60)
    '5 mm/min'
    """
    text = f"{in_unit(speed, 'speed', 'mm/min'):.6g}"
    return f"{text} mm/min"


def age_deviation(planned: float | None, actual: float) -> Deviation | None:
    """The age at test, when it is off by more than a tenth and half a day; both in s.

    A plan without an age (``None``) is honoured by any.

    >>> age_deviation(56 * 86400.0, 40 * 86400.0).sentence
    'Age: planned 56 d, tested at 40 d'
    >>> age_deviation(56 * 86400.0, 57 * 86400.0) is None
    True
    """
    if planned is None or abs(actual - planned) <= max(0.1 * planned, 43200.0):
        return None
    if planned == 0.0 and actual <= 7 * 86400.0:
        return None
    want = "fresh" if planned == 0.0 else time_words(planned, 2)
    return Deviation("age", "Age", want, time_words(max(actual, 0.0), 2), "tested at")


def word_deviation(
    key: str, name: str, planned: str, actual: str, verb: str = "was"
) -> Deviation | None:
    """A thing named in words: ``None`` when both agree or one is not known.

    >>> word_deviation("lot", "Lot", "spool 7", "spool 8", "printed from").sentence
    'Lot: planned spool 7, printed from spool 8'
    """
    if not planned or not actual or planned.strip().lower() == actual.strip().lower():
        return None
    return Deviation(key, name, planned, actual, verb)
