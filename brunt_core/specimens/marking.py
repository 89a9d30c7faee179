"""The specimen's ID in sunk strokes, so that the mark survives oven, water and solvent."""

from functools import lru_cache
from typing import Any

# Five by seven, top row first; a set bit is plastic. Drawn for these characters only.
_GLYPHS = {
    "2": "01110 10001 00001 00110 01000 10000 11111",
    "3": "11110 00001 00001 01110 00001 00001 11110",
    "4": "00010 00110 01010 10010 11111 00010 00010",
    "5": "11111 10000 11110 00001 00001 10001 01110",
    "6": "00110 01000 10000 11110 10001 10001 01110",
    "7": "11111 00001 00010 00100 01000 01000 01000",
    "8": "01110 10001 10001 01110 10001 10001 01110",
    "9": "01110 10001 10001 01111 00001 00010 01100",
    "A": "01110 10001 10001 11111 10001 10001 10001",
    "C": "01110 10001 10000 10000 10000 10001 01110",
    "D": "11110 10001 10001 10001 10001 10001 11110",
    "E": "11111 10000 10000 11110 10000 10000 11111",
    "F": "11111 10000 10000 11110 10000 10000 10000",
    "H": "10001 10001 10001 11111 10001 10001 10001",
    "J": "00111 00010 00010 00010 00010 10010 01100",
    "K": "10001 10010 10100 11000 10100 10010 10001",
    "M": "10001 11011 10101 10101 10001 10001 10001",
    "N": "10001 11001 10101 10011 10001 10001 10001",
    "P": "11110 10001 10001 11110 10000 10000 10000",
    "R": "11110 10001 10001 11110 10100 10010 10001",
    "T": "11111 00100 00100 00100 00100 00100 00100",
    "W": "10001 10001 10001 10101 10101 11011 10001",
    "X": "10001 01010 00100 00100 00100 01010 10001",
    "-": "00000 00000 00000 01110 00000 00000 00000",
}
# A stroke is a cell with its laps: 1.16 cells, no thinner than the nozzle lays it; and so is the gap.
_LAP = 0.08
_LEAST_STROKE = 0.985
_BETWEEN = 2
NOZZLE = 0.4


def least_cell(nozzle: float = NOZZLE) -> float:
    """The smallest side of a stroke cell that a nozzle of this size prints; mm.

    >>> round(least_cell(), 2), round(least_cell(0.6), 2)
    (0.34, 0.51)
    """
    return _LEAST_STROKE * nozzle / (1 + 2 * _LAP)


def layouts(text: str) -> list[tuple[str, ...]]:
    """A text on one line, and parted at its hyphen on two.

    >>> layouts("K7-3HD")
    [('K7-3HD',), ('K7', '3HD')]
    """
    first, hyphen, rest = text.partition("-")
    return [(text,), (first, rest)] if hyphen and first and rest else [(text,)]


def _cells(lines: tuple[str, ...]) -> tuple[int, int]:
    """Columns and rows of a layout."""
    return 6 * max(map(len, lines)) - 1, 7 * len(lines) + _BETWEEN * (len(lines) - 1)


def _best(text: str, width: float, height: float) -> tuple[float, tuple[str, ...]]:
    """The largest cell of any layout within a box, and that layout."""
    found = []
    for lines in layouts(text):
        columns, rows = _cells(lines)
        found.append((min(width / columns, height / rows), lines))
    return max(found, key=lambda f: f[0])


def cell_for(text: str, width: float, height: float, nozzle: float = NOZZLE) -> float:
    """The side of one stroke cell, mm, when a text fills a box of this size; 0 where the nozzle cannot print it.

    >>> cell_for("K7-3HD", 35.0, 7.0), cell_for("K7-3HD", 8.5, 8.0), cell_for("K7-3HD", 4.0, 4.0)
    (1.0, 0.5, 0.0)
    """
    cell, _ = _best(text, width, height)
    return cell if cell >= least_cell(nozzle) - 1e-9 else 0.0


@lru_cache(maxsize=64)
def glyph(character: str) -> tuple[Any, ...]:
    """A character as polygons on unit cells, its upper left corner at (0, 0), y up; shapely.

    Strokes overlap by a little, so that cells that touch at a corner hang together.

    >>> len(glyph("K")), [round(b, 2) for b in glyph("T")[0].bounds]
    (1, [-0.08, -7.08, 5.08, 0.08])
    """
    from shapely import box, unary_union

    cells = [
        box(x - _LAP, -y - 1 - _LAP, x + 1 + _LAP, -y + _LAP)
        for y, row in enumerate(_GLYPHS[character].split())
        for x, bit in enumerate(row)
        if bit == "1"
    ]
    merged = unary_union(cells)
    return tuple(getattr(merged, "geoms", [merged]))


def glyph_places(
    text: str, width: float, height: float, nozzle: float = NOZZLE
) -> tuple[float, list[tuple[str, float, float]]]:
    """The cell of a text that fills a box about (0, 0), and each character with its upper left corner; mm.

    No character where the nozzle cannot print it.

    >>> glyph_places("K7-3HD", 35.0, 7.0)[1][0]
    ('K', -17.5, 3.5)
    """
    if not (cell := cell_for(text, width, height, nozzle)):
        return 0.0, []
    _, lines = _best(text, width, height)
    columns, rows = _cells(lines)
    left, top = -columns * cell / 2, rows * cell / 2
    return cell, [
        (character, left + 6 * i * cell, top - (7 + _BETWEEN) * k * cell)
        for k, line in enumerate(lines)
        for i, character in enumerate(line)
    ]


def text_polygons(text: str, width: float, height: float, nozzle: float = NOZZLE) -> list[Any]:
    """A text as polygons that fill a box of this size at most, about (0, 0); mm; on one line or on two.

    Returns an empty list where a stroke would be thinner than the nozzle lays it.

    >>> text_polygons("K7-3HD", 4.0, 4.0)
    []
    """
    from shapely import affinity

    cell, placed = glyph_places(text, width, height, nozzle)
    return [
        affinity.affine_transform(polygon, (cell, 0, 0, cell, x, y))
        for character, x, y in placed
        for polygon in glyph(character)
    ]
