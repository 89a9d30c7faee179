"""How each step of a feedstock qualification is judged: its measurement, its arithmetic, pass or fail.

The limits are common practice of the trade (no source), and each can be set otherwise.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field

from brunt_core.computation import compute
from brunt_core.errors import InputError
from brunt_core.methods.base import Input
from brunt_core.methods.registry import method
from brunt_core.quantities import parse
from brunt_core.quantities.rendering import figures, number, render
from brunt_core.quantities.series import SeriesRow, parse_rows

Texts = Mapping[str, str]


@dataclass(frozen=True)
class StepVerdict:
    """What a step came to: passed or not and why, the arithmetic in lines, and what was learnt.

    ``learnt`` are recipe settings by key, as text with unit.
    """

    passed: bool
    reason: str
    working: tuple[str, ...] = ()
    learnt: Mapping[str, str] = field(default_factory=dict)


def _text(texts: Texts, spec: Input) -> str:
    text = (texts.get(spec.key) or spec.default).strip()
    if not text and spec.required:
        raise InputError(f"The {spec.label.lower()} is missing.", spec.key)
    return text


def _number(texts: Texts, spec: Input) -> float:
    """A quantity in SI. Raises :class:`InputError` naming its input."""
    try:
        value = parse(_text(texts, spec), spec.dimension, spec.unit).si
    except InputError as error:
        raise error.at(spec.key) from None
    if value < 0:
        raise InputError(f"The {spec.label.lower()} cannot be less than zero.", spec.key)
    return value


def _rows(texts: Texts, spec: Input) -> tuple[SeriesRow, ...]:
    try:
        found = parse_rows(_text(texts, spec), spec.along, spec.dimension, spec.unit)
    except InputError as error:
        raise error.at(spec.key) from None
    if not found:
        raise InputError(f"The {spec.label.lower()} holds no reading.", spec.key)
    return found


def _limit(key: str, label: str, dimension: str, unit: str, default: str) -> Input:
    return Input(key, label, "", dimension, unit, required=False, default=default)


# -- dry ------------------------------------------------------------------------------------------

WEIGHINGS = Input(
    "weighings",
    "Weighings while drying",
    "m",
    "mass",
    "g",
    kind="series",
    along=(("time", "h"),),
    hint="0 h: 500 g; 4 h: 497.2; 6 h: 497.0",
)
DRY_LIMIT = _limit("limit", "Dry below, % an hour", "ratio", "%", "0.05 %")


def judge_dry(texts: Texts) -> StepVerdict:
    """Dry when the mass falls by less than a limit an hour between the last two weighings.

    Loss = (m₁ − m₂)/m₁/Δt. Raises :class:`InputError` for fewer than two, times that do not rise, or
    a mass that grows by more than it could weigh wrong (0.1 %).

    >>> judge_dry({"weighings": "0 h: 500; 4 h: 497.2; 6 h: 497.0"}).passed
    True
    """
    rows = _rows(texts, WEIGHINGS)
    if len(rows) < 2:
        raise InputError("Two weighings are the least.", "weighings")
    if any(b.at[0] <= a.at[0] for a, b in zip(rows, rows[1:], strict=False)):
        raise InputError("The times of the weighings do not rise.", "weighings")
    before, after = rows[-2], rows[-1]
    if after.value > before.value * 1.001:
        raise InputError("It grew heavier while it dried: weigh again.", "weighings")
    hours = (after.at[0] - before.at[0]) / 3600
    loss = (before.value - after.value) / before.value / hours
    limit = _number(texts, DRY_LIMIT)
    whole = 1 - after.value / rows[0].value
    working = (
        f"({figures(before.value * 1e3, 5)} − {figures(after.value * 1e3, 5)}) / "
        f"{figures(before.value * 1e3, 5)} / {number(hours, 'g')} h = {number(loss * 100, '.3f')} % an hour",
        f"lost in all {number(whole * 100, '.2f')} %",
    )
    passed = loss <= limit
    word = "below" if passed else "still above"
    return StepVerdict(
        passed,
        f"It loses {number(loss * 100, '.3f')} % an hour, {word} {number(limit * 100, 'g')} %.",
        working,
    )


# -- particles --------------------------------------------------------------------------------------

OVER = Input(
    "over", "Share too large for the throat", "", "ratio", "%", hint="from a picture, or sieved"
)
UNDER = Input("under", "Share too fine", "", "ratio", "%", required=False, default="0 %")
OVER_LIMIT = _limit("over_limit", "At most too large", "ratio", "%", "1 %")
UNDER_LIMIT = _limit("under_limit", "At most too fine", "ratio", "%", "10 %")


def judge_particles(texts: Texts) -> StepVerdict:
    """Of a size that feeds: neither too many too large nor too many too fine.

    >>> judge_particles({"over": "3 %"}).reason
    '3 % are too large, above 1 %: they jam the throat.'
    """
    over, under = _number(texts, OVER), _number(texts, UNDER)
    if over + under > 1:
        raise InputError("Too large and too fine are more than all of it.", "under")
    most, least = _number(texts, OVER_LIMIT), _number(texts, UNDER_LIMIT)
    if over > most:
        return StepVerdict(
            False,
            f"{number(over * 100, 'g')} % are too large, above {number(most * 100, 'g')} %: they jam the throat.",
        )
    if under > least:
        return StepVerdict(
            False,
            f"{number(under * 100, 'g')} % are too fine, above {number(least * 100, 'g')} %: they smear and bridge.",
        )
    return StepVerdict(
        True,
        f"{number(over * 100, 'g')} % too large and {number(under * 100, 'g')} % too fine: it feeds.",
    )


# -- heat -------------------------------------------------------------------------------------------

HEATS = Input(
    "heats",
    "Temperatures tried",
    "T",
    "trial",
    "",
    kind="series",
    along=(("temperature", "°C"),),
    hint="190 °C: fail; 200: pass; 210: pass; 220: fail",
)


def judge_heat(texts: Texts) -> StepVerdict:
    """Temperatures that extrude: the middle of those that did, and how wide the window is.

    >>> judge_heat({"heats": "190: fail; 200: pass; 210: pass; 220: fail"}).learnt["nozzle_temperature"]
    '205 °C'
    """
    rows = sorted(_rows(texts, HEATS), key=lambda r: r.at[0])
    good = [r.at[0] - 273.15 for r in rows if r.value == 0.0]
    if not good:
        return StepVerdict(False, "It extruded at none of the temperatures tried.")
    between = [r for r in rows if min(good) < r.at[0] - 273.15 < max(good) and r.value != 0.0]
    if between:
        odd = between[0].at[0] - 273.15
        return StepVerdict(
            False,
            f"It failed at {number(odd, 'g')} °C between temperatures at which it extruded: try again.",
        )
    middle = (min(good) + max(good)) / 2
    wide = max(good) - min(good)
    return StepVerdict(
        True,
        f"It extrudes from {number(min(good), 'g')} to {number(max(good), 'g')} °C.",
        (
            f"({number(min(good), 'g')} + {number(max(good), 'g')}) / 2 = {number(middle, 'g')} °C, a window of {number(wide, 'g')} K",
        ),
        {"nozzle_temperature": f"{middle:.0f} °C"},
    )


# -- flow consistency, rate, wall --------------------------------------------------------------------------

MASSES = Input(
    "masses",
    "Masses of five equal extrusions",
    "m_i",
    "mass",
    "g",
    kind="series",
    hint="5.02; 5.10; 4.95; 5.05; 4.98",
)
TIME = Input("time", "Time of each", "t", "time", "s", default="30 s")
CV_LIMIT = _limit("cv_limit", "Max. CV", "ratio", "%", "5 %")


def judge_even(texts: Texts) -> StepVerdict:
    """Even when five equal extrusions vary by less than a limit; method ``extrusion-consistency``.

    >>> judge_even({"masses": "5.02; 5.10; 4.95; 5.05; 4.98"}).passed
    True
    """
    done = compute(
        method("extrusion-consistency"),
        {"masses": _text(texts, MASSES), "time": _text(texts, TIME)},
    )
    count = len(done.readings["masses"].rows)
    if count < 5:
        raise InputError(f"{count} extrusions; five are the least.", "masses")
    cv = done.result("extrusion_cv").observation.anchor
    rate = done.result("extrusion_rate").observation.anchor
    limit = _number(texts, CV_LIMIT)
    passed = cv <= limit
    word = "within" if passed else "above"
    working = tuple(r.working for r in done.results)
    return StepVerdict(
        passed,
        f"CV {number(cv * 100, '.1f')} %, {word} {number(limit * 100, 'g')} %; {render(rate, 'mass_rate', 'kg/h')}.",
        working,
    )


RATES = Input(
    "rates",
    "Rates tried",
    "q",
    "trial",
    "",
    kind="series",
    along=(("mass_rate", "kg/h"),),
    hint="0.4 kg/h: pass; 0.6: pass; 0.8: fail",
)
PART = Input(
    "part_mass",
    "Mass of a part",
    "m_p",
    "mass",
    "g",
    required=False,
    hint="for the least print time",
)


def judge_rate(texts: Texts) -> StepVerdict:
    """The maximum rate with consistent flow, and the least time a part then takes, m_p/q.

    >>> judge_rate({"rates": "0.4: pass; 0.6: pass; 0.8: fail", "part_mass": "180 g"}).working[0]
    '180 g / 0.6 kg/h = 18 min at least'
    """
    rows = sorted(_rows(texts, RATES), key=lambda r: r.at[0])
    if any(r.at[0] <= 0 for r in rows):
        raise InputError("A rate must be more than zero.", "rates")
    failed = [r.at[0] for r in rows if r.value != 0.0]
    good = [r.at[0] for r in rows if r.value == 0.0 and (not failed or r.at[0] < min(failed))]
    if not good:
        return StepVerdict(False, "The flow was consistent at none of the rates tried.")
    best = max(good)
    working: tuple[str, ...] = ()
    if _text(texts, PART):
        part = _number(texts, PART)
        minutes = part / best / 60
        working = (
            f"{figures(part * 1e3)} g / {number(best * 3600, 'g')} kg/h = {minutes:.0f} min at least",
        )
    open_end = "" if failed else " None failed: it may be faster still."
    return StepVerdict(
        True, f"Consistent flow up to {number(best * 3600, 'g')} kg/h.{open_end}", working
    )


SET = Input("set_width", "Wall as set", "w_0", "length", "mm")
MEASURED = Input(
    "measured_width",
    "Wall as measured",
    "w",
    "length",
    "mm",
    hint="several places; 0.42; 0.43; 0.42",
)
FLOW = Input(
    "flow", "Flow it was printed with", "k_0", "ratio", "%", default="100 %", required=False
)
FLOW_LIMIT = _limit("flow_limit", "Flow off by at most", "ratio", "%", "15 %")


def judge_wall(texts: Texts) -> StepVerdict:
    """A single wall against what was set; method ``wall-flow``.

    >>> judge_wall({"set_width": "0.45", "measured_width": "0.42"}).learnt["flow"]
    '107 %'
    """
    done = compute(
        method("wall-flow"),
        {s.key: _text(texts, s) for s in (SET, MEASURED, FLOW) if _text(texts, s)},
    )
    flow = done.result("flow_correction").observation.anchor
    limit = _number(texts, FLOW_LIMIT)
    passed = abs(flow - 1) <= limit
    said = f"Set the flow to {flow * 100:.0f} %."
    if not passed:
        said = f"The flow would be {flow * 100:.0f} %, off by more than {number(limit * 100, 'g')} %: check for slip or a clog."
    return StepVerdict(
        passed, said, (done.result("").working,), {"flow": f"{flow * 100:.0f} %"} if passed else {}
    )


# -- a print, and specimens ------------------------------------------------------------------------

CHECKS = ("stuck to the bed", "layers closed", "no strings", "corners flat", "size within 2 %")
DONE = Input(
    "checked", "What the standard print achieved", "", "text", "", kind="text", required=False
)


def judge_print(texts: Texts) -> StepVerdict:
    """A standard print by its checklist: every line must hold.

    >>> judge_print({"checked": "stuck to the bed, layers closed"}).reason
    'Not met: no strings, corners flat, size within 2 %.'
    """
    held = {x.strip() for x in (texts.get("checked") or "").split(",")}
    missing = [c for c in CHECKS if c not in held]
    if missing:
        return StepVerdict(False, f"Not met: {', '.join(missing)}.")
    return StepVerdict(True, "Every item of the checklist is met.")


COUNT = Input("count", "Good specimens", "n", "number", "", hint="5")
OF = Input("of", "Of how many printed", "", "number", "")


def judge_specimens(texts: Texts) -> StepVerdict:
    """Enough whole specimens: five or more, and four in five of those printed.

    >>> judge_specimens({"count": "5", "of": "6"}).passed
    True
    """
    count, of = _number(texts, COUNT), _number(texts, OF)
    if count > of:
        raise InputError("More good specimens than printed.", "count")
    if count != int(count) or of != int(of) or of < 1:
        raise InputError("Specimens are counted in whole numbers.", "of")
    passed = count >= 5 and count / of >= 0.8
    return StepVerdict(
        passed,
        f"{count:.0f} of {of:.0f} were good{'' if passed else ': five, and four in five, are wanted'}.",
    )


# -- resin ------------------------------------------------------------------------------------------

FITS = Input(
    "fits",
    "Tightest pair that fits, by exposure",
    "c",
    "length",
    "mm",
    kind="series",
    along=(("time", "s"),),
    hint="2 s: 0.30 mm; 2.5 s: 0.15; 3 s: 0.25",
)
FIT_LIMIT = _limit("fit_limit", "Clearance at most", "length", "mm", "0.2 mm")
LIFT = Input("lift", "Lift speed", "v", "speed", "mm/min", required=False)
REST = Input("rest", "Rest before exposure", "t_r", "time", "s", required=False)


def judge_exposure(texts: Texts) -> StepVerdict:
    """The exposure at which the tightest pair of a fit gauge goes together.

    Too little and walls are soft and thin, too much and gaps close: the clearance has a least value.

    >>> v = judge_exposure({"fits": "2 s: 0.30; 2.5 s: 0.15; 3 s: 0.25"})
    >>> v.passed, v.learnt["exposure"]
    (True, '2.5 s')
    """
    rows = sorted(_rows(texts, FITS), key=lambda r: r.at[0])
    if len(rows) < 3:
        raise InputError("Three exposures are the least.", "fits")
    best = min(rows, key=lambda r: r.value)
    limit = _number(texts, FIT_LIMIT)
    if best in (rows[0], rows[-1]):
        way = "longer" if best is rows[-1] else "shorter"
        return StepVerdict(
            False, f"The tightest fit lies at the end of those tried: try {way} exposures."
        )
    if best.value > limit:
        return StepVerdict(
            False,
            f"The tightest pair that fits has {number(best.value * 1e3, 'g')} mm, above {number(limit * 1e3, 'g')} mm: lift slower, "
            "rest longer, or warm the resin.",
        )
    learnt = {"exposure": f"{best.at[0]:g} s"}
    for spec, key in ((LIFT, "lift_speed"), (REST, "rest_before_exposure")):
        if _text(texts, spec):
            _number(texts, spec)
            learnt[key] = _text(texts, spec)
    return StepVerdict(
        True,
        f"At {number(best.at[0], 'g')} s a pair of {number(best.value * 1e3, 'g')} mm fits.",
        (),
        learnt,
    )
