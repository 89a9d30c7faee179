"""A rig's own page: what it can do, its certificates drawn, what was read of it by day."""

from dataclasses import dataclass
from typing import Any

from django import forms
from django.contrib import messages
from django.http import Http404, HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST

from brunt_core.errors import InputError
from brunt_core.mechanics.calibration import CalibrationVerdict, verdict
from brunt_core.quantities import in_unit
from brunt_core.quantities.rendering import figures, number
from brunt_web.interface.edit_conflicts import fingerprint, refuse_overtaken
from brunt_web.interface.scale import Scale, scale_for
from brunt_web.interface.typed import NameField, QuantityField, TypedField, kept
from brunt_web.library.actions import rigs as actions
from brunt_web.library.actions.procedures import RIG_DIMENSIONS
from brunt_web.library.forms import RigForm
from brunt_web.library.models import Calibration, Procedure, Rig
from brunt_web.library.queries import procedure_of
from brunt_web.people.requests import SeatedRequest

_WIDE, _HIGH, _MIDDLE = 620, 210, 96


class ChangeRigForm(RigForm):
    """What a rig is and can do; what it measures stays."""

    field_order = (
        "name",
        "location",
        "capacity",
        "resolution",
        "relative_error",
        "instrument",
        "slowest",
        "fastest",
    )
    location = NameField("", label="Location", required=False)
    instrument = forms.CharField(
        label="Live instrument",
        required=False,
        max_length=120,
        help_text="tcp:10.0.0.5:4001, serial:/dev/ttyUSB0@9600, browser:9600, sim:load-cell",
    )
    slowest = QuantityField("speed", "mm/min", above=0, label="Slowest speed")
    fastest = QuantityField("speed", "mm/min", above=0, label="Fastest speed")
    note = forms.CharField(
        label="Note", required=False, max_length=2000, widget=forms.Textarea({"rows": 2})
    )

    def __init__(self, data: QueryDict | dict[str, str] | None, rig: Rig) -> None:
        super().__init__(data, auto_id="rig-%s")  # type: ignore[arg-type]
        del self.fields["dimension"]
        for key in ("capacity", "resolution"):
            field = self.fields[key]
            assert isinstance(field, QuantityField)
            field.dimension, field.unit = rig.dimension, RIG_DIMENSIONS[rig.dimension]


class CalibrationForm(TypedField):
    """One certificate."""

    on = forms.DateField(label="Calibrated on", widget=forms.DateInput({"type": "date"}))
    due = forms.DateField(
        label="Due again", required=False, widget=forms.DateInput({"type": "date"})
    )
    certificate = forms.CharField(label="Certificate", max_length=120, required=False)
    by_whom = forms.CharField(label="By whom", max_length=120, required=False)
    figures = forms.CharField(
        label="Its figures",
        required=False,
        max_length=20_000,
        help_text="a line each: applied; read; uncertainty (k = 2)",
        widget=forms.Textarea({"rows": 5, "placeholder": "100 N; 100.3 N; 0.2 N"}),
    )
    note = forms.CharField(label="Note", max_length=2000, required=False)
    takes_limit = forms.BooleanField(
        label="Use these readings for the limit of error", required=False, initial=True
    )


@dataclass
class DrawnCalibration:
    """A certificate's errors over what was applied: dots with their uncertainty, the limit, ticks."""

    dots: list[tuple[float, float, float, float, str]]
    band: tuple[float, float]
    limit_words: str
    ticks: tuple[tuple[float, str], ...]
    unit: str
    ends: list[tuple[float, str]]


def drawn_errors(rig: Rig, one: Calibration, told: CalibrationVerdict) -> DrawnCalibration:
    """The errors in per cent, ± the widest that is shown; the band is the rig's limit of error."""
    unit = RIG_DIMENSIONS[rig.dimension]
    points = one.points
    applied = [in_unit(p.applied, rig.dimension, unit) for p in points]
    scale: Scale = scale_for([0.0, *applied], width=_WIDE, pad=30)
    most = max(told.limit, rig.relative_error, 1e-9) * 1.15

    def y(share: float) -> float:
        return _MIDDLE - share / most * 80

    dots = []
    for x, p in zip(applied, points, strict=True):
        reach = p.expanded / abs(p.applied)
        title = f"{figures(x)} {unit}: {number(p.error * 100, '+.2f')} %, ± {number(reach * 100, '.2f')} %"
        dots.append((scale.x(x), y(p.error), y(p.error + reach), y(p.error - reach), title))
    return DrawnCalibration(
        dots,
        band=(y(rig.relative_error), 2 * (_MIDDLE - y(rig.relative_error))),
        limit_words=f"± {number(rig.relative_error * 100, '.3g')} %",
        ticks=scale.ticks,
        unit=unit,
        ends=[
            (y(most / 1.15), f"+{number(most / 1.15 * 100, '.2g')} %"),
            (y(-most / 1.15), f"−{number(most / 1.15 * 100, '.2g')} %"),
        ],
    )


