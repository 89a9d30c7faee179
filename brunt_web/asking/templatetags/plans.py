"""Words for plans in templates."""

from collections.abc import Sized
from typing import Protocol

from django import template

from brunt_web.campaigns.drafts import KINDS

register = template.Library()


class Named(Protocol):
    """A factor: what it is called and of which kind it is."""

    name: str
    kind: str


@register.filter
def kind_words(kind: str) -> str:
    """What a kind of factor is called."""
    return KINDS.get(kind, kind)


@register.filter
def levels_words(factor: Named, levels: Sized) -> str:
    """What is counted of a factor, behind the count: ``materials``, ``levels of nozzle temperature``."""
    many = "" if len(levels) == 1 else "s"
    if factor.kind == "material":
        return f"material{many}"
    return f"level{many} of {factor.name[:1].lower()}{factor.name[1:]}"
