"""What a package holds: a table for each kind of row, with how its rows are found for a campaign."""

from collections.abc import Iterator
from dataclasses import dataclass

from django.db import models

from brunt_web.campaigns import models as campaigns
from brunt_web.checks import models as checks
from brunt_web.days import models as days
from brunt_web.decisions.models import LoadCase
from brunt_web.exchange.models import DataImport, DataImportRow, HeadingMeaning
from brunt_web.feedstock import models as feedstock
from brunt_web.library import models as library
from brunt_web.people.models import Workshop
from brunt_web.printing import models as printing
from brunt_web.publishing.models import Report, ReportPhoto
from brunt_web.results import models as results
from brunt_web.testing import models as testing
from brunt_web.treatments import models as treatments

FORMAT = 4


@dataclass(frozen=True)
class Table:
    """A table: its name, its model, what it holds in words, and the path from a row to its campaign.

    Without a path its rows belong to the library and come along where others refer to them.
    ``whole`` marks that its rows only come with a whole workshop, by the path to that.
    """

    name: str
    model: type[models.Model]
    words: str
    path: str = ""
    whole: bool = False


TABLES = (
    Table("materials", library.Material, "what was bought or mixed; density kg/m³, price of a kg"),
    Table("lots", library.Lot, "spools, bottles and bags; masses kg, price of the lot"),
    Table("dryings", library.Drying, "dryings of lots; temperature K, duration s, masses kg"),
    Table("rigs", library.Rig, "rigs; capacity and resolution in SI, relative error a share"),
    Table("calibrations", library.Calibration, "certificates of rigs; figures applied, read, expanded uncertainty in SI"),
    Table("printers", library.Printer, "printers; bed m"),
    Table("specimen_types", library.SpecimenVariant, "custom specimen types; sizes mm"),
    Table("sealings", library.Sealing, "when lots were in a sealed box; humidity a share"),
    Table("blend_parts", library.BlendPart, "what a blend was mixed of; kg"),
    Table("part_meshes", library.PartMesh, "custom parts from mesh files: the body in its orientation, the original file"),
    Table("recipes", library.Recipe, "recipes with every setting, by version"),
    Table("procedures", library.Procedure, "methods with their parameters fixed; speed m/s, preload N"),
    Table("further_rigs", library.Procedure.also_on.through, "rigs that a procedure may be done on besides its own"),
    Table("day_readings", testing.DayReading, "what was read of a rig for a day: start angle, free swing"),
    Table("vessels", treatments.Vessel, "ovens, baths, cabinets"),
    Table("own_treatments", treatments.OwnKind, "treatments of the workshop's own"),
    Table("campaigns", campaigns.Campaign, "questions with their plan", "pk"),
    Table("campaign_procedures", campaigns.CampaignProcedure, "the columns of a campaign", "campaign"),
    Table("base_recipes", campaigns.BaseRecipe, "the recipe a material or procedure starts from", "campaign"),
    Table("factors", campaigns.Factor, "what was varied", "campaign"),
    Table("levels", campaigns.Level, "the levels of factors; value in SI", "factor__campaign"),
    Table("conditions", campaigns.Condition, "combinations of levels: what is compared", "campaign"),
    Table("accepted", campaigns.AcceptedConfounder, "confounders accepted with a reason", "campaign"),
    Table("specimens", campaigns.Specimen, "specimens with their IDs and states", "campaign"),
    Table("turns", campaigns.Turn, "a specimen's test under a procedure, in run order", "campaign"),
    Table("history", campaigns.HistoryEvent, "everything that happened to a specimen", "specimen__campaign"),
    Table("batches", printing.Batch, "prints of one recipe on one printer; gap mm", "campaign"),
    Table("plates", printing.Plate, "plates of a batch", "batch__campaign"),
    Table("print_attempts", printing.PrintAttempt, "attempts at plates that failed; brim mm", "plate__batch__campaign"),
    Table("prints", printing.Print, "position of each specimen; mm", "plate__batch__campaign"),
    Table("grades", printing.Grade, "printability", "batch__campaign"),
    Table("measurements", testing.Measurement, "sizes and masses as typed and in SI", "moment__specimen__campaign"),
    Table("tests", testing.Test, "tests with outcome, place and mode", "turn__campaign"),
    Table("readings", testing.Reading, "readings as typed and in SI, with bounds", "test__turn__campaign"),
    Table("results", results.Result, "results in SI with bounds, uncertainty, formula", "turn__campaign"),
    Table("clocks", testing.Clock, "clocks of timed tests", "turn__campaign"),
    Table("timed_readings", testing.TimedReading, "readings at set times; s and SI", "turn__campaign"),
    Table("curves", testing.Curve, "load curves as they were imported", "turn__campaign"),
    Table("asked_curves", testing.AskedCurve, "curves with an open question", "turn__campaign"),
    Table("photos", testing.Photo, "photos of specimens", "specimen__campaign"),
    Table("picture_readings", testing.PictureReading, "what was picked on photos; picks in pixels, values in SI", "photo__specimen__campaign"),
    Table("runs", treatments.Run, "treatments that specimens went through", "run"),
    Table("run_steps", treatments.RunStep, "their steps; s and K", "run__run"),
    Table("inside", treatments.Inside, "which specimens were in them", "specimen__campaign"),
    Table("run_log", treatments.LogReading, "temperatures and remarks of a run", "run__run"),
    Table("load_cases", LoadCase, "load cases, and what was chosen", "campaign"),
    Table("data_import", DataImport, "imports", "campaign"),
    Table("data_import_rows", DataImportRow, "the rows of imports", "data_import__campaign"),
    Table("reports", Report, "text of the report", "campaign"),
    Table("report_photos", ReportPhoto, "photos chosen for the report", "report__campaign"),
    Table("tuning_trials", library.Tuning, "tuning trials of recipes", "recipe__workshop", whole=True),
    Table("check_standards", checks.CheckStandard, "reference materials under a procedure", "workshop", whole=True),
    Table("check_phases", checks.Phase, "days from which a check standard's level is another", "check_standard__workshop", whole=True),
    Table("feedstock_qualifications", feedstock.Qualification, "feedstock qualifications", "workshop", whole=True),
    Table("feedstock_attempts", feedstock.Attempt, "attempts at a qualification step", "qualification__workshop", whole=True),
    Table("feedstock_pictures", feedstock.Picture, "pictures of particles; scale m a pixel", "qualification__workshop", whole=True),
    Table("room_air", library.RoomAir, "the room's air; humidity a share, temperature K", "workshop", whole=True),
    Table("hours", days.Hours, "working hours", "workshop", whole=True),
    Table("own_jobs", days.OwnJob, "jobs added manually; minutes", "workshop", whole=True),
    Table("heading_meanings", HeadingMeaning, "meaning of column headings", "workshop", whole=True),
)  # fmt: skip
BY_MODEL = {t.model: t for t in TABLES}
BY_NAME = {t.name: t for t in TABLES}
# Library rows that come along with what they are of.
ALONG = {
    "dryings": "lot",
    "calibrations": "rig",
    "sealings": "lot",
    "blend_parts": "lot",
    "part_meshes": "variant",
    "day_readings": "procedure",
    "further_rigs": "procedure",
}
SKIPPED = {"workshop", "entry_key", "in_hand_of", "in_hand_since"}
# What an older package does not have: read as empty.
ADDED = {
    *(
        "day_readings",
        "reports",
        "report_photos",
        "check_standards",
        "check_phases",
    ),
    *("feedstock_qualifications", "feedstock_attempts", "feedstock_pictures"),
    *("hours", "own_jobs", "heading_meanings", "part_meshes", "calibrations", "picture_readings"),
    *("sealings", "blend_parts", "room_air", "tuning_trials", "print_attempts", "further_rigs"),
}
# Columns that an older package does not have: read as empty.
LATER_COLUMNS = {
    "specimen_types": {"part"},
    "recipes": {"reason"},
    "dryings": {"started_at"},
    "rigs": {"location", "slowest", "fastest", "due_on", "archived_at", "instrument"},
    "turns": {"rig"},
    "specimens": {"uuid"},
    "asked_curves": {"way"},
    "printers": {"archived_at"},
}
FILES = {(testing.Photo, "file"), (printing.Grade, "photo"), (feedstock.Picture, "file")}
# Where the files of a table lie among what was uploaded, unless it is "photos".
FOLDERS = {"feedstock_pictures": "particles"}
LATER = {
    (campaigns.Campaign, "reference"),
    (campaigns.CampaignProcedure, "after"),
    (campaigns.Specimen, "replaces"),
    (library.Recipe, "parent"),
}


def columns(table: Table) -> Iterator[models.Field]:
    """The fields of a table that are in the package, in the model's order, without the key."""
    for field in table.model._meta.concrete_fields:
        if field.primary_key or field.name in SKIPPED:
            continue
        if field.is_relation and field.related_model is Workshop:
            continue
        yield field


def is_person(field: models.Field) -> bool:
    """Whether a column names a person."""
    to = field.related_model if field.is_relation else None
    return to is not None and to._meta.label == "auth.User"


def target(field: models.Field) -> Table | None:
    """The table a column refers to; none for a person or a plain value."""
    if not field.is_relation or is_person(field):
        return None
    return BY_MODEL.get(field.related_model) if field.related_model else None
