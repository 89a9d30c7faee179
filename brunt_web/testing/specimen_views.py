"""The specimen's own page: its history drawn, its tests with their working, what counts, photos."""

from typing import Any

from django.contrib import messages
from django.db.models import Q
from django.http import FileResponse, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.utils.html import format_html
from django.views.decorators.http import require_GET, require_POST

from brunt_core.errors import InputError
from brunt_core.treatments.change import SHAPE_SIZES
from brunt_web.campaigns import history
from brunt_web.campaigns.models import Specimen, Turn
from brunt_web.campaigns.queries import progress
from brunt_web.campaigns.state import state_from
from brunt_web.interface.context import campaign_surroundings
from brunt_web.interface.edit_conflicts import fingerprint
from brunt_web.interface.pictures import AT_ONCE, shown_file
from brunt_web.interface.typed import checked
from brunt_web.jobs.handing import heavy
from brunt_web.people.requests import SeatedRequest
from brunt_web.people.roles import may, needed
from brunt_web.results.reading import Group, grouped, samples
from brunt_web.testing import history_view, queries
from brunt_web.testing.actions import change_test
from brunt_web.testing.actions.photos import FOLDER, add_photo, remove_photo
from brunt_web.testing.actions.record_test import measure
from brunt_web.testing.flags import flag_of, outlier_effect
from brunt_web.testing.forms import MeasurementForm, NoteForm, OwnIdForm, PhotoForm, WhyForm
from brunt_web.testing.marks import marks_at
from brunt_web.testing.models import Photo
from brunt_web.testing.names import TurnName


@require_GET
def specimen(request: SeatedRequest, code: str) -> HttpResponse:
    """A specimen's history."""
    return history_page(request, queries.specimen_of(request.workshop, code))


def history_page(
    request: SeatedRequest, found: Specimen, error: InputError | None = None, where: str = ""
) -> HttpResponse:
    """The page, with the sentence beside what was refused."""
    now = timezone.now()
    turns = queries.turns_of(found)
    events = list(found.events.select_related("by"))
    return render(
        request,
        "testing/specimen.html",
        {
            "specimen": found,
            "turns": [_shown(t) for t in turns],
            "next_turn": next((t for t in turns if t.state in ("waiting", "running")), None),
            "sprites": turns,
            "state": state_from(events, now),
            "moments": history_view.moments_of(found, turns, events, now),
            "mass": history_view.mass_curve(found),
            "measurements": marks_at([found])[found.pk],
            "photos": found.photos.all(),
            "conditions": found.campaign.conditions.exclude(pk=found.condition_id),
            "sizes": _sizes(found),
            "error": error,
            "where": where,
            "typed": request.POST if error else {},
            **campaign_surroundings(found.campaign, "test", progress(found.campaign)),
        },
        status=422 if error else 200,
    )


def _shown(turn: Turn) -> dict[str, Any]:
    """One test of the specimen with everything that came of it."""
    test = getattr(turn, "test", None)
    flag = flag_of(turn) if test else None
    return {
        "turn": turn,
        "procedure": turn.procedure,
        "test": test,
        "seen": fingerprint(change_test.counts_words(test)),
        "results": turn.results.all(),
        "readings": test.readings.all() if test else [],
        "curve": getattr(turn, "curve", None),
        "flag": flag,
        "beside": outlier_effect(turn) if flag else None,
        "among": history_view.among_siblings(turn, _group(turn)) if test else None,
        "outstanding": "" if test else history.outstanding_words(turn, timezone.now()),
    }


def _group(turn: Turn) -> Group:
    where = Q(turn__condition_id=turn.condition_id, turn__procedure_id=turn.procedure_id)
    found = grouped(samples(where, [turn.procedure.ranked_property.key]), [turn.procedure])
    return found.get((turn.condition_id, turn.procedure_id), Group())


@require_POST
def name(request: SeatedRequest, code: str) -> HttpResponse:
    """What its tester calls it; another of the same name in the campaign is told."""
    found = queries.specimen_of(request.workshop, code)
    try:
        called = " ".join(checked(OwnIdForm(request.POST))["own_id"].split())
    except InputError as error:
        messages.error(request, error.sentence)
        return redirect("specimen", code)
    if called != found.own_id:
        history.called(found, called, request.user, timezone.now())
    others = Specimen.objects.filter(campaign=found.campaign, own_id__iexact=called)
    twins = [s.code for s in others.exclude(pk=found.pk)[:4]] if called else []
    if twins:
        also = "has" if len(twins) == 1 else "have"
        messages.info(request, f"{', '.join(twins)} {also} the same name.")
    return redirect("specimen", code)


