"""When results may stand in one ranking: their procedures must agree."""

from dataclasses import dataclass, fields


@dataclass(frozen=True)
class ProcedureFacts:
    """What of a procedure makes results comparable, as text; empty where it does not apply."""

    method: str
    orientation: str
    specimen_type: str
    speed: str
    conditioning: str
    parameters: str = ""
    reading_times: str = ""
    preload: str = ""


_ALWAYS = 5


def comparability_key(facts: ProcedureFacts) -> str:
    """One line that is equal exactly when two procedures agree.

    >>> comparability_key(ProcedureFacts("tension", "flat", "tension-1ba", "5 mm/min", "23 °C, dry"))
    'tension · flat · tension-1ba · 5 mm/min · 23 °C, dry'
    """
    said = [str(getattr(facts, f.name)) or "–" for f in fields(facts)[:_ALWAYS]]
    said += [str(getattr(facts, f.name)) for f in fields(facts)[_ALWAYS:] if getattr(facts, f.name)]
    return " · ".join(said)


def procedure_differences(first: ProcedureFacts, second: ProcedureFacts) -> list[str]:
    """The points on which two procedures differ, in words.

    >>> a = ProcedureFacts("tension", "flat", "tension-1ba", "5 mm/min", "dry")
    >>> procedure_differences(a, ProcedureFacts("tension", "flat", "tension-1ba", "50 mm/min", "dry"))
    ['speed: 5 mm/min against 50 mm/min']
    """
    return [
        f"{f.name.replace('_', ' ')}: {getattr(first, f.name) or 'none'} against "
        f"{getattr(second, f.name) or 'none'}"
        for f in fields(first)
        if getattr(first, f.name) != getattr(second, f.name)
    ]
