"""A small workshop for tests; its numbers are made up."""

from datetime import UTC, datetime
from uuid import uuid4

from django.contrib.auth import get_user_model

from brunt_web.campaigns.actions.make import mark_as_made
from brunt_web.campaigns.actions.plan_campaign import plan_campaign
from brunt_web.campaigns.drafts import of_materials
from brunt_web.campaigns.models import Turn
from brunt_web.library.actions.add_material import add_material
from brunt_web.library.actions.standard_procedures import ensure_standard_procedures
from brunt_web.library.models import Rig
from brunt_web.people.actions.seats import ensure_seat
from brunt_web.people.models import Workshop
from brunt_web.testing.actions.record_test import Entry, record_test

NOW = datetime(2026, 3, 2, 9, 30, tzinfo=UTC)
BACKEND = "brunt_web.people.backend.SeatBackend"


def person(name: str = "tester", workshop: Workshop | None = None):
    """A user with a seat."""
    user, _ = get_user_model().objects.get_or_create(username=name)
    ensure_seat(user, workshop or Workshop.objects.get_or_create(name=f"Bench of {name}")[0])
    return user


def made(one, user, at=NOW):
    """Every specimen of a campaign is made, somewhere else; returns the campaign."""
    for condition in one.conditions.all():
        if condition.specimens.filter(made="planned").exists():
            mark_as_made(one, condition, user, at, "printed elsewhere")
    return one


def turns_of(one, **where):
    """The turns of a campaign as the bench takes them up, in test order."""
    return Turn.objects.filter(campaign=one, **where).select_related(
        "specimen", "condition__material", "procedure__rig", "procedure__variant", "campaign"
    )


def turn(specimen, step=0):
    """One turn of a specimen, read again."""
    return Turn.objects.select_related(
        "specimen", "condition__material", "procedure__rig", "procedure__variant", "campaign"
    ).get(specimen__code=getattr(specimen, "code", specimen), step=step)


def put(specimen, user, one, replace=False, step=0):
    """Record a test of a specimen (or turn) as it stands now."""
    return record_test(turn(specimen, getattr(specimen, "step", step)), user, one, replace)


def campaign(
    user,
    materials=("Fernhall PLA", "Tarn ASA"),
    replicates=3,
    orientations=("flat", "upright"),
    question="Which for the pawl?",
    printed=True,
):
    """A campaign with a rig, its specimens made unless ``printed`` says otherwise."""
    shop = user.seat.workshop
    rig, _ = Rig.objects.get_or_create(
        workshop=shop, name="Test frame", defaults={"capacity": 1000.0, "resolution": 0.1}
    )
    procedures = [p for p in ensure_standard_procedures(shop, rig) if p.orientation in orientations]
    known = {m.name: m for m in shop.materials.all()}
    chosen = [
        known.get(n) or add_material(shop, n, "asa" if "ASA" in n else "pla") for n in materials
    ]
    one = plan_campaign(shop, user, of_materials(question, chosen, procedures, replicates, seed=5))
    return made(one, user) if printed else one


def entry(load: str = "500 N", outcome: str = "broke", **more) -> Entry:
    """An entry on a 5 × 2 mm section."""
    inputs = {"force": load, "width": "5 mm", "thickness": "2 mm"}
    return Entry(more.pop("key", None) or uuid4(), NOW, inputs, outcome, **more)


def fill(one, user, loads: dict[str, list[str]], orientation="flat"):
    """Test the specimens of each material with these loads."""
    for label, texts in loads.items():
        found = turns_of(one, condition__label=label, procedure__orientation=orientation)
        for each, text in zip(found.order_by("specimen__replicate"), texts, strict=False):
            record_test(each, user, entry(text, "held" if text.startswith(">") else "broke"))
