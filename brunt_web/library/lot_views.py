"""Lots: what is left, dryings from start to end, sealed boxes, the room's air, blends."""

from collections.abc import Callable
from datetime import datetime, timedelta
from functools import partial
from typing import Any

from django.contrib import messages
from django.forms import Form
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from brunt_core.errors import InputError
from brunt_core.plausibility.bands import FAMILIES
from brunt_core.printing.checks import MOISTURE_LIMIT_H, USUAL_DRYING, damp
from brunt_web.interface.typed import kept
from brunt_web.library.actions import blends
from brunt_web.library.actions import lots as actions
from brunt_web.library.forms import (
    AirForm,
    BlendForm,
    BlendParts,
    DryingForm,
    EndDryingForm,
    SealForm,
    WeighedForm,
)
from brunt_web.library.lot_drawing import since_drying
from brunt_web.library.models import Lot, RoomAir
from brunt_web.library.queries import hours_open, lot_of, lots_of
from brunt_web.people.requests import SeatedRequest


@require_GET
def lot(request: SeatedRequest, pk: int) -> HttpResponse:
    """One lot: what is left, its dryings, hours in the open."""
    return _lot_page(request, lot_of(request.workshop, pk))


def _lot_page(request: SeatedRequest, found: Lot, **refused: Form) -> HttpResponse:
    now = timezone.now()
    hours = hours_open(found, now)
    usual = USUAL_DRYING.get(found.material.family)
    running = next((d for d in found.dryings.all() if d.ended_at is None), None)
    start = {"temperature": f"{usual[0]:g}", "duration": f"{usual[1]:g} h"} if usual else {}
    return render(
        request,
        "library/lot.html",
        {
            "lot": found,
            "hours": hours,
            "limit": MOISTURE_LIMIT_H.get(found.material.family),
            "usual": usual,
            "running": running,
            "late": running and running.due_at and running.due_at < now,
            "sealed": next((s for s in found.sealings.all() if s.until is None), None),
            "warning": "" if running else damp(found.material.family, hours),
            "drying_form": DryingForm(initial=start),
            "ending_form": EndDryingForm(auto_id="end-%s"),
            "seal_form": SealForm(auto_id="seal-%s"),
            "weighed_form": WeighedForm(),
            **refused,
        },
        status=422 if refused else 200,
    )


@require_POST
def weighed(request: SeatedRequest, pk: int) -> HttpResponse:
    """What is left of a lot."""
    found, form = lot_of(request.workshop, pk), WeighedForm(request.POST)
    if not kept(form, partial(actions.set_remaining, found)):
        return _lot_page(request, found, weighed_form=form)
    messages.success(request, "Remaining mass saved.")
    return redirect("lot", pk)


@require_POST
def dried(request: SeatedRequest, pk: int) -> HttpResponse:
    """A drying that has ended, now unless it says when."""
    found = lot_of(request.workshop, pk)

    def store(started_at: datetime | None, ended_at: datetime | None, **more: Any) -> object:
        end = ended_at or timezone.now()
        if started_at:
            more["duration"] = (end - started_at).total_seconds()
        return actions.log_drying(found, request.user, end, started_at=started_at, **more)

    return _drying(request, found, store, "Drying saved.")


@require_POST
def start_drying(request: SeatedRequest, pk: int) -> HttpResponse:
    """A drying that runs from now on, or from when it says."""
    found = lot_of(request.workshop, pk)

    def store(started_at: datetime | None, ended_at: datetime | None, **more: Any) -> object:
        if ended_at:
            raise InputError("It has an end time: log it as ended.", "ended_at")
        start = started_at or timezone.now()
        return actions.log_drying(found, request.user, None, started_at=start, **more)

    return _drying(request, found, store, "Drying started; the exposure time is paused.")


def _drying(
    request: SeatedRequest, found: Lot, store: Callable[..., object], said: str
) -> HttpResponse:
    form = DryingForm(request.POST)
    if not kept(form, store):
        return _lot_page(request, found, drying_form=form)
    messages.success(request, said)
    return redirect("lot", found.pk)


@require_POST
def end_drying_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """The drying that runs has ended."""
    found, form = lot_of(request.workshop, pk), EndDryingForm(request.POST, auto_id="end-%s")

    def store(ended_at: datetime | None, after: float | None) -> object:
        return actions.end_drying(found, ended_at or timezone.now(), after)

    if not kept(form, store):
        return _lot_page(request, found, ending_form=form)
    messages.success(request, "Drying ended; the exposure time starts.")
    return redirect("lot", pk)


