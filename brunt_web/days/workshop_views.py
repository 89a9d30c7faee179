"""The workshop's own page: name, money, zone, how dates and decimals are written, when the idle are signed out."""

from zoneinfo import ZoneInfo, available_timezones

from django import forms
from django.contrib import messages
from django.db import IntegrityError, transaction
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods

from brunt_core.errors import InputError
from brunt_web.days.hours import hours_of, known_zones
from brunt_web.interface.edit_conflicts import fingerprint, refuse_overtaken
from brunt_web.interface.instrument_tokens import checked_networks
from brunt_web.interface.typed import kept
from brunt_web.interface.ways import DATE_FORMS
from brunt_web.people.models import Workshop
from brunt_web.people.requests import SeatedRequest


class WorkshopForm(forms.Form):
    """What a workshop says of itself."""

    name = forms.CharField(label="Name", max_length=120)
    currency = forms.CharField(label="Currency", max_length=8, help_text="€, £, CHF")
    zone = forms.CharField(label="Time zone", max_length=40, help_text="Europe/Berlin")
    date_form = forms.ChoiceField(label="Date format", choices=list(DATE_FORMS.items()))
    comma = forms.TypedChoiceField(
        label="Decimal mark",
        choices=[("", "58.4"), ("1", "58,4")],
        coerce=bool,
        required=False,
        empty_value="",
    )
    idle_minutes = forms.IntegerField(
        label="Sign out after idle, min",
        min_value=0,
        max_value=100_000,
        help_text="0 for never",
    )
    instrument_networks = forms.CharField(
        label="Networks with instruments",
        required=False,
        max_length=400,
        help_text="private networks, separated by commas: 192.168.1.0/24; 127.0.0.1 for this machine; empty for none",
    )

    def clean_zone(self) -> str:
        """A zone there is."""
        said = str(self.cleaned_data["zone"]).strip()
        if said not in available_timezones():
            raise forms.ValidationError("No such zone; write it as Europe/Berlin or UTC.")
        return said

    def clean_instrument_networks(self) -> str:
        """Private networks, each written in one way."""
        try:
            return checked_networks(str(self.cleaned_data["instrument_networks"]))
        except InputError as problem:
            raise forms.ValidationError(problem.sentence) from None


def ways_of(workshop: Workshop) -> dict[str, str]:
    """What the page says, as it stands."""
    return {
        "name": workshop.name,
        "currency": workshop.currency,
        "zone": hours_of(workshop).zone,
        "date_form": workshop.date_form,
        "comma": "1" if workshop.comma else "",
        "idle_minutes": str(workshop.idle_minutes),
        "instrument_networks": workshop.instrument_networks,
    }


@transaction.atomic
def _store(workshop: Workshop, seen: str, **told: object) -> Workshop:
    """Store it all, where nobody else has changed it meanwhile."""
    found = Workshop.objects.select_for_update().get(pk=workshop.pk)
    mine = {k: "1" if v is True else "" if v is False else str(v) for k, v in told.items()}
    refuse_overtaken(seen, ways_of(found), mine)
    hours = hours_of(found)
    hours.zone = str(told.pop("zone"))
    hours.save()
    told["comma"] = bool(told["comma"])
    for key, value in told.items():
        setattr(found, key, value)
    try:
        with transaction.atomic():
            found.save(update_fields=list(told))
    except IntegrityError:
        raise InputError("There is a workshop of this name already.", "name") from None
    known_zones.clear()
    return found


@require_http_methods(["GET", "POST"])
def workshop(request: SeatedRequest) -> HttpResponse:
    """Look at it, or change it."""
    posted = request.method == "POST"
    form = WorkshopForm(request.POST if posted else ways_of(request.workshop))
    seen = request.POST.get("seen", "")

    def store(**told: object) -> Workshop:
        return _store(request.workshop, seen, **told)

    stored = kept(form, store) if posted else None
    if stored:
        messages.success(request, "Workshop settings saved.")
        return redirect("workshop")
    now = timezone.now()
    context = {
        "form": form,
        "seen": fingerprint(ways_of(request.workshop)),
        "owner": request.seat.rights == "owner",
        "now": now.astimezone(ZoneInfo(hours_of(request.workshop).zone)),
    }
    return render(request, "days/workshop.html", context, status=422 if posted else 200)
