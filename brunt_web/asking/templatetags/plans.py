"""Words for plans in templates."""

from django import template

from brunt_web.campaigns.drafts import KINDS

register = template.Library()


@register.filter
def kind_words(kind: str) -> str:
    """What a kind of factor is called."""
    return KINDS.get(kind, kind)
