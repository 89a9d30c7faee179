"""Loads the demo through the same actions as real entry, by seeded simulation."""

from datetime import datetime, timedelta
from random import Random
from typing import Any
from uuid import UUID

from django.contrib.auth import get_user_model
from django.db import transaction

from brunt_core.mechanics.calibration import CalibrationPoint
from brunt_web.campaigns.actions.plan_campaign import plan_campaign
from brunt_web.campaigns.drafts import of_materials
from brunt_web.campaigns.models import Campaign, Specimen, Turn
from brunt_web.campaigns.queries import in_test_order
from brunt_web.changes.actions.quiet import quiet
from brunt_web.decisions.actions import load_cases
from brunt_web.demonstration.checked import check_bars
from brunt_web.demonstration.flakes import flakes
from brunt_web.demonstration.guide import brought_up, guide
from brunt_web.demonstration.heat import bath, furnish_heat, salt
from brunt_web.demonstration.histories import arm, oven, slam
from brunt_web.demonstration.pawl import PAWL, PAWL_MATERIALS, pawl
from brunt_web.demonstration.scenario import MATERIALS, QUESTIONS, WORKSHOP, DemoQuestion, Incident
from brunt_web.demonstration.still import photograph
from brunt_web.demonstration.workshop import Shop, furnish, make_all, one_factor
from brunt_web.library.actions.add_material import add_material
from brunt_web.library.actions.rigs import Certificate, add_calibration
from brunt_web.library.actions.standard_procedures import ensure_standard_procedures
from brunt_web.library.models import Material, Procedure, Rig
from brunt_web.people.actions.seats import ensure_seat
from brunt_web.people.models import Workshop
from brunt_web.people.roles import OWNER, TESTER
from brunt_web.testing.actions.change_test import another_replicate, exclude
from brunt_web.testing.actions.record_test import Entry, record_test
from brunt_web.testing.statistics import gather_statistics

_UNITS = (("kgf", 9.80665, 2), ("N", 1.0, 0), ("lbf", 4.4482216152605, 1))
LOAD_CASES = (
    (
        PAWL,
        "Louvre pawl, cranked by hand",
        "cantilever",
        "along",
        {"load": "9.2 kgf", "arm": "45 mm", "width": "14 mm", "thickness": "12 mm", "deepest": "18 mm", "sag": "2 mm", "temperature": "55 °C"},
    ),
    (
        "Which plain filament for the vent-crank arm?",
        "Vent-crank arm",
        "tension",
        "across",
        {"load": "250 N", "span": "110 mm", "width": "12 mm", "thickness": "6 mm", "deepest": "10 mm"},
    ),
)  # fmt: skip
_PLACES = ("gauge", "gauge", "gauge", "upper_fillet", "lower_fillet")


@transaction.atomic
def load_demo(now: datetime) -> bool:
    """Load the demo once; false when it is there already."""
    if Workshop.objects.filter(name=WORKSHOP).exists():
        return False
    quiet()
    workshop = Workshop.objects.create(name=WORKSHOP, currency="€", invented=True, first_id=0)
    lead, volunteer = _people(workshop)
    rig = _frame(workshop, lead, now)
    procedures = ensure_standard_procedures(workshop, rig)
    materials = {
        m.name: add_material(workshop, m.name, m.family, density=m.density, price=m.price)
        for m in MATERIALS
    }
    printer, solid = furnish(workshop, lead, materials, now)
    shop = Shop(workshop, lead, volunteer, printer, solid, now)
    for question in QUESTIONS:
        chosen = [materials[name] for name in question.materials]
        draft = of_materials(
            question.text,
            chosen,
            procedures,
            question.replicates,
            question.seed,
            recipe=solid,
            printer=printer,
        )
        asked = now - timedelta(days=question.days_ago + 3)
        campaign = plan_campaign(workshop, lead, draft, asked)
        make_all(shop, campaign, now - timedelta(days=question.days_ago, hours=20))
        gather_statistics()
        _Simulation(question, campaign, (lead, volunteer), now).run()
    one_factor(shop, materials["Fernhall PETG"], procedures[1])
    gather_statistics()
    three = [materials[n] for n in PAWL_MATERIALS]
    pawl(workshop, (lead, volunteer), three, rig, now)
    arm(shop, materials, rig)
    slam(shop, [materials["Fernhall PLA"], materials["Fernhall PETG"]], procedures[0])
    oven(shop, materials["Fernhall PLA"], procedures)
    vessels = furnish_heat(shop)
    bath(shop, materials["Fernhall PLA"], procedures, vessels["bath"])
    salt(shop, materials["Fernhall PLA"], procedures, vessels["oven"])
    guide(shop, three)
    _at_the_end(shop, [materials["Fernhall PLA"], materials["Fernhall PETG"]], procedures[0])
    return True


