"""A campaign of any method for tests; its numbers are made up."""

from brunt_core.methods.registry import methods
from brunt_web.campaigns.actions.plan_campaign import plan_campaign
from brunt_web.campaigns.drafts import of_materials
from brunt_web.library.actions.add_material import add_material
from brunt_web.library.actions.standard_procedures import STARTERS, Starter, ensure_starter
from brunt_web.library.models import Rig
from tests.support.workshop import made


def typed_of(method: str) -> dict[str, str]:
    """What is typed at the bench of a method, beside what its procedure fixes."""
    one = methods()[method]
    fixed = {i.key for i in one.fixed}
    return {k: v for k, v in one.example.items() if k not in fixed}


TYPED = {key: typed_of(key) for key in methods()}


def procedure_of(shop, method: str, **changed):
    """The starter procedure of a method, or one made from its example; with changed parameters."""
    rigs = {}
    for dimension, capacity in (("force", 10_000.0), ("torque", 20.0)):
        rigs[dimension], _ = Rig.objects.get_or_create(
            workshop=shop,
            name=f"Test rig, {dimension}",
            defaults={"dimension": dimension, "capacity": capacity, "resolution": 0.01},
        )
    found = ensure_starter(shop, starter_of(method), rigs)
    if changed:
        for key, value in changed.items():
            setattr(found, key, value)
        found.save()
    return found


def starter_of(method: str) -> Starter:
    """The method's ready-made procedure; a plain one where none is written."""
    known = next((s for s in STARTERS if s.method == method), None)
    example = methods()[method].example
    fixed = {i.key: example[i.key] for i in methods()[method].fixed if i.key in example}
    bar = "torsion-round" if "diameter" in example else "bend-80"
    return known or Starter(f"Plain {method}", method, bar, "", parameters=fixed)


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
    draft = of_materials(f"Which by {method}?", chosen, [procedure], replicates, seed=5)
    return made(plan_campaign(shop, user, draft), user)
