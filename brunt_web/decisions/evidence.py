"""What was measured here of each candidate: what it bears, and what heat, damp, age and layers cost it."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from django.db.models import Avg, F, Q

from brunt_core.decisions.margin import Loss
from brunt_core.errors import InputError
from brunt_core.observations import Observation
from brunt_core.planning.levels import step_key
from brunt_core.quantities.rendering import time_words
from brunt_core.statistics.ratios import ratio_of_means, widened
from brunt_core.statistics.rigs import quotients
from brunt_core.statistics.summaries import Summary, summarise
from brunt_web.campaigns.models import Campaign, Condition
from brunt_web.campaigns.requirements import RequiredStep, Requirements
from brunt_web.decisions.wanted import Wanted
from brunt_web.library.models import Procedure
from brunt_web.printing.models import Grade
from brunt_web.results.reading import Group, grouped, samples
from brunt_web.testing.models import TimedReading
from brunt_web.testing.rigs import rig_shares_of_groups

PROPERTIES = {
    "bending": ("flexural_strength", "bending_stress"),
    "cantilever": ("flexural_strength", "bending_stress"),
    "tension": ("tensile_strength", "layer_adhesion_strength"),
    "torsion": ("torsional_strength",),
    "shear": ("shear_strength",),
    "thread": ("thread_shear_stress",),
    "blow": ("impact_strength",),
    "force": ("yield_load", "peak_load", "pull_out_load"),
    "torque": ("break_moment", "peak_torque"),
}
MODULI = {
    "bending": ("flexural_modulus", "tensile_modulus"),
    "cantilever": ("flexural_modulus", "tensile_modulus"),
    "tension": ("tensile_modulus",),
    "torsion": ("shear_modulus",),
}
STRENGTHS = ("flexural_strength", "tensile_strength", "layer_adhesion_strength", "impact_strength",
             "torsional_strength", "shear_strength", "peak_load", "compressive_strength")  # fmt: skip
_WET = ("wet", "soak", "water", "rain")
_DAMP = ("damp", "humid", "moist", "% rh", "% r.h.")
_ROOM = 273.15 + 32.0
_NEAR = 2.0


@dataclass
class Evidence:
    """What is known of one candidate, SI: its strengths, modulus, losses, and what was never tested."""

    condition: Condition
    observations: list[Observation] = field(default_factory=list)
    property: str = ""
    procedure: Procedure | None = None
    remark: str = ""
    modulus: float | None = None
    losses: list[Loss] = field(default_factory=list)
    missing: list[str] = field(default_factory=list)
    codes: list[str] = field(default_factory=list)
    grade: float | None = None


def evidence_of(
    campaign: Campaign,
    procedures: Sequence[Procedure],
    conditions: Sequence[Condition],
    wanted: Wanted,
) -> list[Evidence]:
    """Every condition of the campaign as a candidate. A fixed number of queries."""
    keys = PROPERTIES[wanted.load_dimension if wanted.mode == "part" else wanted.mode]
    moduli = MODULI.get(wanted.mode, ())
    found = samples(Q(turn__campaign=campaign), {*keys, *moduli, *STRENGTHS})
    by_key: dict[str, dict[tuple[int, int], Group]] = {}
    for key in {*keys, *moduli, *STRENGTHS}:
        by_key[key] = grouped(found, procedures, {p.pk: key for p in procedures})
    across = wanted.direction == "across" and wanted.mode != "part"
    elsewhere = _Elsewhere(campaign, conditions)
    held = _held(campaign, conditions) if "held" in wanted.values else {}
    grades = _grades(campaign) if wanted.grade else {}
    rows = []
    for c in conditions:
        one = Evidence(c, grade=grades.get(c.pk))
        _strength(one, by_key, keys, procedures, across, wanted.mode == "part")
        one.modulus = _modulus(c, by_key, moduli, procedures)
        _surroundings(one, wanted, elsewhere, held)
        rows.append(one)
    return rows


def _orientation(condition: Condition, procedure: Procedure) -> str:
    return str(condition.requirements.orientation or procedure.orientation)


def _group(
    groups: Mapping[tuple[int, int], Group], condition: Condition, procedure: Procedure
) -> Group | None:
    group = groups.get((condition.pk, procedure.pk))
    return group if group and group.counted else None


def _strength(
    one: Evidence,
    by_key: Mapping[str, Mapping[tuple[int, int], Group]],
    keys: Sequence[str],
    procedures: Sequence[Procedure],
    across: bool,
    any_way: bool,
) -> None:
    """The strength to count on in the direction asked; else in the other, with what that costs."""
    for right in (True, False):
        for key in keys:
            for p in procedures:
                group = _group(by_key[key], one.condition, p)
                upright = _orientation(one.condition, p) == "upright"
                if group is None or (not any_way and (upright == across) != right):
                    continue
                one.observations, one.property, one.procedure = group.values, key, p
                one.codes = [s.code for s in group.counted]
                if not right:
                    _other_way(one, by_key, procedures, across)
                return


def _other_way(
    one: Evidence,
    by_key: Mapping[str, Mapping[tuple[int, int], Group]],
    procedures: Sequence[Procedure],
    across: bool,
) -> None:
    if not across:
        one.remark = "tested across the layers only: along them strength is usually not lower"
        return
    loss = _layers(one.condition, by_key, procedures)
    if loss:
        one.losses.append(loss)
    else:
        one.missing.append("layers")


def _layers(
    condition: Condition,
    by_key: Mapping[str, Mapping[tuple[int, int], Group]],
    procedures: Sequence[Procedure],
) -> Loss | None:
    """Upright ÷ flat, by whatever pair of tests of this condition there is."""
    pairs = [(k, k) for k in STRENGTHS] + [("layer_adhesion_strength", "tensile_strength")]
    for top, bottom in pairs:
        above = _way(by_key[top], condition, procedures, upright=True)
        below = _way(by_key[bottom], condition, procedures, upright=False)
        if above and below:
            (one, up), (other, along) = above, below
            rigs = quotients(
                rig_shares_of_groups(up, up.property_called(top), {"": one}),
                rig_shares_of_groups(along, along.property_called(bottom), {"": other}),
            )
            across, flat = (summarise(g.values, rounding=g.rounding) for g in (one, other))
            words = f"upright ÷ flat in {bottom.split('_')[0]} tests"
            return _loss("layers", across, flat, words, rigs.of_mean(""))
    return None


def _way(
    groups: Mapping[tuple[int, int], Group],
    condition: Condition,
    procedures: Sequence[Procedure],
    upright: bool,
) -> tuple[Group, Procedure] | None:
    for p in procedures:
        group = _group(groups, condition, p)
        if group and (_orientation(condition, p) == "upright") == upright:
            return group, p
    return None


def _loss(name: str, top: Summary, bottom: Summary, words: str, unlike: float) -> Loss | None:
    """By what factor; ``unlike`` is what the calibrations of unlike rigs leave in it."""
    try:
        found = widened(ratio_of_means(top, bottom), unlike)
    except (InputError, ZeroDivisionError):
        return None
    if not found.value > 0:
        return None
    return Loss(name, found.value, found.low, found.high, f"{words}, n = {top.n} and {bottom.n}")


def _modulus(
    condition: Condition,
    by_key: Mapping[str, Mapping[tuple[int, int], Group]],
    keys: Sequence[str],
    procedures: Sequence[Procedure],
) -> float | None:
    for key in keys:
        for p in procedures:
            group = _group(by_key[key], condition, p)
            if group:
                mean = summarise(group.values).mean
                return mean if mean > 0 else None
    return None


# -- heat, damp, age -----------------------------------------------------------------------------


def _wetness(words: str) -> int:
    """How wet a state is, by its words: 0 dry, 1 damp air, 2 in water."""
    low = words.lower()
    return 2 if any(w in low for w in _WET) else 1 if any(w in low for w in _DAMP) else 0


def _grades(campaign: Campaign) -> dict[int, float]:
    """The mean grade of how each condition printed, 1 (poor) to 5 (flawless), where it was graded."""
    rows = (
        Grade.objects.filter(batch__campaign=campaign)
        .filter(Q(specimen__isnull=True) | Q(specimen__condition=F("batch__plates__prints__specimen__condition")))
        .order_by()
        .values_list("batch__plates__prints__specimen__condition")
        .annotate(mean=Avg("score"))
    )  # fmt: skip
    return {pk: mean for pk, mean in rows if pk is not None}


def _surroundings(
    one: Evidence, wanted: Wanted, elsewhere: "_Elsewhere", held: Mapping[int, float]
) -> None:
    """What heat, damp, age and a load that stays cost, where they were measured; else named."""
    required = one.condition.requirements
    own = required.state
    hot = wanted.values.get("temperature")
    if hot is not None and hot > _ROOM and not _warm_enough(own, hot):
        _either(one, "heat", elsewhere.state(one, lambda s: _warm_enough(s, hot) and not _wetness(s.what)))  # fmt: skip
    if wanted.damp > (_wetness(own.what) if own else 0):
        _either(one, "damp", elsewhere.state(one, lambda s: _wetness(s.what) >= wanted.damp and not _heated(s)))  # fmt: skip
    if wanted.treated and step_key(wanted.treated) not in {t.key for t in required.to_do}:
        _either(one, "treated", elsewhere.treated(one, wanted.treated))
    years = wanted.values.get("aged")
    if years is not None and required.seconds < years * 0.98:
        _either(one, "age", elsewhere.aged(one, years))
    if "held" in wanted.values:
        one.missing.append("creep")
        read = held.get(one.condition.material_id or 0, 0.0)
        if read:
            said = f"deflection under load was measured for {time_words(read, 2)}, not failure"
            one.remark = "; ".join(filter(None, (one.remark, said)))
    changed = (hot is not None and hot > _ROOM) or wanted.damp or years is not None
    if "sag" in wanted.values and (changed or "held" in wanted.values):
        one.missing.append("stiffness")


def _either(one: Evidence, name: str, loss: Loss | None) -> None:
    if loss:
        one.losses.append(loss)
    else:
        one.missing.append(name)


def _heated(state: RequiredStep | None) -> bool:
    return ((state.temperature if state else None) or 0.0) > _ROOM


def _warm_enough(state: RequiredStep | None, hot: float) -> bool:
    return ((state.temperature if state else None) or 0.0) >= hot - _NEAR


def _held(campaign: Campaign, conditions: Sequence[Condition]) -> dict[int, float]:
    """How long a load that stays was read on each material, s, in any campaign of the workshop."""
    materials = {c.material_id for c in conditions if c.material_id}
    rows = TimedReading.objects.filter(
        turn__campaign__workshop=campaign.workshop_id,
        turn__condition__material__in=materials,
        turn__procedure__method_key__in=("creep", "deflection-ladder"),
    ).values_list("turn__condition__material_id", "elapsed")
    longest: dict[int, float] = {}
    for material, elapsed in rows:
        longest[material] = max(longest.get(material, 0.0), elapsed)
    return longest


class _Elsewhere:
    """Contrasts of state and age of the candidates' materials, in every campaign of the workshop."""

    def __init__(self, campaign: Campaign, conditions: Sequence[Condition]) -> None:
        materials = {c.material_id for c in conditions if c.material_id}
        shop = Q(campaign__workshop=campaign.workshop_id, campaign__archived_at__isnull=True)
        every = Condition.objects.filter(shop, material__in=materials).select_related("campaign")
        self.asked = [c for c in every if any(c.requirements.has(k) for k in ("state", "age", "treatments"))]  # fmt: skip
        campaigns = {c.campaign_id for c in self.asked}
        self.beside = [c for c in every if c.campaign_id in campaigns]
        found = samples(Q(turn__condition__in=[c.pk for c in self.beside]), set(STRENGTHS))
        self.procedures = Procedure.objects.select_related("rig").in_bulk({s.procedure for s in found})  # fmt: skip
        self.groups: dict[tuple[int, int, str], Group] = defaultdict(Group)
        for s in found:
            if not s.excluded:
                self.groups[s.condition, s.procedure, s.property].counted.append(s)

    def state(self, one: Evidence, fits: Any) -> Loss | None:
        """The loss of a state that fits, against the same without it."""
        return self._best(
            one, "state", lambda c: c.requirements.state is not None and fits(c.requirements.state)
        )

    def treated(self, one: Evidence, what: str) -> Loss | None:
        """What a treatment costs or gains, against the same without any."""
        return self._best(
            one, "treatments", lambda c: [t.key for t in c.requirements.to_do] == [step_key(what)]
        )

    def aged(self, one: Evidence, seconds: float) -> Loss | None:
        """The loss of an age of so long or longer, against the fresh."""
        return self._best(one, "age", lambda c: c.requirements.seconds >= seconds * 0.98)

    def _best(self, one: Evidence, kind: str, fits: Any) -> Loss | None:
        """By the candidate's own property where it was measured so, else by another; what is least beyond the load case first."""
        rows = []
        for c in self.asked:
            if c.material_id != one.condition.material_id or not fits(c):
                continue
            for control in self.beside:
                if control.campaign_id == c.campaign_id and _control(c, control, kind):
                    rows += self._ratios(c, control, kind)
        rows.sort(key=lambda r: (r[0] != one.property, r[1], -r[2]))
        return rows[0][3] if rows else None

    def _ratios(
        self, c: Condition, control: Condition, kind: str
    ) -> list[tuple[str, float, int, Loss]]:
        """Property, how hot or how old, how many specimens, the loss."""
        what, severity = _asked(c, kind)
        found = []
        for (condition, procedure, prop), own in self.groups.items():
            against = self.groups.get((control.pk, procedure, prop))
            if condition != c.pk or not against:
                continue
            by = self.procedures[procedure]
            rigs = rig_shares_of_groups(by, by.property_called(prop), {"": own, "control": against})
            words = f"{what}, {prop.replace('_', ' ')}, {c.campaign}"
            name = {"state": "heat" if _heated(c.requirements.state) else "damp", "treatments": "treated"}.get(kind, kind)  # fmt: skip
            means = summarise(own.values), summarise(against.values)
            loss = _loss(name, *means, words, rigs.of_difference("", "control"))
            if loss:
                found.append((prop, severity, len(own.counted) + len(against.counted), loss))
        return found


