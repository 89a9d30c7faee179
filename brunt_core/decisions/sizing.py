"""How thick it must be: sections from strength and from stiffness, the inverse of the test formulas."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from math import pi, sqrt

import scipy

from brunt_core.errors import InputError
from brunt_core.mechanics.torsion import stiffness_factor, stress_factor

STRENGTH, STIFFNESS = "strength", "stiffness"
# Beyond these a number is a slip of the keys, whatever its unit.
_LEAST, _MOST = 1e-9, 1e15
THICKNESS, DIAMETER, ENGAGEMENT = "thickness", "diameter", "engagement"


@dataclass(frozen=True)
class Case:
    """One load case, SI: load in N, or N·m of a twist; lengths in m.

    ``span`` between two supports, or of the length that stretches or twists; ``arm`` from the held end
    to the load; ``width`` across the load, ``None`` for a round bar, the diameter of a thread; ``planes``
    that a pin is sheared in.
    """

    mode: str
    load: float
    span: float | None = None
    arm: float | None = None
    width: float | None = None
    planes: int = 2


@dataclass(frozen=True)
class LoadMode:
    """A load case by name: what it needs, its formulas in symbols for a strip and a round bar, its source."""

    key: str
    name: str
    needs: tuple[str, ...]
    strip: str
    round: str
    source: str
    sag: str = "deflection"


_BEAM = "beam theory, e.g. Roark's Formulas for Stress and Strain (recalled)"
MODES = {
    m.key: m
    for m in (
        LoadMode("bending", "bent between two supports", ("span",), "σ = 3 F L / (2 b h²)", "σ = 8 F L / (π d³)", _BEAM),
        LoadMode("cantilever", "bent, one end held", ("arm",), "σ = 6 F a / (b h²)", "σ = 32 F a / (π d³)", _BEAM),
        LoadMode("tension", "pulled", needs=(), strip="σ = F / (b h)", round="σ = 4 F / (π d²)", source="definition of stress", sag="stretch"),
        LoadMode("torsion", "twisted", (), "τ = T / (α b h²)", "τ = 16 T / (π d³)", "Saint-Venant's torsion"),
        LoadMode("shear", "sheared", (), "τ = F / (n b h)", "τ = 4 F / (n π d²)", "mean shear stress"),
        LoadMode("thread", "held by a thread", ("width",), "τ = F / (π d l)", "", "stripping of threads, any handbook of machine elements"),
    )
}  # fmt: skip


@dataclass(frozen=True)
class Sized:
    """The section that is needed, m; ``by_strength`` and ``by_stiffness`` what either asks for by itself."""

    dimension: str
    value: float
    ruled_by: str
    by_strength: float
    by_stiffness: float | None
    allowed: float
    remarks: tuple[str, ...] = ()


def stress(case: Case, depth: float) -> float:
    """The largest stress of a section under its load, Pa.

    Parameters: the case; ``depth`` the thickness along the load (the diameter of a round bar), m.
    Limits: slender, elastic, straight; no stress raisers; the pin's mean shear.
    Raises :class:`InputError` for a mode that is none, or a length that is missing.
    Source: of each mode in :data:`MODES`; torsion of a strip by the exact series.

    >>> round(stress(Case("bending", 120.0, span=0.064, width=0.010), 0.004) / 1e6, 6)
    72.0
    >>> round(stress(Case("torsion", 2.0), 0.008) / 1e6, 5)
    19.89437
    >>> round(stress(Case("thread", 4000.0, width=0.0254), 0.0032) / 1e6, 5)
    15.66486
    """
    checked_mode(case)
    _above(depth, "thickness")
    return _STRESS[case.mode](case, depth)


def _bent(moment: float, case: Case, depth: float) -> float:
    modulus = case.width * depth**2 / 6 if case.width else pi * depth**3 / 32
    return moment / modulus


def _area(case: Case, depth: float) -> float:
    return case.width * depth if case.width else pi * depth**2 / 4


def _twisted(case: Case, depth: float) -> float:
    if case.width:
        return case.load / stress_factor(case.width, depth)
    return 16 * case.load / (pi * depth**3)


_STRESS: Mapping[str, Callable[[Case, float], float]] = {
    "bending": lambda c, d: _bent(c.load * (c.span or 0) / 4, c, d),
    "cantilever": lambda c, d: _bent(c.load * (c.arm or 0), c, d),
    "tension": lambda c, d: c.load / _area(c, d),
    "torsion": _twisted,
    "shear": lambda c, d: c.load / (c.planes * _area(c, d)),
    "thread": lambda c, d: c.load / (pi * (c.width or 0) * d),
}


def deflection(case: Case, depth: float, modulus: float) -> float | None:
    """How far it gives at the load: m, or rad for a twist; ``None`` where no length is known, or sheared.

    Parameters: as :func:`stress`; ``modulus`` E (G for a twist) in Pa. F·L³/(48·E·I) between supports,
    F·a³/(3·E·I) with one end held, F·L/(E·A) pulled, T·L/(G·J) twisted.
    Limits: small deflection; shear excluded. Source: as :func:`stress`.

    >>> round(deflection(Case("bending", 120.0, span=0.064, width=0.010), 0.004, 2500e6) * 1e3, 5)
    4.9152
    >>> round(deflection(Case("cantilever", 5.0, arm=0.05, width=0.010), 0.004, 2500e6) * 1e3, 5)
    1.5625
    """
    checked_mode(case)
    _above(depth, "thickness")
    _above(modulus, "modulus")
    second = case.width * depth**3 / 12 if case.width else pi * depth**4 / 64
    if case.mode == "bending":
        return case.load * (case.span or 0) ** 3 / (48 * modulus * second)
    if case.mode == "cantilever":
        return case.load * (case.arm or 0) ** 3 / (3 * modulus * second)
    if case.span is None or case.mode in ("shear", "thread"):
        return None
    if case.mode == "tension":
        return case.load * case.span / (modulus * _area(case, depth))
    twist = stiffness_factor(case.width, depth) if case.width else pi * depth**4 / 32
    return case.load * case.span / (modulus * twist)


def size(
    case: Case,
    strength: float,
    factor: float = 1.0,
    modulus: float | None = None,
    sag: float | None = None,
) -> Sized:
    """The thickness along the load, or the diameter where no width is given, that carries a load.

    Parameters: the case; ``strength`` in Pa, divided by ``factor`` (1 or more) for what is allowed;
    with ``modulus`` (Pa) and ``sag`` (m, rad for a twist) also the one that gives no further than that
    under the load itself. Whichever asks for more rules.
    Raises :class:`InputError` for what is missing, not above zero, or a factor below 1.
    Source: the inverse of :func:`stress` and :func:`deflection`, which it is checked against.

    >>> s = size(Case("bending", 120.0, span=0.080, width=0.012), 55e6, 4)
    >>> s.dimension, round(s.value * 1e3, 4), s.ruled_by
    ('thickness', 9.342, 'strength')
    """
    checked_mode(case)
    _above(strength, "strength")
    if not factor >= 1 or factor == float("inf"):
        raise InputError("A safety factor is 1 or more.", "factor")
    if (modulus is None) != (sag is None):
        raise InputError("A limit of sag needs both the modulus and the sag.", "sag" if sag is None else "modulus")  # fmt: skip
    allowed = strength / factor
    strong = _by_strength(case, allowed)
    stiff = None
    if modulus is not None and sag is not None:
        _above(modulus, "modulus")
        _above(sag, "sag")
        stiff = _by_stiffness(case, modulus, sag)
    rules = stiff is not None and stiff > strong
    value = stiff if rules and stiff is not None else strong
    found = Sized(
        ENGAGEMENT if case.mode == "thread" else THICKNESS if case.width else DIAMETER,
        value,
        STIFFNESS if rules else STRENGTH,
        by_strength=strong,
        by_stiffness=stiff,
        allowed=allowed,
    )
    return replace(found, remarks=_remarks(case, found, modulus))


def checked_mode(case: Case) -> LoadMode:
    """The mode of a case that can be worked. Raises :class:`InputError` naming what is missing."""
    mode = MODES.get(case.mode)
    if mode is None:
        raise InputError(f"There is no load case “{case.mode}”; there are {', '.join(MODES)}.", "mode")  # fmt: skip
    _above(case.load, "load")
    for name in mode.needs:
        value = getattr(case, name)
        if value is None:
            what = "Diameter of the thread" if case.mode == "thread" else name.capitalize()
            raise InputError(f"{what} is missing: {mode.name} needs it.", name)
    for name in ("span", "arm", "width"):
        value = getattr(case, name)
        if value is not None:
            _above(value, name)
    if case.planes not in (1, 2):
        raise InputError("A pin is sheared in 1 or 2 planes.", "planes")
    return mode


def _above(value: float, name: str) -> None:
    if not 0 < value < float("inf"):
        raise InputError(f"{name.capitalize()} must be above zero.", name)
    if not _LEAST < value < _MOST:
        raise InputError(f"{name.capitalize()} is no {name} of a part.", name)


def _by_strength(case: Case, allowed: float) -> float:
    if case.mode in ("tension", "shear"):
        area = case.load / allowed / (case.planes if case.mode == "shear" else 1)
        return area / case.width if case.width else sqrt(4 * area / pi)
    if case.mode == "thread":
        return case.load / allowed / (pi * (case.width or 0.0))
    if case.mode == "torsion" and case.width:
        return _solved(lambda d: case.load / stress_factor(case.width or 0.0, d) - allowed)
    one = stress(case, 1.0)
    return (one / allowed) ** (1 / 2 if case.width else 1 / 3)


_NO_SAG = {"shear": "A pin is not sized by sag.", "thread": "A thread is not sized by sag."}


def _by_stiffness(case: Case, modulus: float, sag: float) -> float:
    one = deflection(case, 1.0, modulus)
    if one is None:
        raise InputError(
            _NO_SAG.get(case.mode, "A limit of sag needs the length: give the span."),
            "sag" if case.mode in _NO_SAG else "span",
        )  # fmt: skip
    if case.mode == "torsion" and case.width:
        return _solved(lambda d: (deflection(case, d, modulus) or 0.0) - sag)
    power = {"tension": 1 if case.width else 2}.get(case.mode, 3 if case.width else 4)
    return (one / sag) ** (1 / power)


def _solved(beyond: Callable[[float], float]) -> float:
    """The depth at which a falling quantity meets its limit, from 1 µm to 10 m."""
    low, high = 1e-6, 10.0
    if beyond(high) > 0:
        raise InputError("No section of less than 10 m would do.", "load")
    return float(scipy.optimize.brentq(beyond, low, high, xtol=1e-12)) if beyond(low) > 0 else low


def _remarks(case: Case, found: Sized, modulus: float | None) -> tuple[str, ...]:
    said = []
    if case.mode == "thread" and found.value > 2.5 * (case.width or 0.0):
        said.append(
            "It is engaged over more than two and a half diameters: the first turns carry most of it."
        )
    reach = case.span if case.mode == "bending" else 2 * (case.arm or 0) if case.mode == "cantilever" else None  # fmt: skip
    if reach and reach < 8 * found.value:
        said.append("It is short for its depth: beam theory leaves out shear, which adds to the sag.")  # fmt: skip
    if reach and modulus:
        give = deflection(case, found.value, modulus)
        if give and give > 0.1 * (case.span or case.arm or 1.0):
            said.append("It sags by more than a tenth of its length: the formulas are for small deflections.")  # fmt: skip
    if case.width and found.value > 3 * case.width and case.mode in ("bending", "cantilever"):
        said.append("It is more than three times as deep as wide: it may tip over sideways.")
    return tuple(said)
