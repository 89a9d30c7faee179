"""How the rack says a specimen's state in words."""

from django import template

from brunt_core.properties import Property
from brunt_web.campaigns.models import Turn
from brunt_web.interface.templatetags.brunt import of, outcome_label, place_label
from brunt_web.rack.queries import Cell
from brunt_web.results.reading import Sample

register = template.Library()
_MADE = {"planned": "planned", "made": "made", "failed": "print failed"}


@register.simple_tag
def state_words(turn: Turn, cell: Cell) -> str:
    """A specimen's state as a screen reader and a tooltip say it."""
    specimen, said = turn.specimen, ""
    if turn.state == "waiting":
        words = specimen.made_how or _MADE[specimen.made]
        said = (
            f"print failed: {', '.join(specimen.defects)}" if specimen.made == "failed" else words
        )
        said += "".join(f", {o.says}" for o in specimen.outstanding_steps if o.kind != "making")
        said += ", spare" if specimen.spare else ""
    elif turn.state == "running":
        said = "timed test running"
    elif turn.state == "gone":
        said = "destroyed by an earlier test"
    else:
        said = _ended(turn, cell)
    away = "; ".join(d.says for d in specimen.deviations if d.turn in (None, turn.pk))
    return f"{said}. Not as planned: {away}" if away else said


def _ended(turn: Turn, cell: Cell) -> str:
    prop = turn.procedure.ranked_property
    everything = [*cell.group.counted, *cell.group.excluded, *cell.group.unlike]
    values = "; ".join(_value(s, prop) for s in everything if s.turn == turn.pk)
    place = place_label(turn, turn.procedure) if turn.place else outcome_label(turn, turn.procedure)
    words = f"{values}, {place}" if values else place
    return words + (f", excluded: {turn.excluded_because}" if turn.excluded else "")


def _value(sample: Sample, prop: Property) -> str:
    return f"{of(sample.observation, prop)} {prop.unit}".strip()
