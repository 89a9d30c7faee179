"""Which combinations of levels are made: full factorial, one factor, chosen subsets, two-level fractions."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product
from math import prod

from brunt_core.errors import InputError

MOST_RUNS = 400


@dataclass(frozen=True)
class Fraction:
    """A two-level fractional design: runs as −1/+1 rows, its resolution, what is mixed with what."""

    runs: tuple[tuple[int, ...], ...]
    resolution: int
    aliases: tuple[str, ...]


def full_factorial(levels: Sequence[int]) -> list[tuple[int, ...]]:
    """Every combination of level numbers, the last factor changing fastest.

    Parameters: how many levels each factor has, each at least one.
    Raises :class:`InputError` beyond :data:`MOST_RUNS` combinations.

    >>> full_factorial([2, 3])[:3]
    [(0, 0), (0, 1), (0, 2)]
    """
    count = 1
    for n in levels:
        count *= n
    if count > MOST_RUNS:
        raise InputError(
            f"That is {count} combinations; {MOST_RUNS} are the most. Drop a level, or take a fraction.",
            "factors",
        )
    return list(product(*(range(n) for n in levels)))


# Generators of two-level fractions of highest resolution by (factors, runs): Box, Hunter & Hunter,
# Statistics for Experimenters, table of fractional designs (recalled; checked in tests).
_GENERATORS = {
    (4, 8): "a b c abc",
    (5, 8): "a b c ab ac",
    (5, 16): "a b c d abcd",
    (6, 8): "a b c ab ac bc",
    (6, 16): "a b c d abc bcd",
    (7, 8): "a b c ab ac bc abc",
    (7, 16): "a b c d abc bcd acd",
}


def fractions_for(factors: int) -> list[int]:
    """The numbers of runs offered for so many two-level factors.

    >>> fractions_for(5)
    [8, 16]
    """
    return [runs for (k, runs) in _GENERATORS if k == factors]


def two_level_fraction(names: Sequence[str], runs: int) -> Fraction:
    """A fraction of the two-level design in so many runs.

    Parameters: names of the four to seven factors; ``runs`` one of :func:`fractions_for`.
    Each column is the product of the factors its generator names, the last of the
    plain ones changing fastest; resolution and aliases are worked out from the columns' products.
    Source: Box, Hunter & Hunter, Statistics for Experimenters (recalled); the rows are checked against
    the package ``pydoe`` in tests/reference/test_planning.py.

    Raises :class:`InputError` for a combination that is not offered.

    >>> two_level_fraction(["walls", "infill", "speed", "fan"], 8).aliases[0]
    'walls × infill is confounded with speed × fan'
    """
    if (len(names), runs) not in _GENERATORS:
        raise InputError(
            f"No fraction of {len(names)} factors in {runs} runs is offered.", "factors"
        )
    rows = _rows(_GENERATORS[len(names), runs].split())
    words = _defining_words(rows)
    return Fraction(rows, min(len(w) for w in words), tuple(_aliases(names, words)))


def _rows(generators: Sequence[str]) -> tuple[tuple[int, ...], ...]:
    """The runs of generators such as ``a``, ``b`` and ``ab``, as −1 and +1."""
    basic = [g for g in generators if len(g) == 1]
    signs = [dict(zip(basic, row, strict=True)) for row in product((-1, 1), repeat=len(basic))]
    return tuple(tuple(prod(of[letter] for letter in g) for g in generators) for of in signs)


def _defining_words(rows: Sequence[Sequence[int]]) -> list[tuple[int, ...]]:
    """The products of columns that are constant over all runs."""
    k, words = len(rows[0]), []
    for mask in range(1, 2**k):
        members = tuple(i for i in range(k) if mask >> i & 1)
        signs = {_sign(row, members) for row in rows}
        if len(signs) == 1:
            words.append(members)
    return words


def _sign(row: Sequence[int], members: Sequence[int]) -> int:
    sign = 1
    for i in members:
        sign *= row[i]
    return sign


def _aliases(names: Sequence[str], words: Sequence[tuple[int, ...]]) -> list[str]:
    """Main effects and pairs that stand for one another, in words; three-way ones excluded."""
    effects = [(i,) for i in range(len(names))] + [
        (i, j) for i in range(len(names)) for j in range(i + 1, len(names))
    ]
    said, seen = [], set()
    for effect in effects:
        partners = [
            p
            for w in words
            if (p := tuple(sorted(set(w) ^ set(effect)))) in effects
            and p not in seen
            and p != effect
        ]
        seen.add(effect)
        if partners:
            said.append(
                f"{_named(names, effect)} is confounded with {' or '.join(_named(names, p) for p in partners)}"
            )
    return said


def _named(names: Sequence[str], effect: Sequence[int]) -> str:
    return " × ".join(names[i] for i in effect)
