"""Which tables are written down when they change, and how a row of each is called."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Tracked:
    """A table whose changes are kept.

    ``noun`` is what a row is called; ``made`` whether a new row is a change worth telling (what a row
    says of itself, by whom and when, needs no telling); ``only`` the columns that matter, all where it
    is empty; ``hidden`` columns that are never kept; ``parts`` columns a deletion keeps and an edit not;
    ``slot`` the column by which a row that takes another's place in a correction is known.
    """

    noun: str
    made: bool = True
    only: tuple[str, ...] = ()
    hidden: tuple[str, ...] = ()
    parts: tuple[str, ...] = ()
    slot: str = ""


def _told(noun: str, only: str = "") -> Tracked:
    return Tracked(noun, made=False, only=tuple(only.split()))


TRACKED = {
    "people_workshop": _told(
        "workshop", "name currency date_form comma idle_minutes instrument_networks"
    ),
    "people_seat": Tracked("person", hidden=("elsewhere", "single_keys")),
    "people_invitation": Tracked("invitation", hidden=("token",)),
    "auth_user": Tracked(
        "account",
        made=False,
        only=("username", "first_name", "last_name", "email", "is_active"),
        hidden=("password", "last_login"),
    ),
    "library_material": Tracked("material"),
    "library_lot": Tracked("lot"),
    "library_drying": Tracked("drying"),
    "library_sealing": Tracked("sealed box"),
    "library_blendpart": Tracked("part of a blend"),
    "library_roomair": Tracked("room conditions"),
    "library_rig": Tracked("rig"),
    "library_calibration": Tracked("calibration"),
    "library_procedure_also_on": Tracked("other rig of a procedure"),
    "library_specimenvariant": Tracked("specimen type"),
    "library_procedure": Tracked("procedure"),
    "library_printer": Tracked("printer"),
    "library_recipe": Tracked("recipe"),
    "library_tuning": Tracked("tuning"),
    "campaigns_campaign": Tracked("plan"),
    "campaigns_campaignprocedure": _told("procedure of a plan"),
    "campaigns_baserecipe": _told("recipe of a plan"),
    "campaigns_factor": _told("factor"),
    "campaigns_level": _told("level"),
    "campaigns_condition": _told("condition"),
    "campaigns_acceptedconfounder": Tracked("accepted confounder"),
    "campaigns_specimen": _told(
        "specimen", "code own_id note spare condition_id procedure_id replaces_id"
    ),
    "campaigns_turn": _told("test planned", "procedure_id step speed conditioning rig_id"),
    "campaigns_historyevent": _told("history entry", "at what undone_at"),
    "printing_batch": Tracked("batch"),
    "printing_plate": _told("plate", "settings dryness printed_at used used_from"),
    "printing_printattempt": Tracked("attempt at a plate"),
    "printing_print": _told("print", "settings failed defects note plate_id"),
    "printing_grade": Tracked("grade"),
    "testing_measurement": _told("size", "key text value uncertainty"),
    "testing_test": Tracked("test", made=False, slot="turn_id"),
    "testing_reading": Tracked("reading", made=False, slot="key"),
    "testing_timedreading": _told("timed reading"),
    "testing_dayreading": Tracked("reading of the day"),
    "testing_clock": _told("clock", "started_at passed"),
    "testing_curve": Tracked("curve", parts=("data",)),
    "testing_photo": Tracked("photo"),
    "testing_picturereading": Tracked("reading from a picture"),
    "treatments_vessel": Tracked("vessel"),
    "treatments_ownkind": Tracked("custom treatment"),
    "treatments_run": Tracked("treatment run"),
    "treatments_runstep": _told("step of a run"),
    "treatments_inside": _told("specimen in a run", "place out_at fate reason"),
    "treatments_logreading": _told("reading of a log"),
    "days_hours": _told("hours"),
    "days_ownjob": Tracked("own job"),
    "feedstock_qualification": Tracked("feedstock qualification"),
    "feedstock_attempt": Tracked("qualification attempt"),
    "feedstock_picture": Tracked("picture of particles"),
    "checks_checkstandard": Tracked("check standard"),
    "checks_phase": Tracked("phase of a check standard"),
    "decisions_loadcase": Tracked("load case"),
    "publishing_report": Tracked("report"),
    "publishing_reportlink": Tracked("link to a report", hidden=("token", "opened", "opened_at")),
    "exchange_dataimport": Tracked("import"),
    "exchange_dataimportrow": _told("row of an import"),
    "exchange_headingmeaning": Tracked("meaning of a heading"),
    "days_placement": _told("placement in the schedule", "start pinned"),
    "publishing_reportphoto": Tracked("photo of a report"),
    "library_partmesh": Tracked("mesh of a part", parts=("content", "source", "views", "faces")),
    "testing_askedcurve": Tracked("curve file with a question", parts=("content",)),
}

# What may be put back alone when it was deleted: nothing is computed from it and kept.
RETURNABLE = {
    *("testing_photo", "library_drying", "printing_printattempt", "treatments_logreading"),
    *("campaigns_acceptedconfounder", "checks_phase"),
}

# What is not written down, and why.
NOT_TRACKED = {
    "people_secondfactor": "one’s own, and secret",
    "people_passkey": "one’s own, and secret",
    "people_house": "marks of the hosts, no data",
    "jobs_job": "a form on its way; what it does is told where it does it",
    "jobs_jobfile": "a form's file on its way",
    "people_seat_also": "where else a person may sit: told by joining and leaving",
    "campaigns_condition_levels": "follows the plan",
    "results_result": "computed from readings, again at any time",
    "testing_spententrykey": "keys of entries that are undone, so that a late repeat changes nothing",
    "testing_dismissedcaution": "one’s own",
    "days_feed": "one’s own",
    "notebooks_token": "one’s own",
    "changes_change": "is the record itself",
}
