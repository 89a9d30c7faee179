"""The louvre pawl: bent, struck, twisted, hung and left under load; invented by seeded simulation."""

from datetime import datetime, timedelta
from math import acos, cos, degrees, pi, radians
from random import Random
from typing import Any
from uuid import UUID

import numpy as np

from brunt_core.methods.impact import STANDARD_GRAVITY
from brunt_web.campaigns.actions.make import mark_as_made
from brunt_web.campaigns.actions.plan_campaign import plan_campaign
from brunt_web.campaigns.drafts import of_materials
from brunt_web.campaigns.models import Campaign, Turn
from brunt_web.campaigns.queries import in_test_order
from brunt_web.library.actions.standard_procedures import STARTERS, ensure_starter
from brunt_web.library.models import Material, Rig
from brunt_web.people.models import Workshop
from brunt_web.testing.actions import timed
from brunt_web.testing.actions.curves import bring_curve
from brunt_web.testing.actions.record_test import Entry, record_test

PAWL = "What should the louvre pawl be made of?"
PAWL_MATERIALS = ("Fernhall PLA", "Fernhall PETG", "Tarn PA12")
# Invented: flexural strength MPa and modulus MPa, impact kJ/m², torsional strength MPa.
_BEHAVIOUR = {
    "Fernhall PLA": (84.0, 3050.0, 14.0, 38.0),
    "Fernhall PETG": (66.0, 1950.0, 31.0, 33.0),
    "Tarn PA12": (58.0, 1380.0, 62.0, 36.0),
}
_WAITING = {"flexure": 4, "impact": 4, "torsion": 5, "cantilever": 6, "creep": 2}


def pawl(
    workshop: Workshop, people: Any, materials: list[Material], frame: Rig, now: datetime
) -> Campaign:
    """Plan it, test most of it, leave clocks running and one curve imported."""
    wrench = Rig.objects.create(
        workshop=workshop,
        name="Torque adapter",
        dimension="torque",
        capacity=20.0,
        resolution=0.01,
        relative_error=0.02,
        note="digital adapter on a hand-turned spindle",
    )
    rigs = {"force": frame, "torque": wrench}
    wanted = ("flexure", "impact", "torsion", "cantilever", "creep")
    starters = {s.method: s for s in STARTERS}
    procedures = [ensure_starter(workshop, starters[m], rigs) for m in wanted]
    draft = of_materials(PAWL, materials, procedures, 4, 23)
    campaign = plan_campaign(workshop, people[0], draft, now - timedelta(days=12))
    for condition in campaign.conditions.all():
        made = now - timedelta(days=8)
        mark_as_made(
            campaign, condition, people[1], made, "printed elsewhere", "on the school's printer"
        )
    _Bench(campaign, people, now).run()
    return campaign


