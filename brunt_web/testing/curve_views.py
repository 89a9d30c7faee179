"""A specimen's load–displacement curve: brought in, drawn, its points moved."""

from collections.abc import Callable
from typing import Any

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST

from brunt_core.curves.reading import Guess
from brunt_core.curves.reduction import thinned_for_drawing
from brunt_core.errors import InputError
from brunt_web.campaigns.models import Turn
from brunt_web.campaigns.queries import progress
from brunt_web.interface.context import campaign_surroundings
from brunt_web.interface.scale import scale_for
from brunt_web.interface.typed import checked
from brunt_web.people.requests import SeatedRequest
from brunt_web.testing import queries
from brunt_web.testing.actions import curves
from brunt_web.testing.attempt import attempt
from brunt_web.testing.curve_queries import Reduced, reduced
from brunt_web.testing.forms import AnswerForm, CurveForm, PickForm
from brunt_web.testing.models import AskedCurve, Curve
from brunt_web.testing.names import TurnName

WIDTH, HEIGHT = 860, 430
_NAMES = {
    "low": ("slope, lower end", "1"),
    "high": ("slope, upper end", "2"),
    "yield": ("yield", "3"),
    "peak": ("peak", "4"),
    "break": ("break", "5"),
}


@require_http_methods(["GET", "POST"])
def curve(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """The curve's page; a file on POST."""
    turn = queries.turn_of(request.workshop, *at)
    if not turn.procedure.method.curve:
        return redirect(turn.address)
    if request.method == "GET":
        return _page(request, turn)
    form = CurveForm(request.POST, request.FILES)
    try:
        told = checked(form)
        file = told["curve"]
        content = file.read() if file else told["pasted"].encode()
        name = file.name if file else "pasted"
        curves.bring_curve(turn, request.user, timezone.now(), name, content)
    except InputError as error:
        return _page(request, turn, error, form["pasted"].value() or "")
    return redirect("curve", at)


@require_POST
def pick(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """Move a point."""
    form = PickForm(request.POST)

    def move(row: Curve) -> None:
        if not form.is_valid():
            raise InputError("That is no place on the curve.", "pick")
        curves.move_pick(row, form.cleaned_data["pick"], form.cleaned_data["at"])

    return _change(request, at, move)


@require_POST
def restore(request: SeatedRequest, at: TurnName, point: str = "") -> HttpResponse:
    """A point where it was found by itself again, or all of them."""
    return _change(request, at, lambda row: curves.restore_picks(row, point))


@require_POST
def answer(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """Which way the file is to be read that the tester was asked about."""
    turn = queries.turn_of(request.workshop, *at)
    form = AnswerForm(request.POST)
    try:
        chosen = form.cleaned_data["chosen"] if form.is_valid() else "?"
        curves.answer(turn, request.user, timezone.now(), chosen)
    except InputError as error:
        return _page(request, turn, error)
    queries.let_go(turn)
    return redirect("curve", at)


@require_POST
def forget(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """Throw away the file the tester was asked about."""
    curves.forget(queries.turn_of(request.workshop, *at))
    return redirect("curve", at)


@require_POST
def spikes_out(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """Reduce the curve without its spikes."""
    return _change(request, at, lambda row: curves.leave_spikes_out(row, True))


@require_POST
def spikes_in(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """Reduce the curve with its spikes again."""
    return _change(request, at, lambda row: curves.leave_spikes_out(row, False))


@require_POST
def take_off(request: SeatedRequest, at: TurnName) -> HttpResponse:
    """Take the curve off."""
    turn = queries.turn_of(request.workshop, *at)
    curves.take_off(turn)
    queries.let_go(turn)
    return redirect("curve", at)


def _change(
    request: SeatedRequest, at: TurnName, change: Callable[[Curve], object]
) -> HttpResponse:
    turn = queries.turn_of(request.workshop, *at)
    row = getattr(turn, "curve", None)
    if row is None:
        return redirect("curve", at)
    error = None
    try:
        change(row)
    except InputError as problem:
        error = problem
    queries.let_go(turn)
    if request.headers.get("X-Part") == "curve":
        context = _context(turn, error)
        return render(request, "testing/_curve.html", context, status=422 if error else 200)
    return _page(request, turn, error) if error else redirect("curve", at)


def _page(
    request: SeatedRequest, turn: Turn, error: InputError | None = None, pasted: str = ""
) -> HttpResponse:
    return render(
        request,
        "testing/curve.html",
        {
            **_context(turn, error),
            "pasted": pasted,
            **campaign_surroundings(turn.campaign, "test", progress(turn.campaign)),
        },
        status=422 if error else 200,
    )


def _context(turn: Turn, error: InputError | None = None) -> dict[str, Any]:
    found = reduced(turn) if getattr(turn, "curve", None) else None
    asked = AskedCurve.objects.filter(turn=turn).first()
    context: dict[str, Any] = {
        "turn": turn,
        "specimen": turn.specimen,
        "procedure": turn.procedure,
        "found": found,
        "error": error or (found.error if found else None),
        "width": WIDTH,
        "height": HEIGHT,
        "asked": asked,
    }
    if asked:
        doubt = curves.ways_to_read(asked)
        context |= {"question": doubt.sentence, "ways": [_sketch(g) for g in doubt.guesses]}
    if found and found.reduction:
        texts = queries.known_texts(turn)
        outcome = turn.test.outcome if hasattr(turn, "test") else ""
        context |= {"plot": _plot(found), "tried": attempt(turn, texts, outcome)}
    return context


def _plot(found: Reduced) -> dict[str, Any]:
    """The drawing: scales in mm and N, the line, the slope and offset lines, the picks."""
    r = found.reduction
    assert r is not None
    x_scale = scale_for([p[0] * 1e3 for p in found.points], width=WIDTH, pad=60)
    y_scale = scale_for([0.0, *(p[1] for p in found.points)], width=HEIGHT, pad=40)

    def place(x: float, force: float) -> tuple[float, float]:
        return round(x_scale.x(x * 1e3), 1), round(HEIGHT - y_scale.x(force), 1)

    at = _parted({key: place(x, _force_at(found.points, x)) for key, x in r.picks.items()})
    top = r.peak_load * 1.05
    return {
        "line": " ".join(f"{x},{y}" for x, y in (place(*p) for p in found.points)),
        "slope": (*place(r.toe, 0.0), *place(r.toe + top / r.slope, top)),
        "toe": place(r.toe, 0.0),
        "x_ticks": x_scale.ticks,
        "y_ticks": [(HEIGHT - y, label) for y, label in y_scale.ticks],
        "picks": [
            {
                "key": key,
                "name": _NAMES[key][0],
                "digit": _NAMES[key][1],
                "x": x,
                "y": y,
                "mm": r.picks[key] * 1e3,
                "moved": key in found.row.picks,
            }
            for key, (x, y) in sorted(at.items(), key=lambda item: _NAMES[item[0]][1])
        ],
        "spikes": [place(*p) for p in found.spikes],
        "rest": _rest_of(found),
        "offset": _offset_line(found, place),
        "origin": x_scale.x(0.0),
        "per_mm": x_scale.x(1.0) - x_scale.x(0.0),
    }


def _offset_line(
    found: Reduced, place: Callable[[float, float], tuple[float, float]]
) -> tuple[float, float, float, float] | None:
    """The line moved by the offset, from zero load to the yield it meets."""
    r = found.reduction
    assert r is not None
    if r.yield_load is None or "yield" in found.row.picks:
        return None
    at = r.picks["yield"]
    return (*place(at - r.yield_load / r.slope, 0.0), *place(at, r.yield_load))


def _sketch(guess: Guess) -> dict[str, Any]:
    """A small drawing of one way to read a file, with what it would come to."""
    points = thinned_for_drawing(guess.curve, 100)
    x_scale = scale_for([p[0] * 1e3 for p in points], width=380, pad=44, steps=4)
    y_scale = scale_for([0.0, *(p[1] for p in points)], width=210, pad=26, steps=4)
    top = max(p[1] for p in points)
    return {
        "key": guess.key,
        "words": guess.words,
        "peak": top,
        "line": " ".join(f"{x_scale.x(x * 1e3):.1f},{210 - y_scale.x(f):.1f}" for x, f in points),
        "x_ticks": x_scale.ticks,
        "y_ticks": [(210 - y, label) for y, label in y_scale.ticks],
    }


def _rest_of(found: Reduced) -> dict[str, Any]:
    """The residuals of the straight part: their points in a narrow drawing, and its scale in N."""
    assert found.reduction is not None
    most = max((abs(r) for _, r in found.residuals), default=0.0)
    most = max(most, 1e-4 * found.reduction.peak_load)
    x_scale = scale_for([x * 1e3 for x, _ in found.residuals], width=WIDTH, pad=60)
    return {
        "points": [(x_scale.x(x * 1e3), round(45 - 36 * r / most, 1)) for x, r in found.residuals],
        "most": most,
        "x_ticks": x_scale.ticks,
    }


def _parted(at: dict[str, tuple[float, float]]) -> dict[str, tuple[float, float]]:
    """Marks that would hide one another, one above the other."""
    seen: list[tuple[float, float]] = []
    for key, (x, y) in at.items():
        while any(abs(x - a) < 16 and abs(y - b) < 20 for a, b in seen):
            y -= 21
        seen.append((x, y))
        at[key] = (x, round(y, 1))
    return at


def _force_at(points: list[tuple[float, float]], x: float) -> float:
    return min(points, key=lambda p: abs(p[0] - x))[1]
