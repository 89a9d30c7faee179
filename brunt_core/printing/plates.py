"""Filling plates: where each specimen lies, conditions spread by chance with a stored seed."""

from collections.abc import Sequence
from dataclasses import dataclass
from random import Random

from brunt_core.errors import InputError


@dataclass(frozen=True)
class Piece:
    """Something to place: its name, group (condition), and footprint in mm."""

    name: str
    group: str
    width: float
    depth: float


@dataclass(frozen=True)
class Placed:
    """Where it lies: plate from 0, and the corner nearest the origin in mm."""

    name: str
    plate: int
    x: float
    y: float


def fill_plates(
    pieces: Sequence[Piece], bed: tuple[float, float], gap: float, seed: int, margin: float = 5.0
) -> list[Placed]:
    """Place pieces in rows on as many plates as needed, in shuffled order.

    Groups are dealt out in turn before shuffling within each round, so that every plate carries
    every condition as evenly as their numbers allow, and no condition keeps a corner of the bed.

    Parameters: ``bed`` width and depth, ``gap`` between pieces and ``margin`` at the edge, all mm.
    Raises :class:`InputError` when a piece is larger than the bed, or the gap is negative.

    >>> [(p.plate, p.x, p.y) for p in fill_plates([Piece(n, n, 40, 10) for n in "abc"], (100, 30), 5, seed=1)]
    [(0, 5.0, 5.0), (0, 50.0, 5.0), (1, 5.0, 5.0)]
    """
    if gap < 0:
        raise InputError("The gap cannot be negative.", "gap")
    for piece in pieces:
        if piece.width > bed[0] - 2 * margin or piece.depth > bed[1] - 2 * margin:
            raise InputError(
                f"{piece.name} needs {piece.width:.0f} × {piece.depth:.0f} mm; the bed of {bed[0]:g} × {bed[1]:g} mm leaves "
                f"{bed[0] - 2 * margin:.0f} × {bed[1] - 2 * margin:.0f}.",
                "printer",
            )
    return _in_rows(dealt(pieces, seed), bed, gap, margin)


def dealt(pieces: Sequence[Piece], seed: int) -> list[Piece]:
    """The order of placing: one of each group in turn, each round shuffled.

    >>> [p.group for p in dealt([Piece("1", "A", 1, 1), Piece("2", "A", 1, 1), Piece("3", "B", 1, 1)], 1)].count("A")
    2
    """
    random = Random(seed)
    groups: dict[str, list[Piece]] = {}
    for piece in pieces:
        groups.setdefault(piece.group, []).append(piece)
    for group in groups.values():
        random.shuffle(group)
    order: list[Piece] = []
    while any(groups.values()):
        turn = [group.pop() for group in groups.values() if group]
        random.shuffle(turn)
        order += turn
    return order


def _in_rows(
    pieces: Sequence[Piece], bed: tuple[float, float], gap: float, margin: float
) -> list[Placed]:
    placed, plate, x, y, row = [], 0, margin, margin, 0.0
    for piece in pieces:
        if x + piece.width > bed[0] - margin:
            x, y, row = margin, y + row + gap, 0.0
        if y + piece.depth > bed[1] - margin:
            plate, x, y, row = plate + 1, margin, margin, 0.0
        placed.append(Placed(piece.name, plate, x, y))
        x, row = x + piece.width + gap, max(row, piece.depth)
    return placed
