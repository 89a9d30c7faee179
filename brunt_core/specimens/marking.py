"""The specimen's ID in sunk strokes, so that the mark survives oven, water and solvent."""

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
# A stroke is a cell with its laps: 1.16 cells, no thinner than a nozzle of 0.4 mm lays it (0.394).
LEAST_CELL = 0.34
_LAP = 0.08
_BETWEEN = 2


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


def cell_for(text: str, width: float, height: float) -> float:
    """The side of one stroke cell, mm, when a text fills a box of this size; 0 where no nozzle prints it.

    >>> cell_for("K7-3HD", 35.0, 7.0), cell_for("K7-3HD", 8.5, 8.0), cell_for("K7-3HD", 4.0, 4.0)
    (1.0, 0.5, 0.0)
    """
    cell, _ = _best(text, width, height)
    return cell if cell >= LEAST_CELL else 0.0


def text_polygons(text: str, width: float, height: float) -> list[Any]:
    """A text as polygons that fill a box of this size at most, about (0, 0); mm; on one line or on two.

    Returns an empty list when a cell would be smaller than :data:`LEAST_CELL` mm. Strokes overlap by a
    little, so that cells that touch at a corner hang together.

    >>> text_polygons("K7-3HD", 4.0, 4.0)
    []
    """
    from shapely import box, unary_union

    cell, lines = _best(text, width, height)
    if cell < LEAST_CELL:
        return []
    columns, rows = _cells(lines)
    lap, left, top = cell * _LAP, -columns * cell / 2, rows * cell / 2
    cells = [
        box(
            left + x * cell - lap,
            top - (y + 1) * cell - lap,
            left + (x + 1) * cell + lap,
            top - y * cell + lap,
        )
        for x, y in _filled(lines)
    ]
    merged = unary_union(cells)
    return list(getattr(merged, "geoms", [merged]))


def _filled(lines: tuple[str, ...]) -> list[tuple[int, int]]:
    return [
        (6 * i + x, (7 + _BETWEEN) * k + y)
        for k, line in enumerate(lines)
        for i, character in enumerate(line)
        for y, row in enumerate(_GLYPHS[character].split())
        for x, bit in enumerate(row)
        if bit == "1"
    ]
