"""The part drawn with its load, supports and layers; and the candidates' bars. Places in drawing units."""

from dataclasses import dataclass, field

from brunt_core.quantities.rendering import figures
from brunt_web.decisions.card import Candidate, Card
from brunt_web.decisions.wanted import Wanted
from brunt_web.interface.scale import scale_for

WIDE, HIGH = 560.0, 210.0
LEFT, RIGHT, MIDDLE = 92.0, 452.0, 78.0
BARS = 420.0


@dataclass(frozen=True)
class DrawnPart:
    """The drawing: depth of the part, its layer lines, where its moment ends."""

    mode: str
    depth: float
    top: float
    left: float
    right: float
    layers: tuple[str, ...]
    moment: str
    section: tuple[float, float]
    handles: tuple["Handle", ...] = ()


@dataclass(frozen=True)
class Handle:
    """A place to take hold of: which quantity it changes, and which way is more."""

    key: str
    x: float
    y: float
    way: str
    word: str


def load_case_part(wanted: Wanted) -> DrawnPart:
    """The part of a load case: true to its reach and depth where both are known, within what can be seen."""
    v = wanted.values
    reach = v.get("arm") or v.get("span")
    depth, width = v.get("thickness"), v.get("width")
    left, right = (LEFT, RIGHT) if wanted.mode != "bending" else (LEFT - 10, RIGHT + 10)
    drawn = 44.0
    if depth and reach:
        drawn = min(max((RIGHT - LEFT) * depth / reach, 16.0), 92.0)
    top = MIDDLE - drawn / 2
    if wanted.mode == "thread":
        left, right, top, drawn = 150.0, 410.0, 56.0, 96.0
    return DrawnPart(
        wanted.mode,
        round(drawn, 1),
        top=round(top, 1),
        left=left,
        right=right,
        layers=_layers(wanted.direction, left, right, top, drawn),
        moment=_moment(wanted.mode, left, right),
        section=_section(width, depth),
        handles=_handles(wanted.mode, top, top + drawn),
    )


def _handles(mode: str, top: float, bottom: float) -> tuple[Handle, ...]:
    """Where the drawing is taken hold of: the load, the reach, the depth."""
    over = {"cantilever": 442.0, "bending": 272.0}.get(mode)
    at = {"tension": (502.0, 78.0), "torsion": (476.0, 36.0), "shear": (544.0, 78.0), "thread": (280.0, 6.0),
          "part": (430.0, 6.0), "blow": (272.0, top - 20)}.get(mode, (over or 0.0, max(top - 44, 10.0)))  # fmt: skip
    sideways = mode in ("tension", "shear")
    found = [
        Handle("load", *at, way="across" if sideways else "up", word="Drag to change the load")
    ]
    if over:
        key = "arm" if mode == "cantilever" else "span"
        found.append(Handle(key, 442.0 if mode == "cantilever" else 452.0, 142.0, way="across", word="Drag to change the reach"))  # fmt: skip
    if mode in ("cantilever", "bending", "tension"):
        found.append(
            Handle("thickness", 190.0, bottom, way="down", word="Drag to change the depth")
        )
    return tuple(found)


def _layers(direction: str, left: float, right: float, top: float, depth: float) -> tuple[str, ...]:
    """Layer lines: along the part, or across it so that the load pulls them apart."""
    if direction == "across":
        count = int((right - left) / 9)
        return tuple(f"M{left + 9 * (i + 1):.1f},{top:.1f} v{depth:.1f}" for i in range(count - 1))
    count = max(int(depth / 6), 1)
    gap = depth / (count + 1)
    return tuple(f"M{left:.1f},{top + gap * (i + 1):.1f} H{right:.1f}" for i in range(count))


def _moment(mode: str, left: float, right: float) -> str:
    base, most = 158.0, 30.0
    if mode == "cantilever":
        return f"M{left},{base} V{base + most} L{right},{base} Z"
    if mode == "bending":
        return f"M{LEFT},{base} L{(LEFT + RIGHT) / 2},{base + most} L{RIGHT},{base} Z"
    return ""


