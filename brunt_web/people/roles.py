"""Who may do what: four roles, and the one table that says which each action needs."""

OWNER, LEAD, TESTER, READER = "owner", "lead", "tester", "reader"
ROLES = {
    READER: "reads everything, changes nothing",
    TESTER: "prints, treats, measures, tests",
    LEAD: "plans, writes recipes and procedures, excludes, publishes",
    OWNER: "everything, including inviting people",
}
_RANK = {role: i for i, role in enumerate(ROLES)}

# By the name of the address. What only looks, stores nothing or is one's own is open to readers; what is
# not named here is a tester's when it sends something.
_READERS = {
    *("sign-out", "sit-down", "account-password", "account-ways", "end-sessions", "leave", "join"),
    *("second-app", "second-off", "passkey", "passkey-off"),
    *(
        "recipe-cut",
        "look-at-photo",
        "procedure-look",
        "draw-variant",
        "gcode",
        "tuning-look",
        "preview",
    ),
    *("print-ahead", "plate-against", "draw-load-case", "import-data-preview", "look-into-package"),
    *("tokens", "revoke-token", "day-savings", "run-look", "run-look-one", "attempt", "ahead"),
    *("job-cancel", "dismiss-cautions", "day-feed", "day-feed-off"),
}
_LEADS = {
    *(
        "new-campaign",
        "edit-campaign",
        "more",
        "more-of",
        "take-off-plan",
        "making",
        "accept",
        "withdraw",
    ),
    *("archive-campaign", "import-data-store", "import-data-undo"),
    *("new-recipe", "recipe", "tuning-adopt", "qualification-recipe"),
    *(
        "new-procedure",
        "new-starter",
        "new-rig",
        "rig",
        "calibrate",
        "withdraw-calibration",
        "further-rigs",
        "new-type",
        "type-procedure",
        "part-procedure",
    ),
    *("new-part", "lay-part", "mark-part", "copy-part", "new-material", "new-printer"),
    *("new-kind", "new-vessel", "leave-out", "count", "swap", "move-test", "role", "event-back"),
    *(
        "new-load-case",
        "load-case",
        "choose-load-case",
        "archive-load-case",
        "checks",
        "archive-check",
    ),
    *("new-phase", "end-phase", "report-words", "report-link", "revoke-link"),
    *("blend", "unmix", "drying-back", "day-hours", "put-back", "put-away-of"),
}
_OWNERS = {
    "workshop",
    "invite",
    "invite-back",
    "person-role",
    "person-off",
    "person-on",
    "new-password",
}


def needed(name: str, method: str) -> str:
    """The least role for an address and a method: readers look, testers enter, leads plan, owners run it."""
    if name in _OWNERS or name == "people":
        return OWNER if method not in ("GET", "HEAD") else READER
    if method in ("GET", "HEAD", "OPTIONS") or name in _READERS:
        return READER
    return LEAD if name in _LEADS else TESTER


def may(role: str, least: str) -> bool:
    """Whether a role reaches another.

    >>> may("lead", "tester"), may("tester", "lead")
    (True, False)
    """
    return _RANK.get(role, 0) >= _RANK[least]
