"""What a dimension is: its SI unit, the unit shown, and how its units are spelled."""

import re
from dataclasses import dataclass, field

_PLAIN_POWER = re.compile(r"(?<=[A-Za-z])[234](?=$|[\s/·])")


@dataclass(frozen=True)
class Dimension:
    """A kind of quantity: its SI unit, the unit shown, the spellings read, and habits of speech.

    ``notes`` holds spellings that are read as something else, with the sentence that says so.
    """

    key: str
    name: str
    si: str
    shown: str
    spellings: dict[str, str]
    notes: dict[str, str] = field(default_factory=dict)
    case_matters: frozenset[str] = frozenset()

    def unit_of(self, spelling: str) -> str | None:
        """The pint expression for a spelling, or ``None``; case is ignored unless it matters."""
        tidy = tidy_spelling(spelling)
        if tidy in self.spellings:
            return self.spellings[tidy]
        folded = {k.lower(): v for k, v in self.spellings.items() if k not in self.case_matters}
        return None if tidy in self.case_matters else folded.get(tidy.lower())

    def label(self, unit: str) -> str:
        """How a pint expression is written for people: the first spelling that names it."""
        return next((s for s, u in self.spellings.items() if u == unit), unit)


def tidy_spelling(spelling: str) -> str:
    """One way of writing dots, multiplication signs and powers in a unit.

    >>> tidy_spelling("ft-lb"), tidy_spelling("N m"), tidy_spelling("kg/cm^2"), tidy_spelling("kJ/m2")
    ('ft·lb', 'N·m', 'kg/cm²', 'kJ/m²')
    """
    text = spelling.strip().rstrip(".")
    for mark in ("*", "×", "⋅", "-", "."):
        text = text.replace(mark, "·")
    text = text.replace("^2", "²").replace("^3", "³").replace("^4", "⁴").replace("μ", "µ")
    text = _PLAIN_POWER.sub(lambda m: "²³⁴"["234".index(m[0])], text)
    text = "·".join(part for part in text.split() if part)
    while "··" in text:
        text = text.replace("··", "·")
    return text.replace("·/", "/").replace("/·", "/")
