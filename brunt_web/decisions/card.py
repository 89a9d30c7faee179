"""The load case card: what is needed, what is there of each candidate, how deep each must be, what it depends on."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from math import pi

from brunt_core.decisions.factors import SafetyFactor, suggested
from brunt_core.decisions.margin import HOLDS, NOTHING, OPEN, OUT, Basis, Margin, basis_of, margin
from brunt_core.decisions.sizing import MODES, STIFFNESS, Case, Sized, deflection, size, stress
from brunt_core.errors import InputError
from brunt_core.properties import PROPERTIES
from brunt_core.quantities import in_unit
from brunt_core.quantities.rendering import figures, render
from brunt_web.campaigns.models import Campaign, Condition
from brunt_web.decisions.evidence import Evidence, evidence_of
from brunt_web.decisions.wanted import Wanted
from brunt_web.library.models import Procedure

ORDER = {HOLDS: 0, OPEN: 1, OUT: 2, NOTHING: 3}
_TINY = 1e-12
WORDS = {
    "layers": "across the layers",
    "heat": "hot",
    "damp": "damp",
    "age": "aged",
    "treated": "with this treatment",
    "creep": "for creep rupture",
    "stiffness": "for stiffness at that temperature, humidity or time",
}


@dataclass
class Candidate:
    """One condition against the load case; SI."""

    found: Evidence
    name: str
    basis: Basis | None = None
    factor: SafetyFactor | None = None
    needed: float | None = None
    margin: Margin | None = None
    sized: Sized | None = None
    sag: float | None = None
    mass: float | None = None
    cost: float | None = None
    mean_words: str = ""
    verdict: str = NOTHING
    says: str = ""
    why: str = ""

    @property
    def there(self) -> float:
        """What is there after its losses."""
        return self.margin.there if self.margin else 0.0

    @property
    def depth(self) -> float | None:
        """How deep it must be, m."""
        return self.sized.value if self.sized else None


@dataclass
class Card:
    """The whole card."""

    wanted: Wanted
    case: Case | None
    stress: float | None
    working: list[tuple[str, str, str]]
    candidates: list[Candidate] = field(default_factory=list)
    headline: str = ""
    rest: str = ""
    hangs: list[tuple[str, str, str]] = field(default_factory=list)
    missing: list[tuple[str, str, list[Candidate]]] = field(default_factory=list)
    why_not: str = ""
    unit: str = "MPa"
    dimension: str = "stress"
    best: Candidate | None = None

    @property
    def needed_words(self) -> str:
        """What the best one needs, in the unit."""
        return self.shown(self.best.needed) if self.best else ""

    @property
    def several(self) -> bool:
        """Whether any candidate has two losses or more."""
        return any(len(c.found.losses) > 1 for c in self.candidates)

    def shown(self, value: float | None, digits: int = 3) -> str:
        """A value of the property in its unit."""
        return "–" if value is None else figures(in_unit(value, self.dimension, self.unit), digits)


def card_of(
    campaign: Campaign,
    procedures: Sequence[Procedure],
    conditions: Sequence[Condition],
    wanted: Wanted,
    chosen: int | None = None,
) -> Card:
    """Work a load case out; never raises: what cannot be worked says why."""
    card = Card(wanted, wanted.case, None, [])
    card.dimension, card.unit = _measure(wanted)
    if wanted.lacking:
        card.why_not = f"Type {' and '.join(wanted.lacking)}: the rest follows."
        return card
    try:
        card.stress = _borne(wanted)
        card.working = _working(wanted, card)
        found = evidence_of(campaign, procedures, conditions, wanted)
        card.candidates = [_candidate(f, wanted, card) for f in found]
    except InputError as error:
        wanted.problems.setdefault(error.field or "load", error.sentence)
        card.why_not = error.sentence
        return card
    card.candidates.sort(key=lambda c: (ORDER[c.verdict], _rank(c, card)))
    picked = next((c for c in card.candidates if c.found.condition.pk == chosen), None)
    leading = next((c for c in card.candidates if c.verdict in (HOLDS, OPEN)), None)
    card.best = picked or leading
    _headline(card, picked is not None)
    _missing(card)
    _hangs(card)
    return card


def _measure(wanted: Wanted) -> tuple[str, str]:
    """Dimension and unit of what is compared."""
    if wanted.mode == "part":
        return (wanted.load_dimension, "N·m" if wanted.load_dimension == "torque" else "N")
    return ("energy_per_area", "kJ/m²") if wanted.mode == "blow" else ("stress", "MPa")


def _rank(c: Candidate, card: Card) -> float:
    if card.stress is not None and c.margin:
        return -c.margin.ratio
    return c.depth if c.depth is not None else float("inf")


def _borne(wanted: Wanted) -> float | None:
    """What the section bears, without any factor; ``None`` where its depth is not known."""
    v = wanted.values
    if wanted.mode == "part":
        return v["load"]
    if wanted.mode == "blow":
        return v["load"] / (v["width"] * v["thickness"])
    case, depth = wanted.case, v.get("thickness")
    return stress(case, depth) if case and depth else None


def _working(wanted: Wanted, card: Card) -> list[tuple[str, str, str]]:
    """The formulas with their numbers: symbols, numbers, result."""
    v = wanted.values
    if card.stress is None:
        return []
    value = f"{card.shown(card.stress)} {card.unit}"
    if wanted.mode == "part":
        return [("F", "as the part carries it", value)]
    mm = {k: figures(x * 1e3) for k, x in v.items() if k in ("span", "arm", "width", "thickness")}
    load = render(v["load"], wanted.load_dimension, {"torque": "N·m", "energy": "J"}.get(wanted.load_dimension, "N"))  # fmt: skip
    if wanted.mode == "blow":
        return [("a = W / (b h)", f"{load} / ({mm['width']} mm · {mm['thickness']} mm)", value)]
    mode = MODES[wanted.mode]
    rows = []
    if wanted.mode in ("bending", "cantilever"):
        moment = v["load"] * (v["span"] / 4 if wanted.mode == "bending" else v["arm"])
        symbols = "M = F L / 4" if wanted.mode == "bending" else "M = F a"
        reach = mm["span"] if wanted.mode == "bending" else mm["arm"]
        rows.append((symbols, f"{load} · {reach} mm", f"{figures(moment)} N·m"))
    if wanted.mode == "thread":
        return [(mode.strip, f"{load} / (π · {mm['width']} mm · {mm['thickness']} mm)", value)]
    if mm.get("width"):
        return [*rows, (mode.strip, f"b {mm['width']} mm, h {mm['thickness']} mm", value)]
    return [*rows, (mode.round, f"d {mm['thickness']} mm", value)]


def _candidate(found: Evidence, wanted: Wanted, card: Card) -> Candidate:
    c = Candidate(found, str(found.condition))
    c.basis = basis_of(found.observations)
    if c.basis is None:
        c.says, c.why = _untested(found, wanted)
        return c
    c.mean_words = card.shown(c.basis.mean)
    proposed = suggested(wanted.sure, c.basis.kind)
    c.factor = SafetyFactor(((wanted.factor, wanted.because or "as typed"),), wanted.factor) if wanted.factor else proposed  # fmt: skip
    c.needed = card.stress * c.factor.value if card.stress is not None else None
    c.margin = margin(c.basis, found.losses, found.missing, c.needed or _TINY)
    if card.case and c.there > 0:
        stiff = (found.modulus, wanted.values.get("sag")) if found.modulus and "sag" in wanted.values else (None, None)  # fmt: skip
        c.sized = size(card.case, c.there, c.factor.value, *stiff)
    _weigh(c, wanted, card.case)
    _judge(c, wanted, card)
    return c


def _untested(found: Evidence, wanted: Wanted) -> tuple[str, str]:
    if found.observations:
        return "No usable result", "only upper bounds, or nothing above zero, were measured"
    way = "" if wanted.mode in ("part", "blow") else f" {wanted.direction} the layers"
    return (
        "Not tested this way",
        f"no result of it {_MODE_WORDS[wanted.mode]}{way} in this campaign",
    )


_MODE_WORDS = {
    "bending": "bent", "cantilever": "bent", "tension": "pulled", "torsion": "twisted",
    "shear": "sheared", "thread": "on a thread", "blow": "struck", "part": "as a part",
}  # fmt: skip


def _weigh(c: Candidate, wanted: Wanted, case: Case | None) -> None:
    """Mass and price of the length that carries, with the depth it has or must have."""
    material = c.found.condition.material
    depth = wanted.values.get("thickness") or c.depth
    length = wanted.values.get("span") or wanted.values.get("arm")
    if (
        case is None
        or case.mode == "thread"
        or depth is None
        or not length
        or not material
        or not material.density
    ):
        return
    area = case.width * depth if case.width else pi * depth**2 / 4
    c.mass = area * length * material.density
    c.cost = c.mass * float(material.price) if material.price else None
    if c.found.modulus:
        c.sag = deflection(case, depth, c.found.modulus) if wanted.values.get("thickness") else None


def _judge(c: Candidate, wanted: Wanted, card: Card) -> None:
    """The verdict with its reason: strength and losses first, then sag, space, mass and price."""
    assert c.margin is not None
    v = wanted.values
    c.verdict = c.margin.verdict if c.needed else (OPEN if c.found.missing else HOLDS)
    if c.verdict == OUT:
        c.says = (
            f"Fails by {c.margin.by}: {card.shown(c.there)} of {card.shown(c.needed)} {card.unit}"
        )
    elif c.sag is not None and "sag" in v and c.sag > v["sag"]:
        c.verdict, c.says = (
            OUT,
            f"Fails by deflection: {figures(c.sag * 1e3)} of {figures(v['sag'] * 1e3)} mm",
        )
    elif c.depth and "deepest" in v and c.depth > v["deepest"] and not v.get("thickness"):
        c.verdict, c.says = OUT, f"Fails by depth: {figures(c.depth * 1e3)} of {figures(v['deepest'] * 1e3)} mm"  # fmt: skip
    elif c.mass is not None and "mass" in v and c.mass > v["mass"]:
        c.verdict, c.says = OUT, f"Fails by mass: {figures(c.mass * 1e3)} of {figures(v['mass'] * 1e3)} g"  # fmt: skip
    elif c.cost is not None and wanted.price is not None and c.cost > wanted.price:
        c.verdict, c.says = OUT, f"Fails by cost: {figures(c.cost)} of {figures(wanted.price)}"
    elif wanted.grade and c.found.grade is not None and c.found.grade < wanted.grade:
        c.verdict, c.says = OUT, f"Fails by printability: graded {figures(c.found.grade, 2)} of {figures(wanted.grade, 2)}"  # fmt: skip
    elif c.verdict == OPEN:
        names = " and ".join(WORDS[m] for m in c.found.missing)
        c.says = f"Open: not tested {names}"
        if c.needed and c.margin.spare and set(c.found.missing) != {"stiffness"}:
            c.why = f"sufficient if at least {c.margin.spare * 100:.0f} % remains"
    else:
        c.says = f"Holds, {figures(c.margin.ratio)} × needed" if c.needed else f"Sufficient from {figures((c.depth or 0) * 1e3)} mm"  # fmt: skip
    _also(c, wanted)


def _far(wanted: Wanted) -> str:
    """What a depth is a depth of."""
    return "of thread engaged" if wanted.mode == "thread" else "deep"


def _also(c: Candidate, wanted: Wanted) -> None:
    said = [c.why] if c.why else []
    if c.sized and wanted.values.get("thickness"):
        rules = "stiffness" if c.sized.ruled_by == STIFFNESS else "strength"
        least = "at least " if c.found.missing else ""
        said.append(f"would do {least}{figures(c.sized.value * 1e3)} mm {_far(wanted)}, by {rules}")
    if "sag" in wanted.values and c.found.modulus is None and wanted.mode in ("bending", "cantilever", "tension"):  # fmt: skip
        said.append("stiffness not measured: deflection not checked")
    if wanted.grade and c.found.grade is None:
        said.append("printability not graded")
    if c.found.remark:
        said.append(c.found.remark)
    if c.found.property and c.found.procedure and c.found.property != c.found.procedure.ranked_property.key:  # fmt: skip
        said.append(f"by its {PROPERTIES[c.found.property].name.lower()}")
    c.why = "; ".join(said)


def _headline(card: Card, picked: bool) -> None:
    best = card.best
    if best is None:
        known = [c for c in card.candidates if c.depth]
        nearest = min(known, key=lambda c: c.depth or 0.0, default=None)
        tested = any(c.basis for c in card.candidates)
        card.headline = "None is sufficient." if tested else "No candidate was tested in this direction."  # fmt: skip
        if nearest and nearest.depth:
            card.rest = f"{nearest.name} needs the least: {figures(nearest.depth * 1e3)} mm."
        return
    lead = "Chosen: " if picked else ""
    depth = card.wanted.values.get("thickness")
    far = _far(card.wanted)
    if card.wanted.mode == "part":
        card.headline = f"{lead}Make it of {best.name}."
    elif depth:
        card.headline = f"{lead}Make it of {best.name}, {figures(depth * 1e3)} mm {far} as it stands."  # fmt: skip
    else:
        card.headline = (
            f"{lead}Make it of {best.name}, {figures((best.depth or 0) * 1e3)} mm {far}."
        )
    if best.verdict == OPEN:
        card.headline = f"{lead}Open: {best.name} may be sufficient, but it was never tested {' and '.join(WORDS[m] for m in best.found.missing)}."  # fmt: skip
    elif best.verdict == OUT:
        card.headline = f"{lead}{best.name} is not sufficient. {best.says}."
    after = ["the treatment" if x.name == "treated" else x.name for x in best.found.losses]
    if best.needed and best.margin and best.verdict == HOLDS:
        card.rest = f"It keeps {figures(best.margin.ratio)} × what is needed"
        card.rest += f" after {', '.join(after)}." if after else "."


def _missing(card: Card) -> None:
    """What this load case asks for and was never tested, with whom it concerns."""
    for name, words in WORDS.items():
        whose = [c for c in card.candidates if name in c.found.missing and c.basis]
        if not whose:
            continue
        tested = [c for c in card.candidates if c.basis]
        who = ", ".join(c.name for c in whose[:4]) + (" and others" if len(whose) > 4 else "")
        none = len(whose) == len(tested)
        verb = "was" if len(whose) == 1 else "were"
        said = (
            f"None of them was ever tested {words}."
            if none
            else f"{who} {verb} never tested {words}."
        )
        card.missing.append((name, said, whose))


def _hangs(card: Card) -> None:
    """At which load, factor, price or mass the choice turns."""
    best = card.best
    if best is None or best.verdict == OUT or not best.margin:
        return
    if best.needed and best.factor:
        load = card.wanted.values["load"] * best.margin.ratio
        unit = {"torque": "N·m", "energy": "J"}.get(card.wanted.load_dimension, "N")
        now = render(card.wanted.values["load"], card.wanted.load_dimension, unit)
        turn = render(load, card.wanted.load_dimension, unit)
        lead = "as far as it was tested, up to" if best.found.missing else "sufficient up to"
        card.hangs.append(("Load", now, f"{lead} {turn}"))
        most = best.factor.value * best.margin.ratio
        card.hangs.append(("SafetyFactor", figures(best.factor.value), f"{lead} {figures(most)}"))
    able = [c for c in card.candidates if c.verdict in (HOLDS, OPEN) and c is not best]
    for word, key, unit in (("Price", "cost", ""), ("Mass", "mass", " g")):
        own = getattr(best, key)
        rivals = [(getattr(c, key), c) for c in able if getattr(c, key) is not None]
        if own is None or not rivals:
            continue
        least, rival = min(rivals, key=lambda r: r[0])
        times = 1e3 if key == "mass" else 1.0
        now = f"{figures(own * times)}{unit}"
        if least < own:
            card.hangs.append((word, now, f"{rival.name} takes {figures(least * times)}{unit}: better by {word.lower()}"))  # fmt: skip
        else:
            card.hangs.append((word, now, f"least; {rival.name} would win at {figures(own / least)} of its {word.lower()}"))  # fmt: skip
    card.hangs += _reference_piece(card, best)


def _reference_piece(card: Card, best: Candidate) -> list[tuple[str, str, str]]:
    """Per gram against wood or metal of the same campaign."""
    own = best.found.condition.material
    found = []
    for c in card.candidates:
        material = c.found.condition.material
        if not c.basis or not best.basis or not material or material.form != "stock" or c is best:
            continue
        if not material.density or not own or not own.density:
            continue
        share = (best.basis.mean / own.density) / (c.basis.mean / material.density)
        found.append(("Per gram", f"{figures(share)} ×", f"as strong as {c.name} of the same campaign"))  # fmt: skip
    return found
