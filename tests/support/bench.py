"""A campaign of any method for tests; its numbers are made up."""

from brunt_web.campaigns.actions.plan_campaign import plan_campaign
from brunt_web.campaigns.drafts import of_materials
from brunt_web.library.actions.add_material import add_material
from brunt_web.library.actions.standard_procedures import STARTERS, ensure_starter
from brunt_web.library.models import Rig

BAR = {"width": "10.02", "thickness": "4.01"}
PULLED = {"force": "500 N", "width": "5", "thickness": "2"}

# What is typed at the bench of each method, beside what its procedure fixes.
TYPED: dict[str, dict[str, str]] = {
    "tension": {**PULLED, "extension_at_break": "1.2"},
    "layer-adhesion": {**PULLED, "force": "300 N"},
    "flexure": {**BAR, "force": "131 N", "deflection": "6", "slope": "28"},
    "impact": {**BAR, "end_angle": "128"},
    "torsion": {
        "diameter": "8.02",
        "torque": "3.6",
        "torque_at_90": "3.4",
        "angle_at_break": "200",
    },
    "cantilever": {**BAR, "deflection": "2.4"},
    "clamp-retention": {
        "heights": "0 s: 8.42; 1 h: 8.39; 1 d: 8.38",
        "retorques": "1 h: 1.3; 1 d: 1.2",
    },
    "compression": {"width": "10", "thickness": "10", "force": "6 kN", "shortening": "1.2"},
    "creep": {**BAR, "readings": "1 min: 1.02; 1 h: 1.10; 1 d: 1.31; 3 d: 1.40"},
    "deflection-ladder": {
        **BAR,
        "ladder": "5 N @ 1 s: 0.21 mm; 5 N @ 60 s: 0.22 mm; 10 N @ 1 s: 0.41 mm; 15 N @ 1 s: 0.62",
    },
    "dimensional": {"length_before": "60", "length_after": "59.6"},
    "double-shear": {"diameter": "6", "force": "1.6 kN"},
    "drop": {"drops": "400: pass; 450: fail; 400: pass; 450: pass; 500: fail"},
    "heat-sag": {"temperature_at_sag": "56", "temperature_at_collapse": "63", **BAR},
    "hook": {"force": "210 N", "yield_force": "160 N", "mass": "12 g"},
    "impact-relative": {"dial_with": "62"},
    "mass": {"mass_before": "4.000 g", "mass_after": "4.012 g"},
    "measure": {"value": "78"},
    "part-break": {"force": "6 .. 8 kgf", "mass": "22 g"},
    "pull-out": {"force": "820 N", "insertion_temperature": "240"},
}


def procedure_of(shop, method: str, **changed):
    """The starter procedure of a method, with changed parameters."""
    rigs = {}
    for dimension, capacity in (("force", 10_000.0), ("torque", 20.0)):
        rigs[dimension], _ = Rig.objects.get_or_create(
            workshop=shop,
            name=f"Test rig, {dimension}",
            defaults={"dimension": dimension, "capacity": capacity, "resolution": 0.01},
        )
    found = ensure_starter(shop, next(s for s in STARTERS if s.method == method), rigs)
    if changed:
        for key, value in changed.items():
            setattr(found, key, value)
        found.save()
    return found


def bench_of(
    user, method: str, replicates: int = 3, materials=("Fernhall PLA", "Tarn ASA"), **changed
):
    """A planned campaign of one method."""
    shop = user.seat.workshop
    known = {m.name: m for m in shop.materials.all()}
    chosen = [
        known.get(n) or add_material(shop, n, "asa" if "ASA" in n else "pla") for n in materials
    ]
    procedure = procedure_of(shop, method, **changed)
    return plan_campaign(
        shop, user, of_materials(f"Which by {method}?", chosen, [procedure], replicates, seed=5)
    )
