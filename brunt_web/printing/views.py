"""The Print print stage: plates in running order, what they carry, how they came out, measuring."""

from secrets import randbelow
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse, JsonResponse, QueryDict
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from brunt_core.errors import InputError
from brunt_core.printing.checks import ASPECTS, DEFECTS
from brunt_core.quantities.rendering import count_of, number
from brunt_web.campaigns.models import Campaign, Specimen
from brunt_web.campaigns.queries import campaign_of, columns_of, progress
from brunt_web.campaigns.resolved import Recipes
from brunt_web.interface.context import campaign_surroundings
from brunt_web.interface.edit_conflicts import fingerprint
from brunt_web.interface.pictures import AT_ONCE
from brunt_web.interface.typed import checked
from brunt_web.jobs.handing import heavy
from brunt_web.jobs.lines import GCODE_AT_ONCE
from brunt_web.library.models import Printer, Recipe
from brunt_web.people.requests import SeatedRequest
from brunt_web.printing import queries
from brunt_web.printing.actions import attempts, observe
from brunt_web.printing.actions import batches as actions
from brunt_web.printing.actions.otherwise import OnPlates, make_off_plates
from brunt_web.printing.cards import cards_of, days_of
from brunt_web.printing.forms import (
    AttemptForm,
    BatchForm,
    GradeForm,
    OtherwiseForm,
    OutcomeForm,
    PrintedForm,
    SizesForm,
    SpecimenForm,
)
from brunt_web.printing.models import Batch
from brunt_web.testing.marks import latest, marks_at, marks_of

MADE_OF = (
    "condition__material",
    "condition__recipe",
    "procedure__variant",
    "campaign__recipe",
)


def print_stage(request: SeatedRequest, pk: int) -> HttpResponse:
    """What waits to be made, and the batches there are."""
    campaign = campaign_of(request.workshop, pk)
    form = BatchForm(request.POST if request.method == "POST" else None, campaign)
    error = None
    if request.method == "POST":
        try:
            batch = actions.make_batch(campaign, request.user, form.draft(randbelow(2**31 - 1)))
            return redirect("batch", batch.pk)
        except InputError as problem:
            error = problem
    return _print_stage_page(request, campaign, form, error)


@require_POST
def print_ahead_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """The plates as they would be filled with what is chosen; nothing is stored."""
    campaign = campaign_of(request.workshop, pk)
    form = BatchForm(request.POST, campaign)
    try:
        plates = actions.fill_ahead(campaign, form.draft(seed=1))
    except InputError as problem:
        return render(request, "printing/_ahead.html", {"lacks": problem.sentence})
    cards = cards_of(plates, ahead=True)
    known = [c.minutes for c in cards]
    total = None if None in known else sum(m for m in known if m)
    return render(request, "printing/_ahead.html", {"cards": cards, "total": total})


def _print_stage_page(
    request: SeatedRequest, campaign: Campaign, form: BatchForm, error: InputError | None
) -> HttpResponse:
    procedures = [c.procedure for c in columns_of(campaign) if c.after is None]
    lots = queries.lots_for(request.workshop, campaign)
    counts = progress(campaign)
    return render(
        request,
        "printing/print_stage.html",
        {
            "counts": counts,
            "batches": queries.batches_of(campaign),
            "days": days_of(campaign),
            "waiting": queries.waiting(campaign, procedures),
            "unmade": queries.unmade_conditions(campaign),
            "form": form,
            "error": error,
            "printers": Printer.objects.filter(archived_at=None, workshop=request.workshop),
            "lots": [(lot, queries.lot_warning(lot, timezone.now())) for lot in lots],
            **campaign_surroundings(campaign, "print", counts),
        },
        status=422 if error else 200,
    )


@require_POST
def otherwise(request: SeatedRequest, pk: int) -> HttpResponse:
    """A whole condition that was not printed here: printed elsewhere, cut, bought."""
    campaign = campaign_of(request.workshop, pk)
    try:
        told = checked(OtherwiseForm(request.POST, campaign))
        made = make_off_plates(
            campaign,
            told["condition"],
            request.user,
            timezone.now(),
            how=told["how"],
            words=told["words"],
            off=told["off_plates"],
        )
        messages.success(
            request, f"{count_of(len(made), 'specimen')} made, ready to be measured or tested."
        )
    except OnPlates as question:
        context = {"campaign": campaign, "question": question.sentence, "typed": told}
        return render(request, "printing/on_plates.html", context, status=409)
    except InputError as problem:
        return _print_stage_page(request, campaign, BatchForm(None, campaign), problem)
    return redirect("print", pk)


@require_GET
def batch(request: SeatedRequest, pk: int) -> HttpResponse:
    """One batch: its plates, what came of each print, its grades."""
    return _batch_page(request, queries.batch_of(request.workshop, pk))


