"""Whatever is not a factor and differs between conditions all the same."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Confounder:
    """One thing that differs: its values by condition, what that does, and how to mend it."""

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
    "specimen type": "Use one geometry; results of unlike bars are not compared.",
    "lot": "Print each material from one lot, or name the lots as levels.",
}


def find_confounders(
    facts: Mapping[str, Mapping[str, str]],
    factors: Sequence[str],
    explained: Mapping[str, str] | None = None,
) -> list[Confounder]:
    """List what differs between conditions and is not under study.

    Parameters: ``facts`` by condition: name of the fact → its value as text, empty where not
    stated; ``factors`` names (or setting keys) that are varied on purpose; ``explained`` facts
    that follow from a factor (fact → factor), such as the lot from the material.
    Facts stated for fewer than two conditions are passed over.

    >>> facts = {"PLA": {"walls": "4"}, "PETG": {"walls": "2"}}
    >>> find_confounders(facts, ["material"])[0].sentence
    'Walls differs and is not a factor (4: PLA; 2: PETG).'
    >>> find_confounders(facts, ["walls"])
    []
    """
    free = {f.lower() for f in factors} | {
        k.lower() for k, v in (explained or {}).items() if v in factors
    }
    found = []
    for fact in dict.fromkeys(name for row in facts.values() for name in row):
        if fact.lower() in free:
            continue
        groups: dict[str, list[str]] = {}
        for condition, row in facts.items():
            if row.get(fact):
                groups.setdefault(row[fact], []).append(condition)
        if len(groups) > 1:
            remedy = _REMEDIES.get(
                fact, f"Set the {fact} alike in all recipes, or make it a factor."
            )
            found.append(
                Confounder(
                    fact,
                    fact[:1].upper() + fact[1:],
                    tuple((v, tuple(w)) for v, w in groups.items()),
                    remedy,
                )
            )
    return found