def rig_of(request: SeatedRequest, pk: int) -> Rig:
    """One of the workshop's rigs, else 404."""
    found = Rig.objects.filter(workshop=request.workshop, pk=pk).first()
    if found is None:
        raise Http404("There is no such rig in this workshop.")
    return found


def typed_of(rig: Rig) -> dict[str, str]:
    """A rig as its form would be typed."""

    def text(value: float | None, dimension: str, unit: str) -> str:
        return "" if not value else f"{number(in_unit(value, dimension, unit), '.6g')} {unit}"

    unit = RIG_DIMENSIONS[rig.dimension]
    return {
        "name": rig.name,
        "location": rig.location,
        "capacity": text(rig.capacity, rig.dimension, unit),
        "resolution": text(rig.resolution, rig.dimension, unit),
        "relative_error": f"{number(rig.relative_error * 100, '.4g')} %",
        "instrument": rig.instrument,
        "slowest": text(rig.slowest, "speed", "mm/min"),
        "fastest": text(rig.fastest, "speed", "mm/min"),
        "note": rig.note,
    }


@require_http_methods(["GET", "POST"])
def rig(request: SeatedRequest, pk: int) -> HttpResponse:
    """Look at a rig, or change what is said of it."""
    found, posted = rig_of(request, pk), request.method == "POST"
    form = ChangeRigForm(request.POST if posted else typed_of(found), found)
    seen = request.POST.get("seen", "")

    def as_seen(standing: Rig) -> None:
        stands = typed_of(standing)
        refuse_overtaken(seen, stands, {k: request.POST.get(k, "") for k in stands})

    def store(**told: Any) -> Rig:
        return actions.change_rig(found, actions.RigFacts(**told), as_seen)

    stored = kept(form, store) if posted else None
    if stored:
        messages.success(request, f"{found.name} is stored.")
        return redirect("rig", pk)
    return _page(request, found, form=form, status=422 if posted else 200)


def _page(
    request: SeatedRequest,
    found: Rig,
    form: ChangeRigForm | None = None,
    certificate: CalibrationForm | None = None,
    status: int = 200,
) -> HttpResponse:
    fresh = Rig.objects.get(pk=found.pk)
    rows = []
    for one in fresh.calibrations.select_related("by"):
        told = verdict(one.points) if one.figures else None
        rows.append((one, told, drawn_errors(fresh, one, told) if told else None))
    context = {
        "rig": fresh,
        "unit": RIG_DIMENSIONS[fresh.dimension],
        "form": form or ChangeRigForm(typed_of(fresh), fresh),
        "certificate": certificate or CalibrationForm(auto_id="cal-%s"),
        "seen": fingerprint(typed_of(fresh)),
        "rows": rows,
        "overdue": fresh.overdue(timezone.localdate()),
        "procedures": Procedure.objects.filter(workshop=fresh.workshop, rig=fresh),
        "further": Procedure.objects.filter(workshop=fresh.workshop, also_on=fresh),
    }
    return render(request, "library/rig_page.html", context, status=status)


@require_POST
def calibrate(request: SeatedRequest, pk: int) -> HttpResponse:
    """Keep a certificate."""
    found = rig_of(request, pk)
    form = CalibrationForm(request.POST, auto_id="cal-%s")

    def store(figures: str, takes_limit: bool, **told: Any) -> Calibration:
        points = actions.read_figures(figures, found.dimension)
        if takes_limit and not points and figures.strip():
            raise InputError("No readings found.", "figures")
        told_of = actions.Certificate(points=points, **told)
        return actions.add_calibration(found, request.user, told_of, takes_limit)

    made = kept(form, store)
    if not made:
        return _page(request, found, certificate=form, status=422)
    messages.success(request, f"The {made} is kept.")
    return redirect("rig", pk)


@require_POST
def rig_withdraw_view(request: SeatedRequest, pk: int, calibration: int) -> HttpResponse:
    """A certificate holds no more, or again."""
    try:
        actions.withdraw_calibration(rig_of(request, pk), calibration)
    except InputError as problem:
        raise Http404(problem.sentence) from None
    return redirect("rig", pk)


@require_POST
def further_rigs(request: SeatedRequest, pk: int) -> HttpResponse:
    """On which further rigs a procedure may be done."""
    procedure = procedure_of(request.workshop, pk)
    keys = [
        int(x) for x in request.POST.getlist("rigs") if x.isascii() and x.isdigit() and len(x) < 10
    ]
    try:
        actions.also_on(procedure, list(Rig.objects.filter(workshop=request.workshop, pk__in=keys)))
        messages.success(request, "These rigs can now be chosen at the bench.")
    except InputError as problem:
        messages.error(request, problem.sentence)
    return redirect("procedure", pk)
