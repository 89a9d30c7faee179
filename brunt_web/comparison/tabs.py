"""The views of Compare: their tabs, and the address that keeps everything while one is left for another."""

from collections.abc import Mapping
from urllib.parse import urlencode

from django.http import QueryDict
from django.urls import reverse

from brunt_web.campaigns.models import Campaign

VIEWS = {
    "ranking": "Ranking",
    "profile": "Profile",
    "one-factor": "One factor",
    "two-factors": "Two factors",
    "paired": "Paired comparison",
    "anisotropy": "Anisotropy",
    "trade-off": "Trade-off",
    "time": "Time",
    "curves": "Curves",
    "failure-modes": "Failure modes",
    "summary": "Summary",
}
KEYS = dict(zip(VIEWS, "rpsgidomcbf", strict=True))


def address_of(campaign: Campaign, page: str, query: QueryDict, /, **changed: object) -> str:
    """A view with everything the address says, but for what is changed; an empty value takes it away."""
    kept: dict[str, list[str]] = {k: query.getlist(k) for k in query}
    for key, value in changed.items():
        kept[key] = [] if value in ("", None) else [str(value)]
    pairs = [(k, v) for k, values in kept.items() for v in values if v]
    base = (
        reverse("compare", args=[campaign.pk])
        if page == "ranking"
        else reverse("compare-view", args=[campaign.pk, page])
    )
    return base + (f"?{urlencode(pairs)}" if pairs else "")


def tabs_of(campaign: Campaign, here: str, query: QueryDict) -> list[tuple[str, str, bool, str]]:
    """(word, address, whether it is this one, key) of every view."""
    plain = query.copy()
    plain.pop("working", None)
    return [
        (word, address_of(campaign, key, plain), key == here, KEYS[key])
        for key, word in VIEWS.items()
    ]


def kept_of(campaign: Campaign, here: str, query: QueryDict) -> tuple[str, str] | None:
    """The link that keeps to the picked conditions, or shows all again: (words, address)."""
    if not numbers_in(query, "lit"):
        return None
    if query.get("keep") == "lit":
        return "all conditions again", address_of(campaign, here, query, keep="")
    return "only the selected ones", address_of(campaign, here, query, keep="lit")


def numbers_in(query: Mapping[str, str], key: str) -> set[int]:
    """Numbers of a list in the address, those that are none passed over."""
    return {int(t) for t in query.get(key, "").split(",") if t.isdecimal() and len(t) < 10}
