"""Whatever is not a factor and differs between conditions all the same."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

Value = str | frozenset[str]


@dataclass(frozen=True)
class Confounder:
    """One thing that differs: its values by condition, what that does, and how to fix it."""

    key: str
    name: str
    values: tuple[tuple[str, tuple[str, ...]], ...]
    remedy: str

    @property
    def sentence(self) -> str:
        """All of it in one sentence."""
        parts = "; ".join(
            f"{value or 'not stated'}: {', '.join(who)}" for value, who in self.values
        )
        return f"{self.name} differs and is not a factor ({parts})."


_REMEDIES = {
    "colour": "Print all from lots of one colour, or make the colour a factor: colour alone can shift strength.",
    "printer": "Print all on one printer, or spread every condition over both.",
    "specimen type": "Use one geometry; results of different geometries are not comparable.",
    "lot": "Print each material from one lot, or name the lots as levels.",
    "plate": "Plate and condition are confounded: print two plates of each.",
    "operator": "Let each tester take specimens of every condition.",
    "week": "Test every condition in the same days; go by the test order.",
    "rig": "Test all on one rig.",
    "speed": "Test all at one speed, or make the speed a factor.",
    "state": "Condition all the same before the test, or make the state a factor.",
    "orientation": "Print all in the same orientation, or make the orientation a factor.",
}


def find_confounders(
    facts: Mapping[str, Mapping[str, Value]],
    factors: Sequence[str],
    explained: Mapping[str, str] | None = None,
    spread: Collection[str] = (),
) -> list[Confounder]:
    """List what differs between conditions and is not under study.

    Parameters: ``facts`` by condition: name of the fact → its value as text, or the set of values
    where several occur, empty where not stated; ``factors`` names (or setting keys) that are varied
    on purpose; ``explained`` facts that follow from a factor (fact → factor), such as the lot from
    the material; ``spread`` facts that do no harm while conditions share them, such as the operator:
    these differ only when two conditions have no value in common.
    Facts stated for fewer than two conditions are passed over.

    >>> facts = {"PLA": {"walls": "4"}, "PETG": {"walls": "2"}}
    >>> find_confounders(facts, ["material"])[0].sentence
    'Walls differs and is not a factor (4: PLA; 2: PETG).'
    >>> find_confounders(facts, ["walls"])
    []
    >>> hands = {"PLA": {"operator": frozenset("ab")}, "PETG": {"operator": frozenset("bc")}}
    >>> find_confounders(hands, ["material"], spread=["operator"])
    []
    """
    free = {f.lower() for f in factors} | {
        k.lower() for k, v in (explained or {}).items() if v in factors
    }
    found = []
    for fact in dict.fromkeys(name for row in facts.values() for name in row):
        if fact.lower() in free:
            continue
        held = {c: _several(row[fact]) for c, row in facts.items() if row.get(fact)}
        if not _apart(held, fact in spread):
            continue
        groups: dict[str, list[str]] = {}
        for condition, values in held.items():
            groups.setdefault(" and ".join(sorted(values)), []).append(condition)
        remedy = _REMEDIES.get(
            fact, f"Set the {fact} the same in all recipes, or make it a factor."
        )
        parted = tuple((v, tuple(w)) for v, w in groups.items())
        found.append(Confounder(fact, fact[:1].upper() + fact[1:], parted, remedy))
    return found


def _several(value: Value) -> frozenset[str]:
    return frozenset([value]) if isinstance(value, str) else value


def _apart(held: Mapping[str, frozenset[str]], spread: bool) -> bool:
    """Whether the values differ; of what is spread, whether two conditions share none."""
    sets = list(dict.fromkeys(held.values()))
    if not spread:
        return len(sets) > 1
    return any(not a & b for i, a in enumerate(sets) for b in sets[i + 1 :])
