"""Ovens, a hot bath with its water to follow, and a pack of salt that is on just now; invented."""

from datetime import datetime, timedelta
from math import exp
from random import Random
from uuid import UUID

from brunt_core.treatments.diffusion import uptake
from brunt_web.asking.reading import read_levels
from brunt_web.campaigns.actions.plan_campaign import plan_campaign
from brunt_web.campaigns.drafts import FactorDraft, PlanDraft
from brunt_web.campaigns.models import Campaign, Specimen, Turn
from brunt_web.campaigns.queries import in_test_order
from brunt_web.demonstration.workshop import Shop, make_all
from brunt_web.library.models import Material, Procedure
from brunt_web.testing.actions.record_test import Entry, measure, record_test
from brunt_web.treatments.actions import logs, runs
from brunt_web.treatments.actions.library import add_vessel
from brunt_web.treatments.models import Run, Vessel

BATH = "What does the hot bath do to the vent-crank arm?"
SALT = "Is a pack of salt worth it for the vent-crank arm?"
_SHOWN = ("specimen", "condition__material", "procedure__rig", "campaign")
_BATHED, _PACKED = "hot water 80 °C, 45 min", "remelted in salt 190 °C"


def furnish_heat(shop: Shop) -> dict[str, Vessel]:
    """What the workshop heats, wets and cools with."""
    made = [
        add_vessel(shop.workshop, "Oven, left shelf", "oven", "8", 1400.0, "simulated"),
        add_vessel(shop.workshop, "Preserving pan", "bath", "10", 1800.0),
        add_vessel(shop.workshop, "Chest freezer", "freezer", "40", 120.0),
        add_vessel(shop.workshop, "Dry box", "box", "30"),
    ]
    return {v.kind: v for v in made}


def _plan(
    shop: Shop,
    question: str,
    treatment: str,
    pla: Material,
    procedures: list[Procedure],
    n: int,
    seed: int,
) -> Campaign:
    levels = read_levels("treatment", "", ("as printed", treatment))
    draft = PlanDraft(
        question=question,
        factors=(FactorDraft("treatment", "Treatment", levels),),
        procedures=procedures,
        replicates=n,
        seed=seed,
        recipe=shop.recipe,
        printer=shop.printer,
        shape="treated",
        material=pla,
        control="as printed",
    )
    campaign = plan_campaign(shop.workshop, shop.lead, draft, shop.now - timedelta(days=9))
    make_all(shop, campaign, shop.now - timedelta(days=8))
    return campaign


def bath(shop: Shop, pla: Material, procedures: list[Procedure], pan: Vessel) -> Campaign:
    """Bathed, dried back and weighed beside a control; then pulled flat and upright."""
    random = Random(71)
    campaign = _plan(shop, BATH, _BATHED, pla, procedures, n=5, seed=71)
    plain, bathed = campaign.conditions.order_by("position")
    bars = list(Specimen.objects.filter(condition=bathed).order_by("procedure", "replicate"))
    control = list(Specimen.objects.filter(condition=plain).order_by("procedure", "replicate"))
    start = shop.now - timedelta(days=6, hours=5)
    made = {s.pk: random.gauss(1.2800, 0.004) for s in (*bars, *control)}
    for s in (*bars, *control):
        texts = _sizes(s, 1.0, 1.0, 0.0, made[s.pk], random)
        measure(s, shop.volunteer, start - timedelta(hours=20), texts, "as made")
    run = runs.plan_run(
        shop.workshop,
        campaign,
        shop.lead,
        runs.RunDraft(
            "anneal-water",
            {"temperature": "80 °C", "time": "45 min", "way": "cold, one by one", "held": "free"},
            bars,
            what=_BATHED,
            event="treated",
            vessel=pan,
            accepted="thin bars, the question is how far they sag",
        ),
    )
    for minutes in (0, 12, 44, 89, 104):
        runs.go_on(run, shop.lead, start + timedelta(minutes=minutes))
    for minutes, heat in ((14, 24), (24, 41), (34, 63), (44, 79), (59, 81), (74, 80), (88, 80)):
        logs.add_reading(run, shop.lead, start + timedelta(minutes=minutes), "oven", f"{heat} °C")
    out = start + timedelta(minutes=100)
    for i, s in enumerate(bars):
        shrunk = random.gauss(0.981, 0.0012)
        bow = 0.84 if i == 3 else abs(random.gauss(0.2, 0.09))
        mass = made[s.pk] * 1.0128
        texts = _sizes(s, shrunk, random.gauss(1.029, 0.002), bow, mass, random)
        measure(s, shop.volunteer, out, texts, f"after run {run.number}")
    _weigh(shop, bars, control, made, out, random)
    runs.go_on(run, shop.lead, shop.now - timedelta(days=2))
    _pull(shop, campaign, random)
    return campaign


