"""Three campaigns that show histories: deflected then broken, slow and fast, annealed or not; invented."""

from collections.abc import Mapping
from datetime import datetime, timedelta
from decimal import Decimal
from random import Random
from typing import Any
from uuid import UUID

from brunt_core.methods.impact import STANDARD_GRAVITY
from brunt_web.asking.reading import read_levels
from brunt_web.campaigns.actions import mixups
from brunt_web.campaigns.actions.make import carry_out, mark_as_made
from brunt_web.campaigns.actions.plan_campaign import plan_campaign
from brunt_web.campaigns.drafts import FactorDraft, LevelDraft, PlanDraft
from brunt_web.campaigns.models import Campaign, Specimen, Turn
from brunt_web.campaigns.queries import in_test_order
from brunt_web.demonstration.workshop import Shop, make_all
from brunt_web.library.actions.add_material import add_material
from brunt_web.library.actions.standard_procedures import STARTERS, ensure_starter
from brunt_web.library.models import Material, Procedure, Rig
from brunt_web.testing.actions import timed
from brunt_web.testing.actions.record_test import Entry, measure, record_test

ARM = "How far does the guide arm give, and when does it break?"
SLAM = "Slow crank or sudden slam?"
OVEN = "Is annealing worth the oven?"
_SHOWN = ("specimen", "condition__material", "procedure__rig", "campaign")
# Invented: bending modulus MPa and flexural strength MPa.
_BENT = {"Fernhall PLA": (3050, 84), "Tarn PA12": (1380, 58), "Spruce batten": (9800, 71)}


class _Hand:
    """Somebody at a bench: a seeded run of readings, one after the other."""

    def __init__(self, shop: Shop, seed: int, at: datetime) -> None:
        self.shop, self.random, self.at = shop, Random(seed), at

    def near(self, mean: float, cv: float) -> float:
        """A value about a mean."""
        return self.random.gauss(mean, mean * cv)

    def record(self, turn: Turn, inputs: Mapping[str, str], outcome: str, **more: Any) -> None:
        """One test, a minute or two after the last."""
        self.at += timedelta(seconds=self.random.randint(60, 170))
        key = UUID(int=self.random.getrandbits(128), version=4)
        entry = Entry(key=key, at=self.at, inputs=inputs, outcome=outcome, **more)
        record_test(turn, self.shop.lead, entry)


def _plan(shop: Shop, question: str, factors: tuple, procedures: Any, **more: Any) -> Campaign:
    draft = PlanDraft(
        question=question,
        factors=factors,
        procedures=procedures,
        replicates=more.pop("replicates"),
        seed=more.pop("seed"),
        recipe=shop.recipe,
        printer=shop.printer,
        **more,
    )
    return plan_campaign(shop.workshop, shop.lead, draft, shop.now - timedelta(days=8))


def arm(shop: Shop, materials: Mapping[str, Material], frame: Rig) -> Campaign:
    """Each bar is deflected under a known weight, then broken; a spruce batten is the reference piece."""
    spruce = add_material(
        shop.workshop, "Spruce batten", "wood", "stock", density=440.0, price=Decimal("9.00")
    )
    starters = {s.method: s for s in STARTERS}
    rigs = {"force": frame, "torque": frame}
    procedures = [
        ensure_starter(shop.workshop, starters[m], rigs) for m in ("cantilever", "flexure")
    ]
    chosen = [materials["Fernhall PLA"], materials["Tarn PA12"], spruce]
    factor = FactorDraft(
        "material", "Material", tuple(LevelDraft(m.name, material=m) for m in chosen)
    )
    after = {procedures[1].pk: procedures[0].pk}
    campaign = _plan(
        shop, ARM, (factor,), procedures, replicates=4, seed=41, after=after, shape="part"
    )
    for condition in campaign.conditions.all():
        stock = condition.material == spruce
        how, words = (
            ("cut from stock", "from one batten, clear of knots")
            if stock
            else ("printed elsewhere", "")
        )
        made = shop.now - timedelta(days=5)
        mark_as_made(campaign, condition, shop.volunteer, made, how, words)
    _deflect_and_break(shop, campaign)
    return campaign


def _deflect_and_break(shop: Shop, campaign: Campaign) -> None:
    hand = _Hand(shop, 43, shop.now - timedelta(days=1, hours=3))
    sections: dict[str, tuple[float, float, float]] = {}
    turns = list(in_test_order(campaign).select_related(*_SHOWN))
    for turn in [t for t in turns if t.step == 0][:-1]:
        modulus = hand.near(_BENT[turn.condition.label][0], 0.04)
        width, height = hand.near(10.04, 0.003), hand.near(4.02, 0.004)
        sections[turn.code] = (width, height, modulus)
        sag = 4 * STANDARD_GRAVITY * 50**3 / (modulus * width * height**3)
        timed.start_clock(turn, shop.lead, hand.at + timedelta(seconds=20))
        hand.at += timedelta(seconds=25)
        texts = {"deflection": f"{sag:.2f}", "width": f"{width:.2f}", "thickness": f"{height:.2f}"}
        hand.record(turn, texts, "held")
    for turn in [t for t in turns if t.step == 1][:-4]:
        if turn.code not in sections:
            continue
        turn = Turn.objects.select_related(*_SHOWN).get(pk=turn.pk)
        width, height, modulus = sections[turn.code]
        stress = hand.near(_BENT[turn.condition.label][1], 0.05)
        force = stress * 2 * width * height**2 / (3 * 64)
        slope = modulus * 4 * width * height**3 / 64**3
        texts = {
            "force": f"{force:.1f} N",
            "slope": f"{slope:.2f} N/mm",
            "deflection": f"{force / slope * 1.3:.2f}",
        }
        hand.record(turn, texts, "broke", place="under_load", note="flipped after the deflection")


