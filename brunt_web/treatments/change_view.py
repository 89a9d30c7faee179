"""Sizes before and after as they are drawn: each specimen's own outline, its change exaggerated."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import pi, radians, sin, tan

from brunt_core.quantities.rendering import number
from brunt_core.specimens.types import SpecimenType
from brunt_core.treatments.change import (
    BOW_LIMIT,
    SQUARE_LIMIT,
    AxisChange,
    Distortion,
    axis_changes,
    distortion,
    sentences,
)
from brunt_web.campaigns.models import Specimen
from brunt_web.treatments.moments import Subject, by_group

FACTORS = (2, 4, 8, 16, 32)
WIDE, HIGH = 190.0, 46.0


@dataclass
class DrawnChange:
    """One specimen: its outlines as made and after, from the face and from the edge, with words."""

    specimen: Specimen
    before: str
    after: str
    edge_before: str
    edge_after: str
    shares: list[tuple[str, str]]
    distortion: Distortion
    bow_x: float | None
    slant_x: float | None
    lost: str
    measured: bool


@dataclass
class Axis:
    """The mean change on one axis, as a bar about nothing."""

    change: AxisChange
    label: str
    x: float
    low: float | None
    high: float | None


@dataclass
class SizeChange:
    """One condition in one orientation."""

    title: str
    rows: list[DrawnChange]
    axes: list[Axis]
    said: list[str]
    bow_limit: float
    slant_limit: float

    @property
    def factors(self) -> str:
        """The factors to print with, for pasting into a program for printing."""
        return ", ".join(
            f"{a.change.axis} {number(a.change.factor, '.4f')}"
            for a in self.axes
            if a.change.axis in "xyz"
        )


def measured_changes(subjects: Sequence[Subject], exaggeration: float) -> list[SizeChange]:
    """Every condition and orientation that was measured before and after."""
    found = []
    for members in by_group(subjects).values():
        first = members[0].specimen
        before = {s.specimen.code: _millimetres(s.before) for s in members}
        after = {s.specimen.code: _millimetres(s.after) for s in members}
        kept = {k: v for k, v in after.items() if not _subject(members, k).lost}
        axes = axis_changes(before, kept, first.orientation)
        shapes = {k: distortion({**before[k], **v}) for k, v in after.items() if v}
        rows = [_drawn(s, before, after, shapes, exaggeration) for s in members]
        if not axes and not any(r.measured for r in rows):
            continue
        found.append(
            SizeChange(
                title=f"{first.condition}, {first.orientation}",
                rows=rows,
                axes=_axes(axes),
                said=sentences(axes, shapes),
                bow_limit=_along(BOW_LIMIT, 3 * BOW_LIMIT),
                slant_limit=_along(SQUARE_LIMIT, 3 * SQUARE_LIMIT),
            )
        )
    return found


def _subject(members: Sequence[Subject], code: str) -> Subject:
    return next(s for s in members if s.specimen.code == code)


def _millimetres(sizes: dict[str, float]) -> dict[str, float]:
    return {k: v * 1000 for k, v in sizes.items() if k != "mass"}


def _along(value: float | None, most: float) -> float:
    """A place on a strip of 90 for a value up to ``most``."""
    return round(90 * min((value or 0.0) / most, 1.0), 1)


def _axes(found: Sequence[AxisChange]) -> list[Axis]:
    most = max((abs(x) for c in found for x in (c.mean, c.low or 0.0, c.high or 0.0)), default=0.01)

    def place(share: float) -> float:
        return round(60 + 55 * share / most, 1)

    return [
        Axis(
            c,
            f"{c.axis}, {c.key.replace('_', ' ')}",
            place(c.mean),
            None if c.low is None else place(c.low),
            None if c.high is None else place(c.high),
        )
        for c in found
    ]


def _drawn(
    subject: Subject,
    before: dict[str, dict[str, float]],
    after: dict[str, dict[str, float]],
    shapes: dict[str, Distortion],
    exaggeration: float,
) -> DrawnChange:
    specimen = subject.specimen
    was, now = before[specimen.code], after[specimen.code]
    share = {k: now[k] / was[k] - 1 for k in now if was.get(k) and k in was and was[k] > 0}
    shape = shapes.get(specimen.code, Distortion(None, None))
    geometry = specimen.geometry
    scale = min(WIDE / geometry.overall, HIGH / max(geometry.wide, 1.0)) * 0.86
    wide = 2 * exaggeration
    x, y, z = (share.get(k, 0.0) for k in ("length", "width", "thickness"))
    y = y or share.get("diameter", 0.0)
    slant = radians((shape.slant or 0.0) * exaggeration)
    thick = geometry.box[2]
    return DrawnChange(
        specimen=specimen,
        before=_face(geometry, scale, 0.0, 0.0, 0.0),
        after=_face(geometry, scale, x * exaggeration, y * wide, slant),
        edge_before=_edge(geometry.overall * scale, thick * scale, 0.0),
        edge_after=_edge(
            geometry.overall * scale * (1 + x * exaggeration),
            thick * scale * (1 + z * wide),
            (shape.bow or 0.0) * geometry.overall * scale * exaggeration,
        ),
        shares=[
            (k.replace("_", " "), number(v * 100, "+.2f").replace("-", "−"))
            for k, v in share.items()
            if k not in ("bow", "diagonal", "other_diagonal")
        ],
        distortion=shape,
        bow_x=None if shape.bow is None else _along(shape.bow, 3 * BOW_LIMIT),
        slant_x=None if shape.slant is None else _along(shape.slant, 3 * SQUARE_LIMIT),
        lost=subject.lost,
        measured=bool(share) or shape.bow is not None,
    )


def _face(geometry: SpecimenType, scale: float, x: float, y: float, slant: float) -> str:
    """The outline lying down, about its middle, stretched and sheared."""
    points = []
    for across, along in geometry.outline:
        u = (along - geometry.overall / 2) * scale * max(1 + x, 0.3)
        v = across * scale * max(1 + y, 0.3)
        points.append(f"{WIDE / 2 + u + v * tan(min(slant, 0.6)):.1f},{HIGH / 2 + v:.1f}")
    return "M" + " L".join(points) + " Z"


def _edge(length: float, thick: float, bow: float) -> str:
    """The edge, bowed upwards by a height at its middle."""
    bow = min(bow, HIGH * 0.6)
    thick = max(min(thick, HIGH * 0.5), 1.5)
    steps = [i / 16 for i in range(17)]
    left, base = WIDE / 2 - length / 2, HIGH * 0.72
    lower = [(left + length * t, base - bow * sin(pi * t)) for t in steps]
    ring = [*lower, *((a, b - thick) for a, b in reversed(lower))]
    return "M" + " L".join(f"{a:.1f},{b:.1f}" for a, b in ring) + " Z"