def _sizes(
    specimen: Specimen, plane: float, build: float, bow: float, grams: float, random: Random
) -> dict[str, str]:
    """Sizes and mass of one bar; flat ones are thin across the build, upright ones along it."""
    flat = specimen.orientation == "flat"
    length, width, thick = (
        75.05 * (plane if flat else build),
        5.02 * plane,
        2.02 * (build if flat else plane),
    )
    off = random.gauss(0, 0.012)
    texts = {
        "length": f"{length + 2 * off:.2f}",
        "width": f"{width + off:.2f}",
        "thickness": f"{thick + off / 2:.2f}",
        "mass": f"{grams:.4f}",
    }
    if bow:
        texts |= {
            "bow": f"{bow:.2f}",
            "diagonal": f"{length + 0.17:.2f}",
            "other_diagonal": f"{length + 0.15:.2f}",
        }
    return texts


def _weigh(
    shop: Shop,
    bars: list[Specimen],
    control: list[Specimen],
    made: dict[int, float],
    out: datetime,
    random: Random,
) -> None:
    """Every few hours, then daily: the bathed dry back, the control takes up the room's water."""
    for hours in (2, 5, 9, 22, 30, 46, 70, 94, 118):
        at = out + timedelta(hours=hours)
        share = float(uptake(1.05e-6 * hours * 3600))
        for s, begun, end in (
            *((s, 0.0128, 0.0037) for s in bars[:5]),
            *((s, 0.0004, 0.0036) for s in control[:5]),
        ):
            grams = made[s.pk] * (1 + begun + (end - begun) * share) + random.gauss(0, 8e-5)
            measure(s, shop.volunteer, at, {"mass": f"{grams:.4f}"}, "weighed")


def _pull(shop: Shop, campaign: Campaign, random: Random) -> None:
    at = shop.now - timedelta(days=1, hours=6)
    for turn in in_test_order(campaign).select_related(*_SHOWN):
        at += timedelta(seconds=random.randint(70, 160))
        _break(shop, turn, at, random)


def _break(shop: Shop, turn: Turn, at: datetime, random: Random) -> None:
    upright = turn.procedure.orientation == "upright"
    treated = turn.specimen.treated
    mean = (33.5 if treated else 27.2) if upright else (54.8 if treated else 55.3)
    width, thick = (
        random.gauss(4.94 if treated else 5.02, 0.015),
        random.gauss(2.05 if treated else 2.02, 0.01),
    )
    load = random.gauss(mean, mean * 0.035) * width * thick
    inputs = {"force": f"{load:.0f} N", "width": f"{width:.2f}", "thickness": f"{thick:.2f}"}
    key = UUID(int=random.getrandbits(128), version=4)
    record_test(
        turn, shop.lead, Entry(key=key, at=at, inputs=inputs, outcome="broke", place="gauge")
    )


def salt(shop: Shop, pla: Material, procedures: list[Procedure], oven: Vessel) -> Run:
    """A pack that is in the oven now: the core is read, one bar was taken out."""
    campaign = _plan(shop, SALT, _PACKED, pla, procedures[:1], n=7, seed=73)
    packed = campaign.conditions.order_by("position").last()
    bars = list(Specimen.objects.filter(condition=packed).order_by("replicate"))
    run = runs.plan_run(
        shop.workshop,
        campaign,
        shop.lead,
        runs.RunDraft(
            "remelt",
            {
                "temperature": "190 °C",
                "gap": "10",
                "time": "30 min",
                "grain": "fine salt",
                "packing": "tamped in layers",
                "spacing": "10 mm",
                "lid": "0.5 kg",
            },
            bars,
            what=_PACKED,
            event="treated",
            vessel=oven,
        ),
    )
    start = shop.now - timedelta(minutes=128)
    runs.go_on(run, shop.lead, start)
    runs.go_on(run, shop.lead, start + timedelta(minutes=20))
    lag, constant = 35.0, 46.0
    random = Random(75)
    for minutes in (24, 40, 55, 70, 85, 100, 112, 126):
        rise = 168 * (1 - exp(-max(minutes - lag, 0) / constant))
        at = start + timedelta(minutes=minutes)
        logs.add_reading(
            run, shop.volunteer, at, "core", f"{22 + rise + random.gauss(0, 0.3):.1f} °C"
        )
        oven_heat = 190 - 165 * exp(-max(minutes - 20, 0) / 8) + random.gauss(0, 1.2)
        logs.add_reading(run, shop.volunteer, at, "oven", f"{oven_heat:.0f} °C")
    return run
