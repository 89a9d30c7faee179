"""Summary: sentences, each with the view and numbers that prove it; and where the variation comes from."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from django.utils import timezone

from brunt_core.errors import InputError
from brunt_core.quantities.rendering import figures, p_value
from brunt_core.statistics.campaign_summary import campaign_summary
from brunt_core.statistics.components import (
    Components,
    Drift,
    components,
    components_in_words,
    drift,
    plane,
)
from brunt_core.statistics.ranking import leader
from brunt_web.campaigns.addresses import specimen_address
from brunt_web.comparison.grid_view import GridView
from brunt_web.comparison.normalising import masses_of
from brunt_web.comparison.one_factor_view import OneFactorView
from brunt_web.comparison.strips import Mark, Strip
from brunt_web.interface.scale import scale_for
from brunt_web.testing.enough import enough_in_words as in_words_of
from brunt_web.testing.models import Test

WIDE, HIGH = 520.0, 150.0


@dataclass(frozen=True)
class Sentence:
    """One finding: its sentence, and the view that proves it with what the address must say."""

    strong: str
    rest: str
    view: str
    query: Mapping[str, object]
    proof: str


def said_of(
    strips: Sequence[Strip], one_factor: OneFactorView | None, grid: GridView | None
) -> list[tuple[str, list[Sentence]]]:
    """Summary under their headings; none without numbers behind it."""
    won = [s for strip in strips for s in _won(strip)]
    does = []
    if one_factor and one_factor.headline:
        does.append(Sentence(one_factor.headline, one_factor.rest, "one-factor", {}, "the curve"))
    if grid and grid.headline:
        does.append(Sentence(grid.headline, " ".join(grid.rest), "two-factors", {}, "two factors"))
    enough = [s for strip in strips if (s := _enough(strip))]
    out = [s for strip in strips for s in _excluded(strip)]
    found = (
        ("Best", won),
        ("What each factor does", does),
        ("Enough tests?", enough),
        ("Excluded", out),
    )
    return [(title, said) for title, said in found if said]


def _won(strip: Strip) -> list[Sentence]:
    if len(strip.ranking.rows) < 2:
        return []
    named = replace(
        strip.ranking,
        rows=tuple(
            replace(r, name=strip.names.get(int(r.name), r.name)) for r in strip.ranking.rows
        ),
    )
    told = campaign_summary(named, True, strip.prop.ordinal)
    rest = " ".join([told[0].rest, *(str(f) for f in told[1:])])
    query = {"view": strip.procedure.pk}
    said = [Sentence(f"{strip.title}: {told[0].strong}", rest, "ranking", query, "the ranking")]
    if hangs := hangs_on(strip):
        said.append(Sentence("", hangs, "ranking", query, "the ranking"))
    return said


def hangs_on(strip: Strip) -> str:
    """What the result depends on: another leads without outliers, or with those excluded put back."""
    told = {str(pk): g for pk, g in strip.groups.items() if g.values}
    outlier = {k: g.outlier for k, g in told.items() if g.outlier}
    out = any(g.excluded for g in told.values())
    if len(told) < 2 or not (outlier or out):
        return ""
    first = leader({k: g.values for k, g in told.items()}, strip.prop.better)
    said = []
    if outlier:
        values = {
            k: [o for code, o in zip(g.codes, g.values, strict=True) if code != outlier.get(k)]
            for k, g in told.items()
        }
        other = leader(values, strip.prop.better)
        if other and other != first:
            codes = ", ".join(outlier.values())
            said.append(f"Without the suspected outlier ({codes}), {_name(strip, other)} leads.")
    if out:
        other = leader({k: g.with_all for k, g in told.items()}, strip.prop.better)
        if other and other != first:
            said.append(f"With all excluded specimens included, {_name(strip, other)} leads.")
    return " ".join(said)


def _name(strip: Strip, key: str) -> str:
    return strip.names.get(int(key), key)


def _enough(strip: Strip) -> Sentence | None:
    found = strip.enough
    if found is None:
        return None
    query = {"view": strip.procedure.pk}
    return Sentence(
        f"{strip.title}:",
        in_words_of(found, {str(pk): name for pk, name in strip.names.items()}),
        "profile",
        query,
        "the profile",
    )


def _excluded(strip: Strip) -> list[Sentence]:
    rows = [row for g in strip.groups.values() for row in g.excluded]
    return [
        Sentence(
            code,
            f"({strip.title}, {figures(o.anchor)} {strip.prop.unit}) is excluded: {why}",
            "ranking",
            {"view": strip.procedure.pk},
            "the ranking",
        )
        for code, o, why in rows
    ]


@dataclass
class Cv:
    """Where the variation of one property comes from, and whether it drifts."""

    title: str
    unit: str
    found: Components
    words: str
    drift: Drift | None
    drift_words: str
    marks: list[Mark]
    line: str
    y_ticks: list[tuple[float, str]]
    zero: float
    plate: list[tuple[float, float, float, bool, str]]
    plate_words: str = ""
    mass_words: str = ""


def variation_of(strip: Strip) -> Cv | None:
    """Variance components and drift of what counts; ``None`` for too few."""
    samples = [
        (pk, s) for pk, g in strip.groups.items() for s in g.found.counted if s.observation.is_exact
    ]
    if len(samples) < 4 or strip.prop.ordinal:
        return None
    facts = _facts([s.turn for _, s in samples])
    values = [s.observation.anchor for _, s in samples]
    conditions = [str(pk) for pk, _ in samples]
    names = ("lot", "printer", "batch", "plate", "day", "tester", "rig")
    sources = {n: [facts.get(s.turn, {}).get(n, "") for _, s in samples] for n in names}
    try:
        found = components(values, conditions, {k: v for k, v in sources.items() if all(v)})
    except InputError:
        return None
    order = [facts.get(s.turn, {}).get("order", float(i)) for i, (_, s) in enumerate(samples)]
    ranks = {v: i for i, v in enumerate(sorted(set(order)))}
    places = [float(ranks[v]) for v in order]
    along = drift(values, conditions, places, strip.confidence)
    return _drawn(
        strip,
        samples,
        facts,
        found=found,
        along=along,
        values=values,
        conditions=conditions,
        places=places,
    )


def _facts(turns: Sequence[int]) -> dict[int, dict]:
    rows = Test.objects.filter(turn__in=turns).values_list(
        "turn_id",
        "at",
        "by__username",
        "turn__specimen__print__plate_id",
        "turn__specimen__print__plate__batch__lot__name",
        "turn__specimen__print__x",
        "turn__specimen__print__y",
        "turn__specimen__print__plate__batch__number",
        "turn__specimen__print__plate__batch__printer__name",
        "turn__tested_as__rig",
    )
    return {
        turn: {
            "order": at.timestamp(),
            "day": f"{timezone.localtime(at):%Y-%m-%d}",
            "tester": by or "",
            "plate": str(plate or ""),
            "lot": lot or "",
            "place": None if x is None else (x, y),
            "batch": str(batch or ""),
            "printer": printer or "",
            "rig": rig or "",
        }
        for turn, at, by, plate, lot, x, y, batch, printer, rig in rows
    }


def _drawn(
    strip: Strip,
    samples: Sequence,
    facts: Mapping[int, dict],
    found: Components,
    along: Drift | None,
    values: Sequence[float],
    conditions: Sequence[str],
    places: Sequence[float],
) -> Cv:
    off = _off_the_mean(conditions, values)
    up = scale_for([*off, 0.0], HIGH, 14, 4)
    last = max(max(places), 1.0)

    def x(place: float) -> float:
        return round(44 + (WIDE - 60) * place / last, 1)

    def y(value: float) -> float:
        return round(HIGH - up.x(value), 1)

    marks = [
        Mark(
            x(p),
            0,
            "exact",
            f"{s.code}: {figures(d)} from its mean",
            specimen_address(s.code),
            y(d),
        )
        for p, d, (_, s) in zip(places, off, samples, strict=True)
    ]
    line, words = "", "The test order cannot be judged: all were recorded at the same time."
    if along:
        line, words = _slope(along, places, last, x, y), _drift_words(along, strip)
    plate = _over_the_plate(samples, facts, off)
    return Cv(
        strip.title,
        strip.prop.unit,
        found,
        words=components_in_words(found),
        drift=along,
        drift_words=words,
        marks=marks,
        line=line,
        y_ticks=[(round(HIGH - at, 1), label) for at, label in up.ticks],
        zero=y(0.0),
        plate=plate,
        plate_words=_tilt_words(samples, facts, values, conditions, strip.prop.unit),
        mass_words=_mass_words(samples, values, conditions, strip),
    )


def _tilt_words(
    samples: Sequence,
    facts: Mapping[int, dict],
    values: Sequence[float],
    conditions: Sequence[str],
    unit: str,
) -> str:
    """Whether the values tilt over the plate."""
    told = [i for i, (_, s) in enumerate(samples) if facts.get(s.turn, {}).get("place")]
    found = plane(
        [values[i] for i in told],
        [conditions[i] for i in told],
        [facts[samples[i][1].turn]["place"] for i in told],
    )
    if found is None:
        return ""
    if not found.told:
        return f"No trend over the plate is detectable ({p_value(found.p)})."
    return (
        f"The values change by {figures(found.along * 100)} {unit} over 100 mm to the right and "
        f"{figures(found.across * 100)} to the back ({p_value(found.p)}): check the bed, its temperature and draughts."
    )


def _mass_words(
    samples: Sequence, values: Sequence[float], conditions: Sequence[str], strip: Strip
) -> str:
    """Whether heavier specimens of one condition are better, and how much of the variation that is."""
    masses = masses_of({s.turn for _, s in samples})
    told = [i for i, (_, s) in enumerate(samples) if s.turn in masses]
    if len(told) < 4:
        return ""
    grams = [masses[samples[i][1].turn] * 1e3 for i in told]
    own = [values[i] for i in told]
    found = drift(own, [conditions[i] for i in told], grams, strip.confidence)
    if found is None:
        return ""
    if not found.told:
        return f"No correlation with specimen mass ({p_value(found.p)}, {len(told)} weighed)."
    return (
        f"Correlated with mass: {figures(found.slope)} {strip.prop.unit} for each gram more of one "
        f"condition, {figures(found.low)} to {figures(found.high)} ({p_value(found.p)}): even out the "
        "extrusion, or normalise by mass."
    )


def _over_the_plate(
    samples: Sequence, facts: Mapping[int, dict], off: Sequence[float]
) -> list[tuple[float, float, float, bool, str]]:
    """Where each lay, how far it is off, on which side, its ID; only those whose place is known."""
    reach = max((abs(d) for d in off), default=1.0) or 1.0
    return [
        (*facts[s.turn]["place"], round(2 + 6 * abs(d) / reach, 1), d > 0, s.code)
        for d, (_, s) in zip(off, samples, strict=True)
        if facts.get(s.turn, {}).get("place")
    ]


def _off_the_mean(conditions: Sequence[str], values: Sequence[float]) -> list[float]:
    """Each value less the mean of its condition."""
    means: dict[str, list[float]] = {}
    for c, v in zip(conditions, values, strict=True):
        means.setdefault(c, []).append(v)
    return [v - sum(means[c]) / len(means[c]) for c, v in zip(conditions, values, strict=True)]


def _slope(
    along: Drift,
    places: Sequence[float],
    last: float,
    x: Callable[[float], float],
    y: Callable[[float], float],
) -> str:
    """The line of a drift through the middle of what was tested."""
    middle = sum(places) / len(places)
    ends = [(0.0, -middle * along.slope), (last, (last - middle) * along.slope)]
    return "M" + " L".join(f"{x(p)},{y(v)}" for p, v in ends)


def _drift_words(along: Drift, strip: Strip) -> str:
    if not along.told:
        return "No drift over the test order is detectable."
    verb = "rise" if along.over_all > 0 else "fall"
    return (
        f"The values {verb} by {figures(abs(along.over_all))} {strip.prop.unit} from the first test to "
        f"the last ({p_value(along.p)}): check the rig, the room and the drying."
    )
