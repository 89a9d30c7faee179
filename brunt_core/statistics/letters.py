"""Compact letter display: which groups cannot be told apart."""

from collections.abc import Collection
from string import ascii_lowercase


def letter_sets(count: int, different: Collection[tuple[int, int]]) -> list[frozenset[int]]:
    """The maximal sets of groups with no significant pair inside, best group first.

    Parameters: ``count`` groups numbered in rank order; ``different`` the significant pairs.
    Two groups stand together in some set exactly when they are not in ``different``.
    Source: insert-and-absorb, Piepho, J. Comput. Graph. Stat. 13 (2004) 456–466 (recalled).

    >>> [sorted(s) for s in letter_sets(3, [(0, 2)])]
    [[0, 1], [1, 2]]
    """
    columns: list[frozenset[int]] = [frozenset(range(count))] if count else []
    for first, second in different:
        split: list[frozenset[int]] = []
        for column in columns:
            if first in column and second in column:
                split += [column - {first}, column - {second}]
            else:
                split.append(column)
        columns = _absorb(split)
    return sorted(columns, key=lambda column: sorted(column))


def _absorb(columns: list[frozenset[int]]) -> list[frozenset[int]]:
    kept: list[frozenset[int]] = []
    for column in sorted(set(columns), key=len, reverse=True):
        if not any(column <= other for other in kept):
            kept.append(column)
    return kept


def letters(count: int, different: Collection[tuple[int, int]]) -> list[str]:
    """Letters of each group, ``a`` for the set of the best one.

    >>> letters(3, [(0, 2)])
    ['a', 'ab', 'b']
    """
    sets = letter_sets(count, different)
    return ["".join(_letter(i) for i, s in enumerate(sets) if group in s) for group in range(count)]


def _letter(index: int) -> str:
    turn, place = divmod(index, 26)
    return ascii_lowercase[place] + (str(turn) if turn else "")
