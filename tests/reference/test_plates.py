"""Packing looked at with a geometry library: 200 random plates, no overlap, inside the bed, gaps kept."""

import unittest
from random import Random

from shapely import STRtree, box

from brunt_core.errors import InputError
from brunt_core.printing.plates import Piece, fill_plates


class Packing(unittest.TestCase):
    def test_two_hundred_random_plates(self):
        random = Random(12)
        for n in range(200):
            bed = random.uniform(80, 400), random.uniform(80, 400)
            gap, margin = random.choice((0, 1.5, 5, 8)), random.choice((0, 5, 10))
            most = min(bed) - 2 * margin
            pieces = [
                Piece(f"{i}", str(i % 5), random.uniform(3, most), random.uniform(3, most / 2), key=(str(i % 2),))
                for i in range(random.randint(1, 24))
            ]  # fmt: skip
            sizes = {p.name: p for p in pieces}
            placed = fill_plates(pieces, bed, gap, seed=n, margin=margin)
            self.assertEqual(sorted(p.name for p in placed), sorted(sizes))
            by_plate: dict[int, list] = {}
            for p in placed:
                own = sizes[p.name]
                by_plate.setdefault(p.plate, []).append(
                    box(p.x, p.y, p.x + own.width, p.y + own.depth)
                )
            inside = box(
                margin - 1e-3, margin - 1e-3, bed[0] - margin + 1e-3, bed[1] - margin + 1e-3
            )
            for shapes in by_plate.values():
                tree = STRtree(shapes)
                for i, shape in enumerate(shapes):
                    self.assertTrue(inside.covers(shape), n)
                    near = tree.query(shape, predicate="dwithin", distance=max(gap - 1e-3, 0))
                    if gap:
                        self.assertEqual(list(near), [i], n)
                    else:
                        self.assertLess(max((shape.intersection(shapes[j]).area for j in near if j != i), default=0), 1e-2)  # fmt: skip

    def test_keys_share_no_plate(self):
        pieces = [Piece(f"{i}", "a", 20, 20, key=(str(i % 3),)) for i in range(30)]
        plates: dict[int, set] = {}
        keys = {p.name: p.key for p in pieces}
        for p in fill_plates(pieces, (120, 120), 5, seed=3):
            plates.setdefault(p.plate, set()).add(keys[p.name])
        self.assertTrue(all(len(k) == 1 for k in plates.values()))

    def test_too_large_is_refused(self):
        with self.assertRaises(InputError):
            fill_plates([Piece("x", "x", 200, 10)], (180, 180), 5, seed=1)
