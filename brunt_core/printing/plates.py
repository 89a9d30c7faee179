"""Filling plates: what may lie together, where each specimen lies, in which order plates are printed."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import ceil
from random import Random

from brunt_core.errors import InputError

SLENDER = 6.0


@dataclass(frozen=True)
class Piece:
    """Something to place: its name, group (condition), and footprint in mm.

    ``key`` is what must be alike on a plate; ``height`` in mm, 0 where it does not matter.
    """

    name: str
    group: str
    width: float
    depth: float
    key: tuple[str, ...] = ()
    height: float = 0.0


@dataclass(frozen=True)
class Placed:
    """Where it lies: plate from 0, and the corner nearest the origin in mm."""

    name: str
    plate: int
    x: float
    y: float


def fill_plates(
    pieces: Sequence[Piece],
    bed: tuple[float, float],
    gap: float,
    seed: int,
    margin: float = 5.0,
    each: int = 1,
) -> list[Placed]:
    """Place pieces on as many plates as needed, packed in the middle of the bed, plates in random order.

    Only pieces of one ``key`` share a plate. Within a key, groups are dealt out in turn and shuffled,
    and plates are filled evenly, so that every plate carries every group as evenly as their numbers
    allow and no group keeps a corner. ``each`` is how many plates every key gets at least, as far as
    its pieces go round.

    Parameters: ``bed`` width and depth, ``gap`` between pieces and ``margin`` at the edge, all mm.
    Raises :class:`InputError` when a piece is larger than the bed, or the gap is negative.

    >>> [(p.plate, p.x, p.y) for p in fill_plates([Piece(n, n, 40, 10) for n in "abc"], (100, 30), 5, seed=1)]
    [(0, 30.0, 10.0), (1, 7.5, 10.0), (1, 52.5, 10.0)]
    """
    _check(pieces, bed, gap, margin)
    room = (bed[0] - 2 * margin, bed[1] - 2 * margin)
    plates: list[list[Piece]] = []
    for key in dict.fromkeys(p.key for p in pieces):
        alike = dealt([p for p in pieces if p.key == key], seed)
        plates += _shared_out(alike, room, gap, each)
    Random(seed).shuffle(plates)
    return [
        Placed(piece.name, number, x, y)
        for number, plate in enumerate(plates)
        for piece, x, y in _packed(plate, bed, room, gap)
    ]


def _check(pieces: Sequence[Piece], bed: tuple[float, float], gap: float, margin: float) -> None:
    if gap < 0:
        raise InputError("The gap cannot be negative.", "gap")
    for piece in pieces:
        if piece.width > bed[0] - 2 * margin or piece.depth > bed[1] - 2 * margin:
            raise InputError(
                f"{piece.name} needs {piece.width:.0f} × {piece.depth:.0f} mm; the bed of {bed[0]:g} × {bed[1]:g} mm leaves "
                f"{bed[0] - 2 * margin:.0f} × {bed[1] - 2 * margin:.0f}.",
                "printer",
            )


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


def _shared_out(
    pieces: Sequence[Piece], room: tuple[float, float], gap: float, each: int
) -> list[list[Piece]]:
    """Pieces on the fewest plates that hold them, as evenly as they go."""
    count = max(min(each, len(pieces)), 1)
    while True:
        sizes = [len(pieces) // count + (i < len(pieces) % count) for i in range(count)]
        starts = [sum(sizes[:i]) for i in range(count)]
        plates = [list(pieces[a : a + n]) for a, n in zip(starts, sizes, strict=True)]
        if all(_rows(plate, room[0], gap)[1] <= room[1] + 1e-9 for plate in plates):
            return plates
        count += 1


def _rows(pieces: Sequence[Piece], across: float, gap: float) -> tuple[list[list[Piece]], float]:
    """Pieces in rows no wider than ``across``, and how deep they come to."""
    rows: list[list[Piece]] = [[]]
    wide = 0.0
    for piece in pieces:
        if rows[-1] and wide + gap + piece.width > across + 1e-9:
            rows.append([])
        wide = wide + gap + piece.width if rows[-1] else piece.width
        rows[-1].append(piece)
    deep = sum(max(p.depth for p in row) for row in rows if row) + gap * (len(rows) - 1)
    return rows, deep


def _packed(
    pieces: Sequence[Piece], bed: tuple[float, float], room: tuple[float, float], gap: float
) -> list[tuple[Piece, float, float]]:
    """The most compact rows that fit, about the middle of the bed: (piece, x, y)."""
    rows, deep = min(
        (
            _rows(pieces, across, gap)
            for across in _widths(pieces, room[0], gap)
            if _rows(pieces, across, gap)[1] <= room[1] + 1e-9
        ),
        key=lambda found: max(_width(found[0], gap), found[1]),
    )
    placed, y = [], (bed[1] - deep) / 2
    for row in rows:
        x = (bed[0] - _width([row], gap)) / 2
        for piece in row:
            placed.append((piece, round(x, 4), round(y, 4)))
            x += piece.width + gap
        y += max(p.depth for p in row) + gap
    return placed


def _widths(pieces: Sequence[Piece], most: float, gap: float) -> list[float]:
    """Row widths worth trying: as many pieces across as there are, at most sixty of them."""
    found, wide = [], 0.0
    for i, piece in enumerate(pieces[:60]):
        wide += piece.width + (gap if i else 0.0)
        if wide <= most + 1e-9:
            found.append(wide)
    return [*found, most]


def _width(rows: Sequence[Sequence[Piece]], gap: float) -> float:
    return max(sum(p.width for p in row) + gap * (len(row) - 1) for row in rows)


def tall(piece: Piece) -> str:
    """A sentence for a piece that stands so tall on so little that it may fall, else nothing.

    Taller than :data:`SLENDER` times its smaller footprint: common practice, no source.

    >>> tall(Piece("a", "A", 10, 2, height=75))
    'It stands 75 mm tall on 10 × 2 mm: give it a brim, and print it slowly near the top.'
    """
    if piece.height <= SLENDER * min(piece.width, piece.depth):
        return ""
    return (
        f"It stands {piece.height:.0f} mm tall on {piece.width:g} × {piece.depth:g} mm: "
        "give it a brim, and print it slowly near the top."
    )


def alone_on_plates(plates_of: Mapping[str, Sequence[str]]) -> list[str]:
    """Groups that are confounded with their plate: all on one plate that holds no other group.

    Parameters: group → the plates its pieces lie on. Empty when there are fewer than two groups.

    >>> alone_on_plates({"230 °C": ["1"], "250 °C": ["2", "3"]})
    ['230 °C']
    """
    if len(plates_of) < 2:
        return []
    holds: dict[str, set[str]] = {}
    for group, plates in plates_of.items():
        for plate in plates:
            holds.setdefault(plate, set()).add(group)
    return [
        g for g, plates in plates_of.items() if len(set(plates)) == 1 and holds[plates[0]] == {g}
    ]


def plates_needed(count: int, per_plate: int) -> int:
    """How many plates so many pieces need.

    >>> plates_needed(50, 24)
    3
    """
    return ceil(count / per_plate) if per_plate else 0


def capacity(
    footprint: tuple[float, float], bed: tuple[float, float], gap: float, margin: float = 5.0
) -> int:
    """How many alike pieces one plate holds.

    >>> capacity((40, 10), (100, 30), 5)
    2
    """
    across = int((bed[0] - 2 * margin + gap + 1e-9) // (footprint[0] + gap))
    along = int((bed[1] - 2 * margin + gap + 1e-9) // (footprint[1] + gap))
    return max(across, 0) * max(along, 0)
