"""Compact letter display: which groups do not differ significantly."""

from collections.abc import Collection, Sequence
from itertools import combinations
from string import ascii_lowercase

MOST = 260


def letter_sets(count: int, different: Collection[tuple[int, int]]) -> list[frozenset[int]]:
    """The maximal sets of groups with no significant pair inside, best group first.

    Parameters: ``count`` groups numbered in rank order; ``different`` the significant pairs.
    Two groups stand together in some set exactly when they are not in ``different``.
    These are the maximal cliques of the graph of pairs that do not differ significantly.
    Limits: more than 260 of them say nothing to anybody; then there are none.
    Source: Gramm et al., J. Exp. Algorithmics 12 (2007) 1.5 (recalled); cliques by networkx. The sets
    are those of insert-and-absorb (Piepho, J. Comput. Graph. Stat. 13 (2004) 456–466).

    >>> [sorted(s) for s in letter_sets(3, [(0, 2)])]
    [[0, 1], [1, 2]]
    """
    apart = {(min(p), max(p)) for p in different}
    import networkx

    alike = networkx.Graph()
    alike.add_nodes_from(range(count))
    alike.add_edges_from(p for p in combinations(range(count), 2) if p not in apart)
    found = []
    for clique in networkx.find_cliques(alike):
        found.append(frozenset(clique))
        if len(found) > MOST:
            return []
    return sorted(found, key=sorted)


def letters(count: int, different: Collection[tuple[int, int]]) -> list[str]:
    """Letters of each group, ``a`` for the set of the best one.

    >>> letters(3, [(0, 2)])
    ['a', 'ab', 'b']
    """
    return letters_of(count, letter_sets(count, different))


def letters_of(count: int, sets: Sequence[frozenset[int]]) -> list[str]:
    """The same of sets that are known.

    >>> letters_of(3, [frozenset({0, 1}), frozenset({1, 2})])
    ['a', 'ab', 'b']
    """
    return ["".join(_letter(i) for i, s in enumerate(sets) if group in s) for group in range(count)]


def _letter(index: int) -> str:
    turn, place = divmod(index, 26)
    return ascii_lowercase[place] + (str(turn) if turn else "")
