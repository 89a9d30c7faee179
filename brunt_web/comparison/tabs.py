"""The views of Compare: their tabs, and the address that keeps everything while one is left for another."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from urllib.parse import urlencode

from django.http import HttpResponse, QueryDict
from django.urls import reverse
from django.utils.module_loading import import_string

from brunt_web.campaigns.models import Campaign


@dataclass(frozen=True)
class CompareView:
    """A view of Compare: the word on its tab, the key that opens it, and the function that answers it.

    ``page`` is ``module.function`` within ``comparison/pages``; the function takes the request and the
    campaign. The ranking has an address of its own.
    """

    name: str
    letter: str
    page: str = ""

    @property
    def answer(self) -> Callable[..., HttpResponse]:
        """The function that answers it. Raises :class:`ImportError` where there is none."""
        found: Callable[..., HttpResponse] = import_string(
            f"brunt_web.comparison.pages.{self.page}"
        )
        return found


VIEWS = {
    "ranking": CompareView("Ranking", "r"),
    "profile": CompareView("Profile", "p", "profile_page.profile"),
    "one-factor": CompareView("One factor", "s", "factor_pages.one_factor_view"),
    "two-factors": CompareView("Two factors", "g", "factor_pages.grid"),
    "paired": CompareView("Paired comparison", "i", "factor_pages.pairs"),
    "anisotropy": CompareView("Anisotropy", "d", "factor_pages.directions"),
    "trade-off": CompareView("Trade-off", "o", "other_pages.tradeoff"),
    "time": CompareView("Time", "m", "series_pages.time"),
    "curves": CompareView("Curves", "c", "series_pages.curves"),
    "failure-modes": CompareView("Failure modes", "b", "other_pages.compare_kinds_view"),
    "summary": CompareView("Summary", "f", "other_pages.campaign_summary_view"),
}


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
        (view.name, address_of(campaign, key, plain), key == here, view.letter)
        for key, view in VIEWS.items()
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