@require_POST
def drying_back(request: SeatedRequest, pk: int, drying: int) -> HttpResponse:
    """A drying that was logged by mistake is taken off."""
    actions.take_back_drying(lot_of(request.workshop, pk), drying)
    messages.success(request, "Drying deleted.")
    return redirect("lot", pk)


@require_POST
def seal_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """Into a sealed box."""

    def store(since: datetime | None, humidity: float | None) -> object:
        share = None if humidity is None else humidity / 100
        return actions.seal(found, request.user, since or timezone.now(), share)

    found, form = lot_of(request.workshop, pk), SealForm(request.POST, auto_id="seal-%s")
    return _sealed(request, found, form, store, "In a sealed box; the exposure time is paused.")


@require_POST
def unseal_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """Out of the sealed box."""

    def store(since: datetime | None, **_: object) -> object:
        return actions.unseal(found, since or timezone.now())

    found, form = lot_of(request.workshop, pk), SealForm(request.POST, auto_id="seal-%s")
    return _sealed(request, found, form, store, "Out of the box; the exposure time continues.")


def _sealed(
    request: SeatedRequest, found: Lot, form: SealForm, store: Callable[..., object], said: str
) -> HttpResponse:
    if not kept(form, store):
        return _lot_page(request, found, seal_form=form)
    messages.success(request, said)
    return redirect("lot", found.pk)


@require_GET
def drying(request: SeatedRequest) -> HttpResponse:
    """Every lot's hours in the open against its family's limit, and the room's air."""
    return _drying_page(request, AirForm())


@require_POST
def air(request: SeatedRequest) -> HttpResponse:
    """Room conditions saved."""
    form = AirForm(request.POST)

    def store(humidity: float, temperature: float | None) -> RoomAir:
        now = timezone.now()
        return actions.note_air(request.workshop, request.user, now, humidity / 100, temperature)

    if kept(form, store) is None:
        return _drying_page(request, form)
    messages.success(request, "Room conditions saved.")
    return redirect("drying")


def _drying_page(request: SeatedRequest, form: AirForm) -> HttpResponse:
    now = timezone.now()
    readings = list(RoomAir.objects.filter(workshop=request.workshop)[:60])
    week = [r.humidity for r in readings if r.at > now - timedelta(days=7)]
    families = [
        (FAMILIES[key].name, hours, USUAL_DRYING.get(key))
        for key, hours in sorted(MOISTURE_LIMIT_H.items(), key=lambda item: item[1])
    ]
    rows = [since_drying(one, now) for one in lots_of(request.workshop) if one.material.form != "stock"]  # fmt: skip
    context = {
        "rows": sorted(rows, key=lambda r: -r["urgent"]),
        "families": families,
        "readings": readings[:12],
        "mean_air": sum(week) / len(week) * 100 if week else None,
        "form": form,
    }
    return render(request, "library/drying.html", context, status=422 if form.errors else 200)


@require_http_methods(["GET", "POST"])
def blend_view(request: SeatedRequest) -> HttpResponse:
    """Mix several lots into one."""
    data = request.POST if request.method == "POST" else None
    form = BlendForm(data, request.workshop)
    parts = BlendParts(data, prefix="part", form_kwargs={"workshop": request.workshop})
    if data is not None and form.is_valid() and parts.is_valid():
        told = [(p.cleaned_data["lot"], p.cleaned_data["mass"]) for p in parts if p.cleaned_data.get("lot")]  # fmt: skip
        made = kept(form, lambda **more: blends.mix(request.workshop, parts=told, **more))
        if made:
            messages.success(request, f"{made} saved.")
            return redirect("lot", made.pk)
    refused = data is not None
    return render(
        request,
        "library/blend.html",
        {"form": form, "parts": parts},
        status=422 if refused else 200,
    )


@require_POST
def unmix_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """A blend that was made by mistake was undone."""
    found = lot_of(request.workshop, pk)
    try:
        blends.unmix(found)
    except InputError as error:
        messages.error(request, error.sentence)
        return redirect("lot", pk)
    messages.success(request, "The blend was undone; the masses of its lots are restored.")
    return redirect("library")
