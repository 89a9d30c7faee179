"""The specimen's ID in raised strokes, so that the mark survives oven, water and solvent."""

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
LEAST_CELL = 0.28


def cell_for(text: str, width: float, height: float) -> float:
    """The side of one stroke cell, mm, when a text fills a box of this size; 0 where no nozzle prints it.

    >>> cell_for("K7-3HD", 35.0, 7.0), cell_for("K7-3HD", 4.0, 4.0)
    (1.0, 0.0)
    """
    cell = min(width / (6 * len(text) - 1), height / 7)
    return cell if cell >= LEAST_CELL else 0.0


def text_polygons(text: str, width: float, height: float) -> list[Any]:
    """A text as polygons that fill a box of this size at most, about (0, 0); mm.

    Returns an empty list when a stroke would be thinner than :data:`LEAST_CELL` mm, which no nozzle prints. Strokes
    overlap by a little, so that cells that touch at a corner hang together.

    >>> text_polygons("K7-3HD", 4.0, 4.0)
    []
    """
    from shapely import box, unary_union

    columns = 6 * len(text) - 1
    cell = cell_for(text, width, height)
    if not cell:
        return []
    lap, left, top = cell * 0.08, -columns * cell / 2, 3.5 * cell
    cells = [
        box(
            left + x * cell - lap,
            top - (y + 1) * cell - lap,
            left + (x + 1) * cell + lap,
            top - y * cell + lap,
        )
        for x, y in _filled(text)
    ]
    merged = unary_union(cells)
    return list(getattr(merged, "geoms", [merged]))


def _filled(text: str) -> list[tuple[int, int]]:
    return [
        (6 * i + x, y)
        for i, character in enumerate(text)
        for y, row in enumerate(_GLYPHS[character].split())
        for x, bit in enumerate(row)
        if bit == "1"
    ]