def _frame(workshop: Workshop, lead: Any, now: datetime) -> Rig:
    """The pull frame with a certificate of last year and one of this: invented figures, wear to be seen."""
    rig = Rig.objects.create(
        workshop=workshop,
        name="Pull frame A",
        capacity=750.0,
        resolution=0.1,
        relative_error=0.01,
        location="under the north stair",
        instrument="sim:load-cell",
        note="hanging scale in a hand-cranked frame",
    )
    day = now.date()
    for years, drift, name in ((2, 0.001, "GT-0117"), (1, 0.0035, "GT-0243")):
        on = day - timedelta(days=365 * years - 40)
        points = [
            CalibrationPoint(load, round(load * (1 + drift + 0.0004 * i), 2), 0.002 * load)
            for i, load in enumerate((50.0, 150.0, 300.0, 450.0, 600.0, 750.0))
        ]
        add_calibration(
            rig,
            lead,
            Certificate(on, on + timedelta(days=365), name, "the trust’s own weights", points),
        )
    return rig


def _at_the_end(shop: Shop, bars: list[Material], procedure: Procedure) -> None:
    """What rests on all that went before: bring-up, flakes, the check standards, the load cases."""
    brought_up(shop)
    flakes(shop)
    gather_statistics()
    check_bars(shop, bars, procedure)
    _load_cases(shop)
    asked = "Which plain filament"
    broken = Specimen.objects.filter(campaign__question__startswith=asked, turns__state="broken")
    photograph(broken.earliest("id"), shop.lead, shop.now)


def _load_cases(shop: Shop) -> None:
    """What the tests were for: an arm that is pulled at across its layers, a pawl that is bent, invented."""
    for question, name, mode, direction, typed in LOAD_CASES:
        campaign = Campaign.objects.get(workshop=shop.workshop, question=question)
        sure = {"known": "few", "jerk": "jerk", "harm": "damage"}
        load_cases.add_load_case(campaign, shop.lead, shop.now, name, mode, direction, typed, sure)


def _people(workshop: Workshop) -> Any:
    users = []
    for name, role, rights in (
        ("bench-lead", "bench lead", OWNER),
        ("volunteer", "volunteer", TESTER),
    ):
        user, _ = get_user_model().objects.get_or_create(username=name)
        user.set_unusable_password()
        user.save()
        ensure_seat(user, workshop, role, rights)
        users.append(user)
    return users


class _Simulation:
    """One campaign's readings."""

    def __init__(
        self, question: DemoQuestion, campaign: Campaign, people: Any, now: datetime
    ) -> None:
        self.question, self.campaign, self.people = question, campaign, people
        self.random = Random(question.seed)
        self.at = now - timedelta(days=question.days_ago)
        self.behaviour = {m.name: m for m in MATERIALS}

    def run(self) -> None:
        """Test every specimen but those that still wait."""
        turns = list(
            in_test_order(self.campaign).select_related(
                "condition__material", "procedure__rig", "campaign", "specimen"
            )
        )
        for turn in turns[: len(turns) - self.question.untested]:
            self._test(turn)

    def _test(self, turn: Turn) -> None:
        incident = next(
            (
                i
                for i in self.question.incidents
                if (i.material, i.orientation, i.replicate)
                == (turn.condition.label, turn.procedure.orientation, turn.replicate)
            ),
            Incident("", "", 0),
        )
        self.at += timedelta(seconds=self.random.randint(70, 190))
        width, thickness = self.random.gauss(5.02, 0.03), self.random.gauss(2.01, 0.02)
        entry = Entry(
            key=UUID(int=self.random.getrandbits(128), version=4),
            at=self.at,
            inputs={
                "force": self._load(turn, incident, width * thickness),
                "width": f"{width:.2f}",
                "thickness": f"{thickness:.2f}",
            },
            outcome=incident.outcome,
            place=""
            if incident.outcome != "broke"
            else incident.place or self.random.choice(_PLACES),
            reason=incident.reason,
            note=incident.note,
        )
        by = self.random.choice(self.people)
        test = record_test(turn, by, entry).test
        if test and incident.excluded:
            exclude(test, incident.excluded, by, self.at)
        if incident.another:
            another_replicate(turn.specimen, by, self.at)

    def _load(self, specimen: Turn, incident: Incident, section: float) -> str:
        mean, cv = getattr(self.behaviour[specimen.condition.label], specimen.procedure.orientation)
        stress = self.random.gauss(mean, mean * cv) * incident.factor
        unit, newtons, places = self.random.choice(_UNITS)
        return f"{stress * section / newtons:.{places}f} {unit}"
