"""The cable guide: a part of the workshop's own from a mesh file, loaded by weights; and how its recipe was found."""

from datetime import datetime, timedelta
from random import Random
from uuid import UUID

from django.contrib.auth.models import User

from brunt_web.campaigns.actions.plan_campaign import plan_campaign
from brunt_web.campaigns.drafts import of_materials
from brunt_web.campaigns.models import Campaign, Turn
from brunt_web.campaigns.queries import in_test_order
from brunt_web.demonstration.workshop import Shop, make_all
from brunt_web.library.actions.lots import note_air, seal
from brunt_web.library.actions.parts import Marks, add_part, mark_part
from brunt_web.library.actions.procedures import ProcedureDraft, add_procedure
from brunt_web.library.actions.tuning import TrialDraft, tuning
from brunt_web.library.models import Lot, Material, Procedure, Recipe, SpecimenVariant
from brunt_web.printing.actions.attempts import AttemptDraft, note_failed
from brunt_web.printing.models import Plate
from brunt_web.testing.actions.record_test import Entry, record_test

GUIDE = "What does the cable guide carry, and where does it crack?"
# Invented: kilograms at which a guide of each material cracks.
_CARRIES = {"Fernhall PLA": 9.4, "Fernhall PETG": 11.2, "Tarn PA12": 12.9}


def cable_guide() -> bytes:
    """An angle with a rounded foot, an eye for the cable and a hole for its screw, as STL in mm."""
    import trimesh

    foot = trimesh.creation.box((60, 18, 6)).apply_translation((30, 0, 3))
    lip = trimesh.creation.box((6, 18, 34)).apply_translation((3, 0, 17))
    end = trimesh.creation.cylinder(9, 6, sections=72).apply_translation((60, 0, 3))
    whole = trimesh.boolean.union([foot, lip, end], engine="manifold")
    eye = trimesh.creation.cylinder(4, 20, sections=48).apply_translation((60, 0, 3))
    turn = trimesh.transformations.rotation_matrix(1.5707963267948966, (0, 1, 0))
    screw = trimesh.creation.cylinder(2.2, 20, sections=36).apply_transform(turn)
    screw.apply_translation((3, 0, 25))
    cut = trimesh.boolean.difference([whole, eye, screw], engine="manifold")
    return bytes(cut.export(file_type="stl"))


def guide(shop: Shop, materials: list[Material]) -> Campaign:
    """Three materials, four guides each, loaded a kilogram at a time; one cracks while it is screwed on."""
    part = add_part(shop.workshop, "Cable guide", cable_guide(), "cable-guide.stl")
    _mark(part)
    procedure = add_procedure(
        shop.workshop,
        ProcedureDraft(
            name="Guide by weights",
            method="part-break",
            specimen_type=f"own-{part.pk}",
            standard="No standard: a kilogram at a time on a hook in the eye, ten seconds each.",
        ),
    )
    campaign = _plan(shop, materials, procedure)
    make_all(shop, campaign, shop.now - timedelta(days=6, hours=20))
    random, at = Random(53), shop.now - timedelta(days=5)
    turns = in_test_order(campaign).select_related(
        "condition__material", "procedure__rig", "procedure__variant", "campaign", "specimen"
    )
    for turn in list(turns)[:-2]:
        at += timedelta(minutes=random.randint(3, 6))
        _load(random, turn, random.choice((shop.lead, shop.volunteer)), at)
    return campaign


def _plan(shop: Shop, materials: list[Material], procedure: Procedure) -> Campaign:
    draft = of_materials(
        GUIDE, materials, [procedure], 4, 53, recipe=shop.recipe, printer=shop.printer
    )
    return plan_campaign(shop.workshop, shop.lead, draft, shop.now - timedelta(days=8))


def _mark(part: SpecimenVariant) -> None:
    """The load in the eye, the section by the corner, where it may fail first; it rests on its lip."""
    long = part.sizes["overall"]
    far = long - 9.0
    mark_part(
        part,
        Marks(
            load=(0.0, far - 4.5, 6.0),
            direction=(0.0, 0.0, -1.0),
            axis="y",
            at=7.0,
            places=[
                ("inner corner", (0.0, 6.5, 6.0)),
                ("eye", (6.0, far, 6.0)),
                ("screw hole", (0.0, 6.0, 25.0)),
            ],
            fixtures="one M4 screw and washer, 0.6 N·m",
        ),
    )


def _load(random: Random, turn: Turn, by: User, at: datetime) -> None:
    name = turn.condition.label
    key = UUID(int=random.getrandbits(128), version=4)
    if name == "Fernhall PLA" and turn.replicate == 2:
        entry = Entry(key, at, {}, "cracked_at_assembly", place="screw_hole", note="split as the screw went home")  # fmt: skip
        record_test(turn, by, entry)
        return
    broke = random.gauss(_CARRIES[name], 0.5)
    inputs = {"force": f"{int(broke)} .. {int(broke) + 1} kgf", "mass": f"{random.gauss(10.8, 0.1):.2f} g"}  # fmt: skip
    place = "inner_corner" if random.random() < 0.75 else "eye"
    record_test(turn, by, Entry(key, at, inputs, "between", place=place))


def brought_up(shop: Shop) -> None:
    """How the everyday recipe got its heat; a plate that took two attempts; a spool in a box; the air."""
    everyday = Recipe.objects.filter(workshop=shop.workshop, name="Everyday parts").first()
    if everyday:
        rows = ((245, 2), (240, 3), (235, 4), (230, 5), (225, 5), (220, 3))
        draft = TrialDraft("temperature", "nozzle_temperature", rows, note="PETG, spool 31")
        tuning(everyday, shop.lead, shop.now - timedelta(days=20), draft)
    waiting = Plate.objects.filter(batch__campaign__workshop=shop.workshop, printed_at=None).first()
    if waiting:
        wrong = AttemptDraft(("lifted_corners",), bed_surface="textured steel", brim=0.0)
        note_failed(waiting, shop.volunteer, shop.now - timedelta(hours=20), wrong)
    asa = Lot.objects.filter(workshop=shop.workshop, material__name="Tarn ASA").first()
    if asa:
        seal(asa, shop.volunteer, shop.now - timedelta(hours=9), 0.18)
    for hours, humidity in ((70, 0.61), (46, 0.66), (22, 0.63)):
        at = shop.now - timedelta(hours=hours)
        note_air(shop.workshop, shop.volunteer, at, humidity, 291.15)
