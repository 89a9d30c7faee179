"""How a form, an entry or an export says which workshop it belongs to."""

from uuid import UUID

# The hidden field of every form, and of what scripts send.
FIELD = "in_workshop"


def is_uuid(text: str) -> bool:
    """Whether a text is a UUID as it is written in forms and exports."""
    try:
        UUID(text)
    except ValueError:
        return False
    return True
