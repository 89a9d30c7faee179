"""The Print station: batches, plates, files, measuring, grades, labels."""

from secrets import randbelow

from django.contrib import messages
from django.http import Http404, JsonResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from brunt_core.errors import InputError
from brunt_core.printing.checks import ASPECTS, DEFECTS
from brunt_core.quantities.numbers import read_number
from brunt_web.campaigns.models import Specimen
from brunt_web.campaigns.queries import campaign_of, procedures_of, progress
from brunt_web.interface.context import campaign_surroundings
from brunt_web.library.models import Lot, Printer, Recipe
from brunt_web.printing import queries
from brunt_web.printing.actions import batches as actions
from brunt_web.printing.actions import observe
from brunt_web.testing.actions.record_test import measure

MADE_OF = (
    "condition__material",
    "condition__recipe",
    "procedure__variant",
    "print",
    "campaign__recipe",
)


def station(request, pk: int):
    """What waits to be printed, and the batches there are."""
    campaign = campaign_of(request.workshop, pk)
    error = None
    if request.method == "POST":
        try:
            batch = actions.make_batch(campaign, request.user, _draft(request, campaign))
            return redirect("batch", batch.pk)
        except InputError as problem:
            error = problem
    procedures = procedures_of(campaign)
    lots = list(
        Lot.objects.filter(
            workshop=request.workshop,
            archived_at__isnull=True,
            material__condition__campaign=campaign,
        )
        .distinct()
        .select_related("material")
        .prefetch_related("dryings")
    )
    return render(
        request,
        "printing/station.html",
        {
            "batches": queries.batches_of(campaign),
            "waiting": queries.waiting(campaign, procedures),
            "procedures": procedures,
            "error": error,
            "printers": Printer.objects.filter(workshop=request.workshop),
            "recipes": Recipe.objects.filter(workshop=request.workshop, archived_at__isnull=True),
            "lots": [(lot, queries.lot_warning(lot, timezone.now())) for lot in lots],
            "typed": request.POST,
            **campaign_surroundings(campaign, "print", progress(campaign)),
        },
        status=422 if error else 200,
    )


def _draft(request, campaign) -> actions.BatchDraft:
    post, shop = request.POST, request.workshop
    printer = Printer.objects.filter(workshop=shop, pk=_key(post.get("printer"))).first()
    procedure = next(
        (p for p in procedures_of(campaign) if str(p.pk) == post.get("procedure")), None
    )
    if printer is None:
        raise InputError("Choose a printer; the library takes new ones.", "printer")
    if procedure is None:
        raise InputError("Choose which specimens are printed.", "procedure")
    try:
        gap = read_number(post.get("gap") or "5")
        most = int(read_number(post["most"])) if post.get("most", "").strip() else None
    except InputError as error:
        raise error.at("gap") from None
    if most is not None and most < 1:
        raise InputError("Print at least one.", "gap")
    return actions.BatchDraft(
        printer,
        procedure,
        randbelow(2**31 - 1),
        Recipe.objects.filter(workshop=shop, pk=_key(post.get("recipe"))).first(),
        Lot.objects.filter(workshop=shop, pk=_key(post.get("lot"))).first(),
        gap,
        most,
    )


def _key(text) -> int:
    return int(text) if text and text.isdigit() and len(text) < 12 else 0


def batch(request, pk: int):
    """One batch: its plates, what came of each print, its grades."""
    found = queries.batch_of(request.workshop, pk)
    error = None
    if request.method == "POST":
        try:
            return _change_batch(request, found)
        except InputError as problem:
            error = problem
    plates = queries.plates_of(found)
    return render(
        request,
        "printing/batch.html",
        {
            "batch": found,
            "plates": plates,
            "prints": [p for plate in plates for p in plate.prints],
            "defects": DEFECTS.items(),
            "aspects": [(k, *v) for k, v in ASPECTS.items()],
            "grades": found.grades.select_related("specimen", "by"),
            "error": error,
            "typed": request.POST,
            "warning": queries.lot_warning(found.lot, timezone.now()),
            "unusual": queries.recipe_warnings(found),
            **campaign_surroundings(found.campaign, "print", progress(found.campaign)),
        },
        status=422 if error else 200,
    )


def _change_batch(request, found):
    post = request.POST
    if post.get("printed"):
        actions.mark_printed(found, timezone.now())
        messages.success(request, f"Batch {found.number} is printed. Measure it next.")
    elif post.get("grade"):
        photo = request.FILES.get("photo")
        specimen = Specimen.objects.filter(
            print__batch=found, code=post.get("specimen", "")
        ).first()
        observe.grade(
            found,
            request.user,
            observe.Observation(
                post.get("aspect", ""),
                _key(post.get("score")),
                post.get("measured", ""),
                post.get("note", ""),
            ),
            specimen,
            photo.read() if photo else None,
        )
        messages.success(request, "The grade is stored.")
    elif post.get("reprint"):
        specimen = (
            Specimen.objects.filter(print__batch=found, code=post["reprint"])
            .select_related("print", "campaign", "procedure", "condition")
            .first()
        )
        if specimen is None:
            raise InputError("That specimen is not in this batch.", "specimen")
        made = actions.reprint(specimen)
        messages.success(request, f"{made.code} takes the place of {specimen.code}.")
    else:
        _note_one(post, found)
    return redirect("batch", found.pk)


def _note_one(post, found) -> None:
    one = (
        found.prints.select_related("specimen")
        .filter(specimen__code=post.get("specimen", ""))
        .first()
    )
    if one is None:
        raise InputError("That specimen is not in this batch.", "specimen")
    actions.note_print(one, bool(post.get("failed")), post.getlist("defects"), post.get("note", ""))


@require_GET
def measuring(request, pk: int):
    """The batch in test order, a row a specimen."""
    found = queries.batch_of(request.workshop, pk)
    specimens = (
        Specimen.objects.filter(print__batch=found, print__failed=False)
        .select_related(*MADE_OF)
        .prefetch_related("measurements")
        .order_by("run_order")
    )
    rows = []
    for s in specimens:
        marks = {m.key: m for m in s.measurements.all()}
        judged = observe.judge(s, {k: m.value for k, m in marks.items()}, s.print.mass)
        rows.append(
            {
                "specimen": s,
                "flags": judged.flags,
                "mass": s.print.mass_text,
                "fields": [
                    (k, marks[k].text if k in marks else "", nominal)
                    for k, nominal in s.procedure.geometry.nominal.items()
                ],
            }
        )
    return render(
        request,
        "printing/measuring.html",
        {
            "batch": found,
            "rows": rows,
            **campaign_surroundings(found.campaign, "print", progress(found.campaign)),
        },
    )


@require_POST
def measure_one(request, code: str):
    """Store one row; answers with what it came to."""
    specimen = (
        Specimen.objects.filter(workshop=request.workshop, code=code)
        .select_related(*MADE_OF)
        .first()
    )
    if specimen is None:
        raise Http404(f"There is no specimen {code} in this workshop.")
    keys = [*specimen.procedure.geometry.nominal, "mass"]
    try:
        done = observe.measure_print(
            specimen,
            request.user,
            timezone.now(),
            {k: request.POST.get(k, "") for k in keys},
            measure,
        )
    except InputError as error:
        return JsonResponse({"field": error.field, "error": error.sentence}, status=422)
    shares = {d.key: f"{d.share * 100:+.1f} %" for d in done.deviations}
    return JsonResponse({"deviations": shares, "flags": done.flags})
