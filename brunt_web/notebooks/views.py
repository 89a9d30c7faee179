"""A person's tokens: made, shown once, revoked; and how a notebook uses one."""

from typing import Any

from django import forms
from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST

from brunt_web.campaigns.queries import campaigns_of
from brunt_web.interface.typed import kept
from brunt_web.notebooks.actions import tokens as acts
from brunt_web.notebooks.example import example_lines
from brunt_web.notebooks.models import Token
from brunt_web.people.requests import SeatedRequest


class TokenForm(forms.Form):
    """A token to be made."""

    name = forms.CharField(max_length=80, label="What it is for", error_messages={"required": "Give the purpose of the token."})  # fmt: skip
    until = forms.DateField(
        required=False,
        label="Last day (empty: until revoked)",
        widget=forms.DateInput(attrs={"type": "date"}),
    )


@require_http_methods(["GET", "POST"])
def tokens(request: SeatedRequest) -> HttpResponse:
    """The person's tokens; one just made is shown this once."""
    posted = request.method == "POST"
    form = TokenForm(request.POST) if posted else TokenForm()

    def make(**told: Any) -> tuple[Token, str]:
        return acts.make_token(request.user, request.workshop, timezone.now(), **told)

    made = kept(form, make) if posted else None
    first = campaigns_of(request.workshop).filter(turns__tested_at__isnull=False).first()
    base = request.build_absolute_uri(reverse("api:openapi-json")).removesuffix("/openapi.json")
    today = timezone.localdate()
    context = {
        "form": TokenForm() if made else form,
        "secret": made[1] if made else "",
        "tokens": [
            (t, t.closed_on(today))
            for t in Token.objects.filter(user=request.user).select_related("workshop")
        ],
        "code": example_lines(base, made[1] if made else "brunt_…", first.pk if first else 1),
        "base": base,
    }
    answer = render(request, "notebooks/tokens.html", context, status=422 if form.errors else 200)
    answer["Cache-Control"] = "no-store"
    return answer


@require_POST
def token_revoke_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """It is no longer valid."""
    token = Token.objects.filter(user=request.user, pk=pk).first()
    if token is None:
        raise Http404("There is no such token of yours.")
    acts.revoke_token(token, timezone.now())
    messages.success(request, f"The token {token} is revoked.")
    return redirect("tokens")
