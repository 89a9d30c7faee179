"""A specimen's load–displacement curve: brought in, drawn, its points moved."""

from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST

from brunt_core.errors import InputError
from brunt_web.campaigns.queries import progress
from brunt_web.interface.context import campaign_surroundings
from brunt_web.interface.scale import scale_for
from brunt_web.testing import queries
from brunt_web.testing.actions import curves
from brunt_web.testing.attempt import attempt
from brunt_web.testing.curve_queries import Reduced, reduced

WIDTH, HEIGHT = 860, 430
_NAMES = {
    "low": ("slope, lower end", "1"),
    "high": ("slope, upper end", "2"),
    "yield": ("yield", "3"),
    "peak": ("peak", "4"),
    "break": ("break", "5"),
}


@require_http_methods(["GET", "POST"])
def curve(request, code: str):
    """The curve's page; a file on POST."""
    specimen = queries.specimen_of(request.workshop, code)
    if not specimen.procedure.method.curve:
        return redirect("bench-specimen", code)
    if request.method == "GET":
        return _page(request, specimen)
    file = request.FILES.get("curve")
    try:
        content = file.read() if file else request.POST.get("pasted", "").encode()
        name = file.name if file else "pasted"
        curves.bring_curve(specimen, request.user, timezone.now(), name, content)
    except InputError as error:
        return _page(request, specimen, error)
    return redirect("curve", code)


@require_POST
def pick(request, code: str):
    """Move a point, restore it, or take the curve off."""
    specimen = queries.specimen_of(request.workshop, code)
    row = getattr(specimen, "curve", None)
    if row is None:
        return redirect("curve", code)
    error = None
    try:
        if request.POST.get("off"):
            curves.take_off(specimen)
            return redirect("curve", code)
        if "restore" in request.POST:
            curves.restore_picks(row, request.POST["restore"])
        else:
            curves.move_pick(row, request.POST.get("pick", ""), float(request.POST.get("at", "")))
    except InputError as problem:
        error = problem
    except ValueError:
        error = InputError("That is no place on the curve.", "pick")
    if request.headers.get("X-Part") == "curve":
        context = _context(specimen, error)
        return render(request, "testing/_curve.html", context, status=422 if error else 200)
    return _page(request, specimen, error) if error else redirect("curve", code)


def _page(request, specimen, error: InputError | None = None):
    return render(
        request,
        "testing/curve.html",
        {
            **_context(specimen, error),
            "pasted": request.POST.get("pasted", ""),
            **campaign_surroundings(specimen.campaign, "test", progress(specimen.campaign)),
        },
        status=422 if error else 200,
    )


def _context(specimen, error: InputError | None = None) -> dict:
    found = reduced(specimen) if getattr(specimen, "curve", None) else None
    context = {
        "specimen": specimen,
        "procedure": specimen.procedure,
        "found": found,
        "error": error or (found.error if found else None),
        "width": WIDTH,
        "height": HEIGHT,
    }
    if found and found.reduction:
        texts = queries.known_texts(specimen)
        outcome = specimen.test.outcome if hasattr(specimen, "test") else ""
        context |= {"plot": _plot(found), "tried": attempt(specimen, texts, outcome)}
    return context


def _plot(found: Reduced) -> dict:
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
            for key, (x, y) in at.items()
        ],
        "origin": x_scale.x(0.0),
        "per_mm": x_scale.x(1.0) - x_scale.x(0.0),
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
