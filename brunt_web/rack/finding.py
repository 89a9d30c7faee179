"""The campaigns that are looked for: by words, material, ID or the tester's ID, by state, by date."""

from typing import Any

from django import forms
from django.db.models import Exists, Max, OuterRef, Q, QuerySet

from brunt_web.campaigns.models import Campaign, Condition, Specimen, Turn
from brunt_web.people.models import Workshop

PER_PAGE = 24
STATES = (
    ("", "all"),
    ("open", "tests to come"),
    ("done", "all tested"),
    ("away", "archived"),
)


class FindForm(forms.Form):
    """What is typed and picked above the list."""

    q = forms.CharField(required=False, max_length=120, label="Words, material, ID")
    state = forms.ChoiceField(choices=STATES, required=False, label="State")
    since = forms.DateField(
        required=False, label="Since", widget=forms.DateInput(attrs={"type": "date"})
    )
    until = forms.DateField(
        required=False, label="Until", widget=forms.DateInput(attrs={"type": "date"})
    )

    @property
    def asked(self) -> bool:
        """Whether anything is looked for."""
        return any(self.cleaned_data.values()) if self.is_valid() else False


def found(workshop: Workshop, asked: dict[str, Any]) -> QuerySet[Campaign]:
    """The workshop's campaigns that fit, newest first, each with when it was last tested."""
    rows = Campaign.objects.filter(workshop=workshop)
    state = asked.get("state", "")
    rows = rows.filter(archived_at__isnull=state != "away")
    left = Turn.objects.filter(
        campaign=OuterRef("pk"), state__in=("waiting", "running"), specimen__spare=False
    )
    if state == "open":
        rows = rows.filter(Exists(left))
    elif state == "done":
        rows = rows.filter(~Exists(left))
    for word in (asked.get("q") or "").split():
        rows = rows.filter(_has(word))
    if asked.get("since"):
        rows = rows.filter(created_at__date__gte=asked["since"])
    if asked.get("until"):
        rows = rows.filter(created_at__date__lte=asked["until"])
    rows = rows.annotate(last=Max("turns__tested_at"))
    return rows.order_by("-created_at", "-id")


def _has(word: str) -> Q:
    """One word somewhere: question, material, condition, ID of a specimen, the tester's ID."""
    code = word.upper().replace("-", "")
    by_code = Q(code__iexact=word) | Q(code__iexact=f"{code[:2]}-{code[2:]}") | Q(own_id__icontains=word)  # fmt: skip
    specimens = Specimen.objects.filter(by_code, campaign=OuterRef("pk"))
    conditions = Condition.objects.filter(
        Q(material__name__icontains=word) | Q(label__icontains=word) | Q(detail__icontains=word),
        campaign=OuterRef("pk"),
    )
    return Q(question__icontains=word) | Exists(specimens) | Exists(conditions)
