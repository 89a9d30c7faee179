"""The one list of what may be told by a link: which tables, and of each the columns of text and documents.

Numbers, moments, references and choices of a told table go out with it. Text goes out only where it stands here, with
every name by number; a column that is added to a model stays in the house until somebody writes it down here.
"""

from django.db import models

from brunt_web.packages.tables import Table

_TEXT = ("CharField", "TextField", "JSONField", "FileField")

# What is told of each table; one that is not named here goes out empty.
TOLD = {
    "materials": "name filler note",
    "lots": "name colour note",
    "dryings": "",
    "rigs": "name dimension",
    "calibrations": "certificate figures",
    "printers": "name",
    "specimen_types": "name shape sizes part",
    "sealings": "",
    "blend_parts": "",
    "part_meshes": "source_name unit remarks views faces",
    "recipes": "name reason settings",
    "procedures": "name method_key orientation specimen_type conditioning standard ranked_by parameters reading_times",
    "further_rigs": "",
    "day_readings": "key text",
    "vessels": "name",
    "own_treatments": "name event steps",
    "campaigns": "question shape design notes",
    "campaign_procedures": "",
    "base_recipes": "",
    "factors": "kind name setting",
    "levels": "label specimen_type",
    "conditions": "label detail requirements",
    "accepted": "key sentence reason",
    "specimens": "code own_id note made made_how outstanding lies_in made_as defects outstanding_steps deviations",
    "turns": "conditioning state outcome place excluded_because untimely tested_as",
    "history": "kind what detail",
    "batches": "orientation",
    "plates": "dryness used_from settings used",
    "print_attempts": "bed_surface adhesive enclosure note defects",
    "prints": "note settings defects",
    "grades": "measured_text note",
    "measurements": "key text",
    "tests": "outcome place mode reason note exclusion_reason untimely answers assumed",
    "readings": "key text unit",
    "results": "property_key formula source computed_by_version steps",
    "clocks": "load_step passed",
    "timed_readings": "key load_step text",
    "curves": "name picks notes",
    "photos": "caption file",
    "picture_readings": "kind name text picks",
    "runs": "kind_key event what state accepted note texts",
    "run_steps": "key label order ends",
    "inside": "fate reason",
    "run_log": "what text source",
    "reports": "summary authors",
    "report_photos": "",
    "check_standards": "name",
    "check_phases": "because",
}


def is_told(table: Table) -> bool:
    """Whether anything of a table goes out by a link."""
    return table.name in TOLD


def may_tell(table: Table, field: models.Field) -> bool:
    """Whether a column's own words go out by a link."""
    if field.is_relation or field.get_internal_type() not in _TEXT or field.flatchoices:
        return True
    return field.name in TOLD.get(table.name, "").split()