def treatments_known(campaign: Campaign) -> list[str]:
    """Every single treatment that was planned for a material of this campaign, anywhere in the workshop."""
    rows = Condition.objects.filter(
        campaign__workshop=campaign.workshop_id,
        material__in=campaign.conditions.values("material"),
        requirements__has_key="treatments",
    ).values_list("requirements", flat=True)
    single = {r.to_do[0].key: r.to_do[0].what for r in rows if len(r.to_do) == 1}
    return sorted(single.values())


def _asked(condition: Condition, kind: str) -> tuple[str, float]:
    """What a condition requires of a kind, in words, and how severe it is: its age in s, or its heat in K."""
    required = condition.requirements
    if kind == "age":
        return (required.age.what, required.age.seconds) if required.age else (kind, 0.0)
    step = required.state if kind == "state" else next(iter(required.to_do), None)
    return (step.what, step.temperature or 0.0) if step else (kind, 0.0)


def _has_to_be_done(required: Requirements, kind: str) -> bool:
    if kind == "age":
        return required.age is not None and required.age.outstanding
    return bool(required.to_do) if kind == "treatments" else required.state_to_reach is not None


def _control(one: Condition, other: Condition, kind: str) -> bool:
    """Whether the other is the same without the state or age: room and fresh, all else alike."""
    if one.pk == other.pk or one.material_id != other.material_id:
        return False
    if _has_to_be_done(other.requirements, kind):
        return False
    return one.requirements.alike(other.requirements, but=kind)