def _batch_page(
    request: SeatedRequest,
    found: Batch,
    error: InputError | None = None,
    typed: QueryDict | None = None,
    looked: tuple[int, str, list[queries.Against]] | None = None,
) -> HttpResponse:
    plates = queries.plates_of(found)
    kind = found.recipe.kind if found.recipe else "filament"
    prints = [p for plate in plates for p in plate.prints]
    for one in prints:
        one.own = queries.own_settings(one, kind)
    return render(
        request,
        "printing/batch.html",
        {
            "batch": found,
            "plates": plates,
            "prints": prints,
            "alone": queries.cannot_be_significant(plates),
            "defects": DEFECTS.items(),
            "aspects": [(k, *v) for k, v in ASPECTS.items()],
            "grades": found.grades.select_related("specimen", "by"),
            "recipes": Recipe.objects.filter(
                workshop=request.workshop, kind=kind, archived_at__isnull=True
            ),
            "error": error,
            "looked": looked,
            "typed": typed or {},
            "warning": queries.lot_warning(found.lot, timezone.now()),
            "unusual": queries.recipe_warnings(found, plates),
            "unprinted": any(not plate.plate.printed_at for plate in plates),
            **campaign_surroundings(found.campaign, "print", progress(found.campaign)),
        },
        status=422 if error else 200,
    )


@require_GET
def plate_sheet(request: SeatedRequest, pk: int) -> HttpResponse:
    """The batch's plate sheets for paper: recipe, what departs from its base, lot, objects and places."""
    found = queries.batch_of(request.workshop, pk)
    kind = found.recipe.kind if found.recipe else "filament"
    plates = queries.plates_of(found)
    for plate in plates:
        for one in plate.prints:
            one.own = queries.own_settings(one, kind)
    return render(
        request,
        "printing/plate_sheet.html",
        {
            "batch": found,
            "plates": plates,
            **campaign_surroundings(found.campaign, "print", progress(found.campaign)),
        },
    )


@require_POST
@heavy("G-code", file_bytes=GCODE_AT_ONCE)
def against(request: SeatedRequest, pk: int, number: int) -> HttpResponse:
    """What a G-code file says, set against the plate's effective recipe; nothing is stored."""
    plate = queries.plate_of(request.workshop, pk, number)
    kind = plate.batch.recipe.kind if plate.batch.recipe else "filament"
    form = PrintedForm(request.POST, request.FILES, request.workshop, kind)
    found = queries.batch_of(request.workshop, pk)
    try:
        used = form.used()
        if used is None:
            raise InputError(
                "Choose a G-code file or a recipe to compare with the plate sheet.", "gcode"
            )
    except InputError as error:
        return _batch_page(request, found, error)
    rows = queries.set_against(kind, plate.settings, used.settings)
    return _batch_page(request, found, looked=(number, used.source, rows))


@require_POST
@heavy("Printed as a G-code file says", file_bytes=GCODE_AT_ONCE)
def printed(request: SeatedRequest, pk: int, number: int) -> HttpResponse:
    """A plate is printed; or, once it is, it was printed with something else."""
    plate = queries.plate_of(request.workshop, pk, number)
    kind = plate.batch.recipe.kind if plate.batch.recipe else "filament"
    form = PrintedForm(request.POST, request.FILES, request.workshop, kind)
    now = timezone.now()
    try:
        used = form.used()
        if plate.printed_at:
            actions.correct_used(plate, request.user, now, used)
            messages.success(
                request, f"Plate {number} was printed with {plate.used_from or 'this'}."
            )
        else:
            actions.mark_printed(plate, request.user, now, used)
            messages.success(request, f"Plate {number} is printed. Measure it next.")
    except InputError as error:
        return _batch_page(request, queries.batch_of(request.workshop, pk), error)
    return redirect("batch", pk)


@require_POST
def failed(request: SeatedRequest, pk: int, number: int) -> HttpResponse:
    """An attempt at a plate failed."""
    plate = queries.plate_of(request.workshop, pk, number)
    form = AttemptForm(request.POST)
    try:
        attempts.note_failed(plate, request.user, timezone.now(), form.draft())
    except InputError as error:
        return _batch_page(request, queries.batch_of(request.workshop, pk), error)
    messages.success(
        request, f"Failed attempt at plate {number} saved; it is waiting to be printed again."
    )
    return redirect("batch", pk)


@require_POST
def attempt_back(request: SeatedRequest, pk: int, number: int, attempt: int) -> HttpResponse:
    """An attempt that was noted by mistake is taken off."""
    attempts.remove_print_attempt(queries.plate_of(request.workshop, pk, number), attempt)
    messages.success(request, "Attempt deleted.")
    return redirect("batch", pk)


@require_POST
def empty(request: SeatedRequest, pk: int, number: int) -> HttpResponse:
    """Take everything off a plate that is not printed."""
    plate = queries.plate_of(request.workshop, pk, number)
    campaign = plate.batch.campaign_id
    try:
        actions.take_off_plate(plate, request.user, timezone.now())
    except InputError as error:
        return _batch_page(request, queries.batch_of(request.workshop, pk), error)
    messages.success(
        request, f"Plate {number} is empty; its specimens are waiting for another plate."
    )
    return redirect("print", campaign)


