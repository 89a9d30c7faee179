"""Specimens as marks and as rows, written in one go: hundreds of them stand on a page."""

from collections.abc import Iterable
from html import escape
from typing import Any

from django import template
from django.utils.safestring import SafeString, mark_safe

from brunt_web.campaigns.addresses import specimen_address
from brunt_web.comparison.specimen_table import SpecimenRow

register = template.Library()


@register.simple_tag
def specimens(marks: Iterable[Any], size: float = 4.0) -> SafeString:
    """Each specimen at its place, linked to its page: a dot, an arrowhead for a bound, a stroke where excluded."""
    return mark_safe("".join(_mark(m, size) for m in marks))


def _mark(mark: Any, size: float) -> str:
    title = f"<title>{escape(mark.title)}</title>"
    x, y = float(mark.x), float(mark.y)
    if mark.kind == "at_least":
        body = f'<path class="l-bound" d="M{x - 4:g},{y - 5:g} l8,5 -8,5">{title}</path>'
    elif mark.kind == "at_most":
        body = f'<path class="l-bound" d="M{x + 4:g},{y - 5:g} l-8,5 8,5">{title}</path>'
    elif mark.kind in ("out", "excluded"):
        body = f'<path class="l-out" d="M{x - 4:g},{y + 4:g} l8,-8">{title}</path>'
    else:
        body = f'<circle class="l-dot" cx="{x:g}" cy="{y:g}" r="{size:g}">{title}</circle>'
    return f'<a href="{escape(mark.href)}">{body}</a>'


@register.simple_tag
def upright_specimens(marks: Iterable[Any]) -> SafeString:
    """The same on a scale that rises: the arrowheads point up or down."""
    return mark_safe("".join(_upright(m) for m in marks))


def _upright(mark: Any) -> str:
    if mark.kind not in ("at_least", "at_most"):
        return _mark(mark, 4.0)
    side = 1 if mark.kind == "at_least" else -1
    path = f"M{mark.x - 4:g},{mark.y + 3 * side:g} l4,{-7 * side} 4,{7 * side}"
    title = f"<title>{escape(mark.title)}</title>"
    return f'<a href="{escape(mark.href)}"><path class="l-bound" d="{path}">{title}</path></a>'


@register.simple_tag
def every_row(rows: Iterable[SpecimenRow]) -> SafeString:
    """A row of the table for each specimen."""
    return mark_safe("".join(map(_row, rows)))


def _row(told: SpecimenRow) -> str:
    name, title, code, value, unit, note = (
        escape(t) for t in (told.condition, told.title, told.code, told.value, told.unit, told.note)
    )
    link = f'<a href="{escape(specimen_address(told.code))}">{code}</a>'
    return (
        f'<tr><td>{name}</td><td>{title}</td><td>{link}</td><td class="num">{value}</td>'
        f'<td>{unit}</td><td class="soft">{note}</td></tr>'
    )