def _section(width: float | None, depth: float | None) -> tuple[float, float]:
    """The section in proportion, within 58 × 58."""
    if not depth:
        return (30.0, 44.0) if width else (44.0, 44.0)
    if not width:
        return 44.0, 44.0
    largest = max(width, depth)
    return round(max(58 * width / largest, 6), 1), round(max(58 * depth / largest, 6), 1)


@dataclass(frozen=True)
class FactorStep:
    """One loss on a bar: where it ends, its words."""

    x: float
    word: str
    title: str


@dataclass(frozen=True)
class StrengthBar:
    """What is there of one candidate against what is needed; ``torn`` where something was never tested."""

    candidate: Candidate
    there: float
    basis: float
    needed: float | None
    steps: tuple[FactorStep, ...]
    torn: bool
    label: str
    end: str


@dataclass
class Bars:
    """All bars on one scale, with its ticks."""

    rows: list[StrengthBar] = field(default_factory=list)
    ticks: tuple[tuple[float, str], ...] = ()
    width: float = BARS


def bars_of(card: Card) -> Bars:
    """The bars; none where no candidate was tested."""
    told = [c for c in card.candidates if c.basis and c.margin]
    if not told:
        return Bars(
            [
                StrengthBar(c, 0, basis=0, needed=None, steps=(), torn=False, label="–", end="")
                for c in card.candidates
            ]
        )
    in_unit = [float(card.shown(c.basis.value, 9)) for c in told if c.basis]
    needed = [float(card.shown(c.needed, 9)) for c in told if c.needed]
    scale = scale_for([0.0, *in_unit, *needed], BARS, 2, 6)
    rows = []
    for c in card.candidates:
        if not c.basis or not c.margin:
            rows.append(
                StrengthBar(c, 0, basis=0, needed=None, steps=(), torn=False, label="–", end="")
            )
            continue

        def x(value: float) -> float:
            return scale.x(float(card.shown(value, 9)))

        steps = tuple(
            FactorStep(x(s), f"{loss.name} × {figures(loss.ratio, 2)}", loss.words)
            for loss, s in zip(c.margin.losses, c.margin.steps, strict=True)
        )
        sign = "≤ " if c.found.missing else ""
        rows.append(
            StrengthBar(
                c,
                x(c.there),
                basis=x(c.basis.value),
                needed=x(c.needed) if c.needed else None,
                steps=steps,
                torn=bool(c.found.missing),
                label=sign + card.shown(c.there),
                end=card.shown(c.basis.value) if steps else "",
            )
        )
    return Bars(rows, scale.ticks)


@dataclass(frozen=True)
class Depth:
    """How deep one must be, drawn to one scale: place, width and height, words."""

    name: str
    x: float
    width: float
    y: float
    height: float
    words: str
    kind: str


@dataclass
class Depths:
    """All sections at one scale, with the lines of what is drawn and what there is space for."""

    rows: list[Depth] = field(default_factory=list)
    drawn: float | None = None
    space: float | None = None
    base: float = 150.0
    width: float = 600.0


def depths_of(card: Card) -> Depths:
    """How deep each must be, the least first; at most eight."""
    known = sorted((c for c in card.candidates if c.depth), key=lambda c: c.depth or 0.0)[:8]
    if not known:
        return Depths()
    v = card.wanted.values
    ends = [c.depth or 0.0 for c in known] + [v[k] for k in ("thickness", "deepest") if k in v]
    deepest = max(ends)
    found = Depths()
    gap = found.width / max(len(known), 4)
    for i, c in enumerate(known):
        high = 126 * (c.depth or 0.0) / deepest
        wide = 126 * (v.get("width") or c.depth or 0.0) / deepest
        wide = min(max(wide, 5.0), gap * 0.55)
        words = f"{'≥ ' if c.found.missing else ''}{figures((c.depth or 0.0) * 1e3)}"
        kind = c.verdict
        found.rows.append(
            Depth(
                c.name,
                round(gap * i + 8, 1),
                width=round(wide, 1),
                y=round(found.base - high, 1),
                height=round(high, 1),
                words=words,
                kind=kind,
            )  # fmt: skip
        )
    found.drawn = _line(v.get("thickness"), deepest, found.base)
    found.space = _line(v.get("deepest"), deepest, found.base)
    return found


def _line(value: float | None, deepest: float, base: float) -> float | None:
    return round(base - 126 * value / deepest, 1) if value else None
