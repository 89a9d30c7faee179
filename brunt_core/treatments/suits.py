"""Does a treatment suit these parts? Said with its reason before the oven is on.

Softening and solvents by family are from general knowledge of the trade, from memory.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from brunt_core.plausibility.bands import FAMILIES
from brunt_core.quantities.rendering import render
from brunt_core.treatments.kind import Kind

# Glass transition in K, or where it creeps under its own weight; families that crystallise apart.
_SOFTENS = {
    "pla": 333.15,
    "pla-cf": 333.15,
    "petg": 353.15,
    "petg-cf": 353.15,
    "abs": 378.15,
    "asa": 373.15,
    "hips": 368.15,
    "pc": 420.15,
    "pa6": 473.15,
    "pa12": 443.15,
    "pa-cf": 483.15,
    "pp": 413.15,
    "pvb": 338.15,
    "tpu": 373.15,
    "pbt": 473.15,
    "pps": 523.15,
    "pha": 353.15,
    "resin": 343.15,
    "resin-tough": 333.15,
    "resin-abs": 343.15,
    "resin-flex": 333.15,
    "resin-heat": 493.15,
}
_AMORPHOUS = ("petg", "petg-cf", "abs", "asa", "hips", "pc", "pvb")
_SOLVENTS = {
    "acetone": ("abs", "asa", "hips"),
    "isopropanol": ("pvb",),
}
_MARKS = {"pen": 353.15, "label": 343.15}
_THIN = 2.5e-3


@dataclass(frozen=True)
class TreatedPart:
    """What is known of the parts: family, filled share, thickness in m, how they are marked,
    whether a water-soluble support is still on."""

    family: str
    infill: float = 1.0
    thickness: float | None = None
    mark: str = ""
    soluble_support: bool = False


@dataclass(frozen=True)
class Objection:
    """Why it does not suit: ``stops`` where it would destroy the parts or the comparison."""

    stops: bool
    sentence: str


def objections(
    kind: Kind, values: Mapping[str, float | str], parts: Sequence[TreatedPart]
) -> list[Objection]:
    """Everything that speaks against a treatment of these parts, each said once.

    Parameters: the kind, its parameters as :meth:`Kind.read` gives them, the parts.

    >>> from brunt_core.treatments.kinds import KINDS
    >>> k = KINDS["vapour"]
    >>> objections(k, k.read({"solvent": "acetone"}), [TreatedPart("pla")])[0].sentence
    'Acetone does not dissolve PLA: it takes ABS, ASA, HIPS.'
    """
    found: dict[str, Objection] = {}
    for part in parts:
        for one in _of_part(kind, values, part):
            found.setdefault(one.sentence, one)
    return sorted(found.values(), key=lambda o: not o.stops)


def _of_part(
    kind: Kind, values: Mapping[str, float | str], part: TreatedPart
) -> Iterator[Objection]:
    yield from _solvent(values, part)
    heat = values.get("temperature")
    name = _name(part.family)
    if kind.packed and part.infill < 0.995:
        yield Objection(
            True,
            f"Infill is {part.infill * 100:.0f} %: a remelt needs solid parts, hollow ones collapse.",
        )
    if isinstance(heat, float):
        yield from _heat(kind, values, part, heat, name)
    if part.soluble_support and kind.vessel == "bath":
        yield Objection(
            True, "A water-soluble support is still on: water takes it off and swells it."
        )


def _solvent(values: Mapping[str, float | str], part: TreatedPart) -> Iterator[Objection]:
    solvent = values.get("solvent")
    takes = _SOLVENTS.get(str(solvent), ())
    if solvent and part.family and part.family not in takes:
        names = ", ".join(_name(f) for f in takes)
        yield Objection(
            True,
            f"{str(solvent).capitalize()} does not dissolve {_name(part.family)}: it takes {names}.",
        )


def _heat(
    kind: Kind, values: Mapping[str, float | str], part: TreatedPart, heat: float, name: str
) -> Iterator[Objection]:
    softens = _SOFTENS.get(part.family)
    spoken = render(heat, "temperature", "°C")
    if kind.key == "remelt":
        if softens and heat < softens:
            yield Objection(False, f"{spoken} does not melt {name}: the pack only anneals it.")
        return
    free = values.get("held", "free") == "free"
    thin = part.thickness is not None and part.thickness < _THIN
    if softens and part.family in _AMORPHOUS and heat > softens and free and kind.group == "Heat":
        size = "thin parts" if thin else "free parts"
        yield Objection(
            thin,
            f"{name} is amorphous and softens near {render(softens, 'temperature', '°C')}: "
            f"{size} sag at {spoken}. Support them, or stay below.",
        )
    if softens and heat > softens + 40 and kind.group == "Conditioning":
        yield Objection(True, f"{spoken} is hotter than {name} can bear: it sags before the test.")
    limit = _MARKS.get(part.mark)
    if limit and heat > limit:
        yield Objection(
            False,
            f"A mark by {part.mark} does not last at {spoken}: raise it or write it elsewhere.",
        )


def _name(family: str) -> str:
    return FAMILIES[family].name if family in FAMILIES else family
