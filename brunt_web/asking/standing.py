"""A plan in words, as it is typed or as it stands: what two people compare."""

from django.http import QueryDict

from brunt_web.asking.filled import typed_from_campaign
from brunt_web.campaigns.models import Campaign
from brunt_web.people.models import Workshop

_PLAIN = {
    "question": "the question",
    "replicates": "of each",
    "power": "chance to see it, %",
    "confidence": "sure to, %",
    "loss": "lost, %",
    "cv": "CV, %",
    "wanted": "difference wanted, %",
    "design": "which combinations",
}
_LISTS = {"materials": "materials", "lots": "lots", "procedures": "tests"}


def plan_words(workshop: Workshop, typed: QueryDict) -> dict[str, str]:
    """What a plan says, by what each part is called; the same words for the same plan."""
    said = {name: " ".join(typed.get(key, "").split()) for key, name in _PLAIN.items()}
    for key, name in _LISTS.items():
        chosen = [int(x) for x in typed.getlist(key) if x.isascii() and x.isdigit() and len(x) < 10]
        rows = getattr(workshop, key).filter(pk__in=chosen)
        said[name] = ", ".join(sorted(str(row) for row in rows))
    for key in sorted(typed):
        text = str(typed.get(key, ""))
        if key.startswith("f-") and key.endswith("-levels") and text.strip():
            stem = key.removesuffix("levels")
            called = str(typed.get(f"{stem}name") or typed.get(f"{stem}kind") or "a factor")
            said[called] = "; ".join(x.strip() for x in text.split(";") if x.strip())
    said["excluded"] = "; ".join(sorted(typed.getlist("drop")))
    return {k: v for k, v in said.items() if v}


def standing_plan(campaign: Campaign) -> dict[str, str]:
    """A campaign's plan as it stands."""
    return plan_words(campaign.workshop, typed_from_campaign(campaign))


def same_plan(standing: dict[str, str], typed: dict[str, str]) -> bool:
    """Whether a typed plan is the one that stands; a number that was left empty is nothing else."""
    plain = set(_PLAIN.values())
    return all(
        typed.get(k, "") == v for k, v in standing.items() if k not in plain or k in typed
    ) and not (set(typed) - set(standing))