@require_POST
def outcome(request: SeatedRequest, pk: int) -> HttpResponse:
    """Note how one print came out."""
    found = queries.batch_of(request.workshop, pk)
    try:
        told = checked(OutcomeForm(request.POST))
        one = queries.print_of(found, told["specimen"])
        actions.note_print(
            one, request.user, timezone.now(), told["failed"], told["defects"], told["note"]
        )
    except InputError as error:
        return _batch_page(request, found, error, request.POST)
    return redirect("batch", pk)


@require_POST
def reprint_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """Another in the place of a failed one."""
    found = queries.batch_of(request.workshop, pk)
    try:
        specimen = queries.print_of(found, checked(SpecimenForm(request.POST))["specimen"]).specimen
        made = actions.reprint(specimen, request.user)
        messages.success(request, f"{made.code} takes the place of {specimen.code}.")
    except InputError as error:
        return _batch_page(request, found, error)
    return redirect("batch", pk)


@require_POST
@heavy("Photo of a grade", pixels=AT_ONCE)
def grade_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """Store a grade of the batch or of one specimen."""
    found = queries.batch_of(request.workshop, pk)
    try:
        told = checked(GradeForm(request.POST, request.FILES))
        specimen = queries.print_of(found, told["specimen"]).specimen if told["specimen"] else None
        seen = observe.PrintObservation(
            told["aspect"], told["score"], told["measured"], told["note"]
        )
        observe.grade(found, request.user, seen, specimen, told["photo"])
        messages.success(request, "The grade is stored.")
    except InputError as error:
        return _batch_page(request, found, error, request.POST)
    return redirect("batch", pk)


@require_GET
def print_measuring_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """The batch in test order, a row a specimen."""
    found = queries.batch_of(request.workshop, pk)
    specimens = list(
        Specimen.objects.filter(print__plate__batch=found, made="made", turns__step=0)
        .select_related(*MADE_OF)
        .order_by("turns__run_order")
    )
    return render(
        request,
        "printing/measuring.html",
        {
            "title": f"Measure batch {found.number}",
            "back": reverse("batch", args=[found.pk]),
            "address": reverse("measure-one", args=["XX-XXX"]),
            "rows": _measured_rows(found.campaign, specimens),
            **campaign_surroundings(found.campaign, "print", progress(found.campaign)),
        },
    )


@require_GET
def measuring_all(request: SeatedRequest, pk: int) -> HttpResponse:
    """Everything made and not tested yet, however it was made, in test order."""
    campaign = campaign_of(request.workshop, pk)
    specimens = list(
        Specimen.objects.filter(
            campaign=campaign, made="made", spent=False, turns__step=0, turns__state="waiting"
        )
        .select_related(*MADE_OF)
        .order_by("procedure_id", "turns__run_order")[:400]
    )
    return render(
        request,
        "printing/measuring.html",
        {
            "title": "Measure what is made",
            "back": reverse("print", args=[pk]),
            "address": reverse("measure-one", args=["XX-XXX"]),
            "rows": _measured_rows(campaign, specimens),
            **campaign_surroundings(campaign, "print", progress(campaign)),
        },
    )


def _measured_rows(campaign: Campaign, specimens: list[Specimen]) -> list[dict[str, Any]]:
    recipes, marks = Recipes.of(campaign), marks_at(specimens)
    rows = []
    for s in specimens:
        known = latest(marks[s.pk])
        plan = recipes.resolved(s.condition, s.procedure)
        judged = observe.judge_sizes(s, {k: m.value for k, m in known.items()}, plan)
        rows.append(
            {
                "specimen": s,
                "flags": judged.flags,
                "seen": fingerprint(observe.size_words(known)),
                "mass": known["mass"].text if "mass" in known else "",
                "fields": [
                    (k, known[k].text if k in known else "", nominal)
                    for k, nominal in s.geometry.nominal.items()
                ],
            }
        )
    return rows


@require_POST
def print_measure_one_view(request: SeatedRequest, code: str) -> JsonResponse:
    """Store one row; answers with what it came to."""
    specimen = (
        Specimen.objects.filter(workshop=request.workshop, code=code)
        .select_related(*MADE_OF)
        .first()
    )
    if specimen is None:
        raise Http404(f"There is no specimen {code} in this workshop.")
    plan = Recipes.of(specimen.campaign).resolved(specimen.condition, specimen.procedure)
    form = SizesForm(request.POST, [*specimen.geometry.nominal, "mass"])
    try:
        seen = request.POST.get("seen", "")
        done = observe.measure_print(
            specimen, request.user, timezone.now(), form.texts(), plan, seen
        )
    except InputError as error:
        told = {"field": error.field, "error": error.sentence, "seen": _seen_of(specimen)}
        return JsonResponse(told, status=422)
    shares = {d.key: f"{number(d.share * 100, '+.1f')} %" for d in done.deviations}
    return JsonResponse({"deviations": shares, "flags": done.flags, "seen": _seen_of(specimen)})


def _seen_of(specimen: Specimen) -> str:
    return fingerprint(observe.size_words(marks_of(specimen)))
