"""Procedures and rigs: what there is, and one more."""

from functools import partial

from django.contrib import messages
from django.forms import Form
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from brunt_web.interface.typed import kept
from brunt_web.library.actions.procedures import add_procedure, add_rig
from brunt_web.library.actions.standard_procedures import STARTERS, ensure_starter
from brunt_web.library.forms import RigForm
from brunt_web.library.models import Procedure, Rig
from brunt_web.library.procedure_forms import MethodForm, ProcedureForm, StarterForm
from brunt_web.library.procedure_page import drawing, drawing_of, geometry_named
from brunt_web.library.queries import procedure_of, procedures_of_workshop
from brunt_web.people.requests import SeatedRequest


@require_GET
def procedures_view(request: SeatedRequest) -> HttpResponse:
    """The workshop's procedures and rigs, and forms for one more of the method in the address."""
    form = ProcedureForm(None, request.workshop, MethodForm(request.GET).chosen)
    return _page(request, procedure_form=form)


def _page(request: SeatedRequest, status: int = 200, **forms: Form) -> HttpResponse:
    shop = request.workshop
    mine = procedures_of_workshop(shop)
    names = {p.name for p in mine}
    procedure_form = forms.get("procedure_form") or ProcedureForm(
        None, shop, MethodForm(None).chosen
    )
    assert isinstance(procedure_form, ProcedureForm)
    method = procedure_form.method
    return render(
        request,
        "library/procedures.html",
        {
            "procedures": mine,
            "drawn": [(p, drawing_of(p)["rig"]) for p in mine],
            **drawing(
                method,
                geometry_named(shop, "", method),
                orientation="flat",
                speed=None,
                parameters={},
                times=(),
                conditioning="",
            ),
            "rigs": Rig.objects.filter(workshop=shop),
            "starters": [s for s in STARTERS if s.name not in names],
            "chosen": method,
            "method_form": MethodForm(initial={"method": method.key}, auto_id="choose-%s"),
            "rig_form": RigForm(auto_id="rig-%s"),
            "starter_form": StarterForm(),
            **forms,
            "procedure_form": procedure_form,
        },
        status=status,
    )


@require_GET
def procedure_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """One procedure: its rig drawn, its reading times, where it departs from the nearest standard."""
    found = procedure_of(request.workshop, pk)
    rigs = Rig.objects.filter(workshop=request.workshop, archived_at__isnull=True)
    if found.rig:
        rigs = rigs.filter(dimension=found.rig.dimension).exclude(pk=found.rig.pk)
    further = set(found.also_on.values_list("pk", flat=True))
    context = {"procedure": found, "rigs": [(r, r.pk in further) for r in rigs]}
    return render(request, "library/procedure.html", context | drawing_of(found))


@require_POST
def procedure_look_view(request: SeatedRequest) -> HttpResponse:
    """The rig for what is typed so far; nothing is stored."""
    method = MethodForm(request.POST).chosen
    form = ProcedureForm(request.POST, request.workshop, method)
    form.is_valid()
    told = getattr(form, "cleaned_data", {})
    geometry = geometry_named(request.workshop, str(request.POST.get("specimen_type", "")), method)
    shown = drawing(
        method,
        geometry,
        orientation=told.get("orientation") or "flat",
        speed=told.get("speed"),
        parameters={k[2:]: str(v) for k, v in told.items() if k.startswith("p-") and v},
        times=told.get("reading_times") or (),
        conditioning=told.get("conditioning") or "",
    )
    return render(request, "library/_rig.html", shown)


@require_POST
def new_procedure(request: SeatedRequest) -> HttpResponse:
    """One more procedure, of the method the form names."""
    method = MethodForm(request.POST)
    form = ProcedureForm(request.POST, request.workshop, method.chosen)

    def store(**_: object) -> Procedure:
        return add_procedure(request.workshop, form.draft())

    if not method.is_valid():
        form.add_error(None, "There is no such method.")
    made = kept(form, store)
    return _added(request, made) if made else _page(request, 422, procedure_form=form)


@require_POST
def new_rig(request: SeatedRequest) -> HttpResponse:
    """One more measuring device."""
    form = RigForm(request.POST, auto_id="rig-%s")
    made = kept(form, partial(add_rig, request.workshop))
    return _added(request, made) if made else _page(request, 422, rig_form=form)


@require_POST
def new_starter(request: SeatedRequest) -> HttpResponse:
    """One of the ready-made procedures."""

    def store(starter: str) -> Procedure:
        chosen = next(s for s in STARTERS if s.name == starter)
        rigs = {r.dimension: r for r in Rig.objects.filter(workshop=request.workshop)}
        return ensure_starter(request.workshop, chosen, rigs)

    form = StarterForm(request.POST)
    made = kept(form, store)
    return _added(request, made) if made else _page(request, 422, starter_form=form)


def _added(request: SeatedRequest, made: object) -> HttpResponse:
    messages.success(request, f"{made} is in the library.")
    return redirect("procedures")
