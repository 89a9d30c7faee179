"""Particles on a picture: outlines, areas and shapes, touching ones parted."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import hypot
from typing import Any

import numpy as np
import scipy
import skimage

from brunt_core.errors import InputError

LEAST_PIXELS = 12
_MOST, _WORKED = 40_000_000, 4_000_000
_NECK = 0.72


@dataclass(frozen=True)
class Particle:
    """One particle: area in m², greatest and least width in m, and its outline in pixels (x, y).

    ``cut`` says that it reaches over the edge of the picture; ``fullness`` is the area over that of
    its convex hull.
    """

    area: float
    length: float
    width: float
    fullness: float
    outline: tuple[tuple[float, float], ...]
    cut: bool = False

    @property
    def middle(self) -> tuple[float, float]:
        """The middle of its outline, in pixels."""
        xs, ys = zip(*self.outline, strict=True)
        return float(np.mean(xs)), float(np.mean(ys))


def find_particles(picture: Any, scale: float) -> list[Particle]:
    """Find the particles on a picture of flakes on paper.

    Parameters: ``picture`` an array of grey values (rows, columns) or colours (rows, columns, 3 or
    4), any range; ``scale`` in metres a pixel. Light or dark particles: the paper is what most of
    the picture's border shows. Uneven light is taken off with a wide blur. What is smaller than 12
    pixels is dust and passed over; the largest first. Pictures above
    four megapixels are worked out smaller, by means of blocks.

    Threshold by Otsu, at half-way between paper and particle, so that an edge is met where half a
    pixel is covered; touching particles parted by the watershed of the distance to the paper, and
    joined again where the neck is wider than 0.72 of the smaller one (common practice, no source).
    Source: scikit-image; N. Otsu, IEEE Trans. SMC 9 (1979). Areas checked on drawn particles.

    Raises :class:`InputError` for a scale that is not positive, a picture that is none or too
    large, or one on which nothing stands out.

    >>> sheet = np.full((60, 60), 250.0); sheet[20:40, 15:45] = 30.0
    >>> p, = find_particles(sheet, 1e-4)
    >>> round(p.area * 1e6, 3), round(p.length * 1e3, 2), p.cut
    (6.0, 3.61, False)
    """
    if not scale > 0 or not np.isfinite(scale):
        raise InputError("The scale must be more than zero, in mm for each pixel.", "scale")
    grey = _grey(picture)
    block = int(np.ceil((grey.size / _WORKED) ** 0.5))
    if block > 1:
        grey = skimage.measure.block_reduce(
            grey, (block, block), np.mean, cval=float(np.median(grey))
        )
    labels = _parted(_apart_from_paper(grey))
    regions = skimage.measure.regionprops(labels)
    found = [_particle(region, scale * block, grey.shape, block) for region in regions]
    return sorted((p for p in found if p is not None), key=lambda p: -p.area)


def _grey(picture: Any) -> Any:
    grey = np.asarray(picture, dtype=float)
    if grey.ndim == 3 and grey.shape[2] >= 3:
        grey = grey[:, :, :3] @ np.array([0.2126, 0.7152, 0.0722])
    elif grey.ndim == 3:
        grey = grey[:, :, 0]
    if grey.ndim != 2 or min(grey.shape) < 8:
        raise InputError("That is no picture of particles: it is too small.", "image")
    if grey.size > _MOST:
        raise InputError("The picture is too large: 40 megapixels are the most.", "image")
    return grey


def _apart_from_paper(grey: Any) -> Any:
    """Where there is a particle: darker, or lighter, than the paper round about."""
    border = np.concatenate([grey[0], grey[-1], grey[:, 0], grey[:, -1]])
    paper = float(np.median(border))
    away = grey - paper
    if np.ptp(away) <= 0:
        raise InputError("Nothing stands out from the paper on this picture.", "image")
    dark = float(-np.percentile(away, 0.5)) >= float(np.percentile(away, 99.5))
    signal = -away if dark else away
    first = signal > skimage.filters.threshold_otsu(signal)
    signal = _evened(signal, first)
    level = skimage.filters.threshold_otsu(signal)
    inside = signal > level
    _must_stand_out(signal, inside)
    core, rest = signal[inside], signal[~inside]
    level = (float(np.median(core)) + float(np.median(rest))) / 2
    inside = scipy.ndimage.binary_fill_holes(signal > level)
    return skimage.morphology.remove_small_objects(inside, max_size=LEAST_PIXELS - 1)


def _evened(signal: Any, first: Any) -> Any:
    """The signal less a plane through the paper's own values: uneven light taken off."""
    rows, columns = np.nonzero(~first)
    if len(rows) < 100:
        return signal
    keep = slice(None, None, max(len(rows) // 20_000, 1))
    y, x = rows[keep] / signal.shape[0], columns[keep] / signal.shape[1]
    design = np.column_stack([np.ones_like(x), x, y, x * x, x * y, y * y])
    fitted, *_ = np.linalg.lstsq(design, signal[~first][keep], rcond=None)
    gy, gx = np.mgrid[0 : signal.shape[0], 0 : signal.shape[1]]
    gy, gx = gy / signal.shape[0], gx / signal.shape[1]
    light = (
        fitted[0]
        + fitted[1] * gx
        + fitted[2] * gy
        + fitted[3] * gx * gx
        + fitted[4] * gx * gy
        + fitted[5] * gy * gy
    )
    return signal - light


def _must_stand_out(signal: Any, inside: Any) -> None:
    """Refuse a picture of noise: particle and paper must differ by far more than they vary."""
    core, rest = signal[inside], signal[~inside]
    if len(core) < LEAST_PIXELS or len(rest) < LEAST_PIXELS:
        raise InputError("Nothing stands out from the paper on this picture.", "image")
    apart = float(np.median(core) - np.median(rest))
    if apart < 3 * float(np.median(np.abs(rest - np.median(rest))) * 1.4826):
        raise InputError("Nothing stands out from the paper on this picture.", "image")


def _parted(inside: Any) -> Any:
    """Each particle with a number of its own."""
    distance = scipy.ndimage.distance_transform_edt(np.pad(inside, 1))[1:-1, 1:-1]
    smooth = skimage.filters.gaussian(distance, 1.0, preserve_range=True)
    peaks = skimage.morphology.h_maxima(smooth, 0.5)
    labels = skimage.segmentation.watershed(
        -smooth, skimage.measure.label(peaks & inside), mask=inside
    )
    return _joined(labels, distance)


def _joined(labels: Any, distance: Any) -> Any:
    """Pieces of one particle put together again: their neck is nearly as wide as the smaller piece."""
    while True:
        tops = scipy.ndimage.maximum(distance, labels, range(labels.max() + 1))
        necks = _necks(labels, distance)
        wide = [
            (neck / min(tops[a], tops[b]), a, b)
            for (a, b), neck in necks.items()
            if neck > _NECK * min(tops[a], tops[b])
        ]
        if not wide:
            return labels
        _, a, b = max(wide)
        labels = np.where(labels == b, a, labels)


def _necks(labels: Any, distance: Any) -> dict[tuple[int, int], float]:
    """The greatest distance to the paper along the line between each two that touch."""
    found: dict[tuple[int, int], float] = {}
    for one, other, near in (
        (labels[:, :-1], labels[:, 1:], np.minimum(distance[:, :-1], distance[:, 1:])),
        (labels[:-1], labels[1:], np.minimum(distance[:-1], distance[1:])),
    ):
        touch = (one != other) & (one > 0) & (other > 0)
        for a, b, d in zip(one[touch], other[touch], near[touch], strict=True):
            pair = (int(min(a, b)), int(max(a, b)))
            found[pair] = max(found.get(pair, 0.0), float(d))
    return found


def _particle(region: Any, scale: float, shape: tuple[int, int], block: int) -> Particle | None:
    if region.area < LEAST_PIXELS:
        return None
    top, left, bottom, right = region.bbox
    cut = top == 0 or left == 0 or bottom == shape[0] or right == shape[1]
    contours = skimage.measure.find_contours(np.pad(region.image, 1).astype(float), 0.5)
    line = max(contours, key=len)
    outline = tuple(
        ((float(x) + left - 0.5) * block - 0.5, (float(y) + top - 0.5) * block - 0.5)
        for y, x in line
    )
    length, width = _widths(region.coords)
    return Particle(
        float(region.area) * scale**2,
        length * scale,
        width * scale,
        float(region.solidity),
        outline=outline,
        cut=bool(cut),
    )


def _widths(coordinates: Any) -> tuple[float, float]:
    """Greatest and least width over all directions, in pixels, of pixels with their corners."""
    corners = np.concatenate(
        [coordinates + d for d in ((-0.5, -0.5), (-0.5, 0.5), (0.5, -0.5), (0.5, 0.5))]
    )
    angles = np.linspace(0, np.pi, 90, endpoint=False)
    ways = np.stack([np.cos(angles), np.sin(angles)])
    along = corners @ ways
    spans = along.max(axis=0) - along.min(axis=0)
    i = int(np.argmax(spans))
    fine = angles[i] + np.linspace(-0.035, 0.035, 29)
    reach = corners @ np.stack([np.cos(fine), np.sin(fine)])
    return float(max(spans[i], np.max(reach.max(axis=0) - reach.min(axis=0)))), float(spans.min())


@dataclass(frozen=True)
class Spread:
    """How particles are spread: areas in m², shares of their number and of their area."""

    count: int
    median: float
    p10: float
    p90: float
    greatest: float
    share_over: float | None
    share_over_area: float | None
    share_under: float | None
    elongation: float | None


def spread_of(
    particles: Sequence[Particle], over: float | None = None, under: float | None = None
) -> Spread:
    """Count, areas and shares of particles that lie whole on the picture.

    Parameters: ``over`` the greatest length in m that the feed throat takes; ``under`` the width in
    m below which it is dust to the feed. Shares are of the number; ``share_over_area`` of the area.
    Percentiles are interpolated linearly (Hyndman & Fan, type 7).

    Raises :class:`InputError` where no particle lies whole on the picture.

    >>> one = Particle(4e-6, 4e-3, 1e-3, 1.0, ((0.0, 0.0),))
    >>> s = spread_of([one, Particle(9e-6, 9e-3, 1e-3, 1.0, ((0.0, 0.0),))], over=5e-3)
    >>> s.count, s.share_over, round(s.share_over_area, 3), round(s.median * 1e6, 3)
    (2, 0.5, 0.692, 6.5)
    """
    whole = [p for p in particles if not p.cut]
    if not whole:
        raise InputError("No particle lies whole on the picture.", "image")
    areas = np.array([p.area for p in whole])
    large = [p.length > over for p in whole] if over else None
    return Spread(
        count=len(whole),
        median=float(np.percentile(areas, 50)),
        p10=float(np.percentile(areas, 10)),
        p90=float(np.percentile(areas, 90)),
        greatest=float(areas.max()),
        share_over=float(np.mean(large)) if large else None,
        share_over_area=float(areas[large].sum() / areas.sum()) if large else None,
        share_under=float(np.mean([p.width < under for p in whole])) if under else None,
        elongation=float(np.median([p.length / p.width for p in whole if p.width > 0] or [1.0])),
    )


def of_areas(areas: Sequence[float]) -> list[Particle]:
    """Particles of which only areas in m² are known, each taken as round.

    Raises :class:`InputError` for an area that is not above zero.

    >>> round(of_areas([3.141592653589793e-6])[0].length * 1e3, 6)
    2.0
    """
    if any(not a > 0 for a in areas):
        raise InputError("An area must be more than zero.", "area")
    return [
        Particle(a, 2 * (a / np.pi) ** 0.5, 2 * (a / np.pi) ** 0.5, 1.0, ((0.0, 0.0),))
        for a in areas
    ]


def scale_between(first: tuple[float, float], second: tuple[float, float], length: float) -> float:
    """Metres a pixel from two points on a ruler, in pixels, ``length`` in m apart.

    Raises :class:`InputError` for points nearer than ten pixels: too near to tell a scale from.

    >>> scale_between((10, 10), (210, 10), 0.02)
    0.0001
    """
    pixels = hypot(second[0] - first[0], second[1] - first[1])
    if pixels < 10:
        raise InputError("The two points lie too near to one another: take ten pixels or more.")
    if length <= 0:
        raise InputError("The length between the two points must be more than zero.", "length")
    return length / pixels