def slam(shop: Shop, materials: list[Material], procedure: Procedure) -> Campaign:
    """Slow before fast; two bars had their labels exchanged, and one fast pull was run slow."""
    material = FactorDraft(
        "material", "Material", tuple(LevelDraft(m.name, material=m) for m in materials)
    )
    rate = FactorDraft("rate", "Speed", read_levels("rate", "", ("5 mm/min", "500 mm/min")))
    campaign = _plan(
        shop,
        SLAM,
        (material, rate),
        [procedure],
        replicates=4,
        seed=53,
        shape="rate",
        control="Fernhall PLA, 5 mm/min",
    )
    make_all(shop, campaign, shop.now - timedelta(days=4))
    hand = _Hand(shop, 59, shop.now - timedelta(days=3))
    turns = list(in_test_order(campaign).select_related(*_SHOWN))
    for i, turn in enumerate(turns[:-2]):
        fast = (turn.speed or 0) > 1e-3
        base = 55.0 if "PLA" in turn.condition.label else 46.5
        width, thickness = hand.near(5.02, 0.004), hand.near(2.01, 0.006)
        load = hand.near(base * (1.21 if fast else 1.0), 0.03) * width * thickness
        texts = {"force": f"{load:.0f} N", "width": f"{width:.2f}", "thickness": f"{thickness:.2f}"}
        slipped = "50 mm/min" if fast and i == len(turns) - 4 else ""
        hand.record(turn, texts, "broke", place="gauge", speed=slipped)
    slow = [t.specimen for t in turns if (t.speed or 0) < 1e-3]
    first = next(s for s in slow if "PLA" in s.condition.label)
    other = next(s for s in slow if "PETG" in s.condition.label)
    reason = "the mass gave it away: the labels had been exchanged at the bench"
    mixups.swap_labels(first, other, shop.lead, shop.now - timedelta(days=2), reason)
    return campaign


def oven(shop: Shop, pla: Material, procedures: list[Procedure]) -> Campaign:
    """Annealed against as printed: one control fell into the oven with the rest, some are still outstanding."""
    levels = read_levels("treatment", "", ("as printed", "annealed 95 °C, 2 h"))
    factor = FactorDraft("treatment", "Treatment", levels)
    campaign = _plan(
        shop,
        OVEN,
        (factor,),
        procedures[:1],
        replicates=5,
        seed=61,
        shape="treated",
        material=pla,
        control="as printed",
    )
    make_all(shop, campaign, shop.now - timedelta(days=6))
    plain, annealed = campaign.conditions.order_by("position")
    step = ("treatment", "annealed 95 °C, 2 h")
    bars = list(Specimen.objects.filter(condition=annealed).order_by("replicate"))
    for bar in bars:
        measure(
            bar,
            shop.volunteer,
            shop.now - timedelta(days=5, hours=2),
            {"width": "5.03", "thickness": "2.02", "mass": "1.282"},
        )
    lost = Specimen.objects.filter(condition=plain).order_by("replicate")[1]
    mixups.change_role(
        lost,
        annealed,
        shop.lead,
        shop.now - timedelta(days=5),
        "it lay in the tray by mistake and was annealed with the others",
    )
    treated = [*bars[:3], Specimen.objects.get(pk=lost.pk)]
    carry_out(
        treated,
        shop.lead,
        shop.now - timedelta(days=4, hours=20),
        step,
        "tray 2, held between plates",
    )
    for bar in treated:
        texts = {"width": "5.01", "thickness": "2.09", "mass": "1.280"}
        measure(
            bar, shop.volunteer, shop.now - timedelta(days=4, hours=15), texts, "after treatment"
        )
    _pull_annealed(shop, campaign)
    return campaign


def _pull_annealed(shop: Shop, campaign: Campaign) -> None:
    hand = _Hand(shop, 67, shop.now - timedelta(days=2))
    for turn in in_test_order(campaign).select_related(*_SHOWN):
        specimen = turn.specimen
        if specimen.outstanding or specimen.replicate in (1, 5):
            continue
        mean = 60.5 if specimen.treated else 55.0
        width, thickness = hand.near(5.02, 0.004), hand.near(2.03, 0.008)
        load = hand.near(mean, 0.03) * width * thickness
        texts = {"force": f"{load:.0f} N", "width": f"{width:.2f}", "thickness": f"{thickness:.2f}"}
        hand.record(turn, texts, "broke", place="gauge")