@require_POST
def leave_out(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """Leave a test out of the mean, for a written reason."""
    turn = queries.turn_of(request.workshop, *at)
    if not hasattr(turn, "test"):
        return redirect("specimen", turn.code)
    try:
        told = checked(WhyForm(request.POST))
        seen = request.POST.get("seen", "")
        change_test.exclude(turn.test, told["reason"], request.user, timezone.now(), seen)
    except InputError as error:
        found = queries.specimen_of(request.workshop, turn.code)
        return history_page(request, found, error, f"leave-out-{turn.step}")
    return redirect("specimen", turn.code)


@require_POST
def count(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """Count a test again."""
    turn = queries.turn_of(request.workshop, *at)
    try:
        if hasattr(turn, "test"):
            seen = request.POST.get("seen", "")
            change_test.count_again(turn.test, request.user, timezone.now(), seen)
    except InputError as error:
        found = queries.specimen_of(request.workshop, turn.code)
        return history_page(request, found, error, f"leave-out-{turn.step}")
    return redirect("specimen", turn.code)


@require_POST
def another(request: SeatedRequest, code: str) -> HttpResponse:
    """One more replicate of this specimen's condition, to test beside it."""
    found = queries.specimen_of(request.workshop, code)
    more = change_test.another_replicate(found, request.user, timezone.now())
    todo = "test it" if more.made == "made" else "print it and test it"
    sentence = f"{more.code} is added to {found.condition}: {todo}."
    lead = may(request.seat.rights, needed("take-off-plan", "POST"))
    if request.headers.get("X-Part") == "bench":
        back = "It can be removed at Ask." if lead else "A lead can remove it under Ask."
        return HttpResponse(f"{sentence} {back}", content_type="text/plain; charset=utf-8")
    ask = reverse("ask", args=[found.campaign_id])
    take_off = '<a href="{}">Remove it</a> under Ask.'
    way = take_off if lead else 'A lead can remove it under <a href="{}">Ask</a>.'
    messages.success(request, format_html("{} Not wanted? {}", sentence, format_html(way, ask)))
    return redirect("specimen", code)


def _sizes(found: Specimen) -> list[str]:
    """What can be measured of it: its section, its length and shape, its mass."""
    own = list(found.geometry.nominal)
    return [*own, *(s.key for s in SHAPE_SIZES if s.key not in own), "mass"]


@require_POST
def weigh(request: SeatedRequest, code: str) -> HttpResponse:
    """Sizes and mass at a moment of its history."""
    found = queries.specimen_of(request.workshop, code)
    form = MeasurementForm(request.POST, _sizes(found))
    try:
        told = checked(form)
        texts = form.texts()
        if not any(texts.values()):
            raise InputError("Type a size or the mass first.", "mass")
        measure(found, request.user, told["at"], texts, told["name"])
    except InputError as error:
        return history_page(request, found, error, "weigh")
    messages.success(request, f"{code}: {told['name']}, noted.")
    return redirect("specimen", code)


@require_POST
def note_view(request: SeatedRequest, code: str) -> HttpResponse:
    """A note in its history."""
    found = queries.specimen_of(request.workshop, code)
    try:
        words = checked(NoteForm(request.POST))["words"]
    except InputError as error:
        return history_page(request, found, error, "note")
    history.note([found], "note", request.user, timezone.now(), words)
    return redirect("specimen", code)


@require_POST
@heavy("Photo", pixels=AT_ONCE)
def specimen_photo_view(request: SeatedRequest, code: str) -> HttpResponse:
    """Attach a photo."""
    found = queries.specimen_of(request.workshop, code)
    try:
        told = checked(PhotoForm(request.POST, request.FILES))
        add_photo(found, request.user, timezone.now(), told["photo"], told["caption"])
    except InputError as error:
        return history_page(request, found, error, "photo")
    return redirect("specimen", code)


@require_POST
def photo_off(request: SeatedRequest, code: str, pk: int) -> HttpResponse:
    """Take a photo off."""
    remove_photo(queries.specimen_of(request.workshop, code), pk)
    return redirect("specimen", code)


@require_GET
def photo_file(request: SeatedRequest, pk: int) -> FileResponse:
    """The picture itself, to its workshop only."""
    row = Photo.objects.filter(pk=pk, specimen__workshop=request.workshop).first()
    return shown_file(FOLDER, row.file if row else "", "There is no such photo in this workshop.")