class _Bench:
    """The campaign's readings."""

    def __init__(self, campaign: Campaign, people: Any, now: datetime) -> None:
        self.campaign, self.people, self.now = campaign, people, now
        self.random = Random(31)
        self.at = now - timedelta(days=6)

    def run(self) -> None:
        """Every procedure but the specimens that still wait at the end of its queue."""
        by_method: dict[str, list[Turn]] = {}
        shown = ("condition__material", "procedure__rig", "campaign", "specimen")
        for specimen in in_test_order(self.campaign).select_related(*shown):
            by_method.setdefault(specimen.procedure.method_key, []).append(specimen)
        for method, specimens in by_method.items():
            for specimen in specimens[: len(specimens) - _WAITING[method]]:
                self.at += timedelta(seconds=self.random.randint(60, 150))
                getattr(self, f"_{method}")(specimen)
        self._curve(next(s for s in by_method["flexure"] if s.condition.label == "Fernhall PLA"))

    def _near(self, specimen: Turn, which: int, cv: float) -> float:
        mean = _BEHAVIOUR[specimen.condition.label][which]
        return self.random.gauss(mean, mean * cv)

    def _section(self) -> tuple[float, float]:
        return self.random.gauss(10.04, 0.03), self.random.gauss(4.02, 0.02)

    def _record(
        self, specimen: Turn, inputs: dict[str, str], outcome: str, place: str = "", **more: Any
    ) -> None:
        key = UUID(int=self.random.getrandbits(128), version=4)
        entry = Entry(key=key, at=self.at, inputs=inputs, outcome=outcome, place=place, **more)
        record_test(specimen, self.random.choice(self.people), entry)

    def _flexure(self, specimen: Turn) -> None:
        width, height = self._section()
        stress, modulus = self._near(specimen, 0, 0.03), self._near(specimen, 1, 0.03)
        tough = specimen.condition.label == "Tarn PA12"
        force = stress * 2 * width * height**2 / (3 * 64)
        slope = modulus * 4 * width * height**3 / 64**3
        inputs = {
            "force": f"{force:.1f} N",
            "slope": f"{slope:.2f} N/mm",
            "deflection": f"{force / slope * (1.9 if tough else 1.25):.2f}",
            "width": f"{width:.2f}",
            "thickness": f"{height:.2f}",
        }
        self._record(
            specimen,
            inputs,
            "held" if tough else "broke",
            "" if tough else "under_load",
            note="bent to the end of the travel, whole" if tough else "",
        )

    def _impact(self, specimen: Turn) -> None:
        width, height = self._section()
        energy = self._near(specimen, 2, 0.11) * width * height * 1e-3
        moment = 1.2 * STANDARD_GRAVITY * 0.31
        loss = moment * (cos(radians(138)) - cos(radians(140)))
        swung = cos(radians(140)) + (energy + 0.85 * loss) / moment
        end = degrees(acos(min(swung, 1.0)))
        kinds = {"Fernhall PETG": ("broke", "broke", "hinged"), "Tarn PA12": ("hinged",)}
        outcome = self.random.choice(kinds.get(specimen.condition.label, ("broke",)))
        inputs = {"end_angle": f"{end:.1f}", "width": f"{width:.2f}", "thickness": f"{height:.2f}"}
        self._record(specimen, inputs, outcome)

    def _torsion(self, specimen: Turn) -> None:
        diameter = self.random.gauss(8.03, 0.02)
        torque = self._near(specimen, 3, 0.05) * pi * diameter**3 / 16e3
        if specimen.condition.label == "Fernhall PETG" and specimen.replicate == 3:
            torque *= 2.1
        soft = specimen.condition.label != "Fernhall PLA"
        inputs = {
            "torque": f"{torque:.2f} N·m",
            "torque_at_90": f"{torque * (0.93 if soft else 0.99):.2f} N·m",
            "angle_at_break": f"{self.random.gauss(410 if soft else 130, 20):.0f}",
            "diameter": f"{diameter:.2f}",
        }
        self._record(specimen, inputs, "broke", "gauge", mode="helix_along_45°")

    def _cantilever(self, specimen: Turn) -> None:
        width, height = self._section()
        modulus = self._near(specimen, 1, 0.04) * 0.96
        sag = 4 * STANDARD_GRAVITY * 50**3 / (modulus * width * height**3)
        inputs = {
            "deflection": f"{sag:.2f}",
            "width": f"{width:.2f}",
            "thickness": f"{height:.2f}",
        }
        began = self.at - timedelta(seconds=self.random.uniform(4.6, 5.6))
        timed.start_clock(specimen, self.people[0], began)
        self._record(specimen, inputs, "held")

    def _creep(self, specimen: Turn) -> None:
        """Loaded three days and a few hours ago: the reading of the third day waits."""
        self.at = self.now - timedelta(days=3, hours=self.random.uniform(-6, 5))
        begun = self.at
        timed.start_clock(specimen, self.people[1], begun)
        base = 9.0e3 / _BEHAVIOUR[specimen.condition.label][1]
        for due in (60.0, 3600.0, 86400.0):
            value = 1.02 + base * (0.05 * (due / 60) ** 0.21)
            at = begun + timedelta(seconds=due * self.random.uniform(1.0, 1.03))
            key = UUID(int=self.random.getrandbits(128), version=4)
            text = f"{value:.2f} mm"
            taken = timed.Taken(key=key, at=at, input="readings", due=due, text=text)
            timed.take(specimen, self.people[1], taken)

    def _curve(self, specimen: Turn) -> None:
        """A curve as a logging frame writes it, to the load and slope read: a toe, a rise, a knee, a drop."""
        read = {r.key: r.text.split()[0] for r in specimen.test.readings.all()}
        peak, slope, toe = float(read["force"]), float(read["slope"]), 0.25
        top = 1.35 * peak
        end = toe + np.log(1 / (1 - peak / top)) * top / slope
        x = np.linspace(0.0, end * 1.06, 900)
        rise = np.where(x < 2 * toe, slope * x**2 / (4 * toe), slope * (x - toe))
        force = top * (1 - np.exp(-rise / top)) * (x < end) + self._noise(len(x))
        lines = "\n".join(
            f"{a:.3f};{b:.2f}".replace(".", ",") for a, b in zip(x, force, strict=True)
        )
        text = f"Travel [mm];Load [N]\n{lines}\n"
        bring_curve(specimen, self.people[0], self.now, "frame-A.csv", text.encode())

    def _noise(self, count: int) -> np.ndarray:
        return np.random.default_rng(5).normal(0.0, 0.15, count)
