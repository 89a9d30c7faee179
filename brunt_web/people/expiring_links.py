"""What opens for a while: a link, a token."""

from datetime import date, datetime


def closed_on(what: str, revoked_at: datetime | None, until: date | None, today: date) -> str:
    """Why it does not open on that day; nothing where it does.

    >>> closed_on("link", None, date(2026, 3, 1), date(2026, 3, 2))
    'This link ended on 1 March 2026.'
    """
    if revoked_at:
        return f"This {what} was revoked on {revoked_at:%-d %B %Y}."
    if until and today > until:
        return f"This {what} ended on {until:%-d %B %Y}."
    return ""
