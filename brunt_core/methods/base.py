"""What a test method says about itself; the form, the working and the command line come from it."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from brunt_core.observations import Observation

Values = Mapping[str, Any]


def nominal(value: Any) -> float:
    """The plain number of a float or an ``uncertainties`` number.

    >>> nominal(2.5)
    2.5
    """
    return float(getattr(value, "nominal_value", value))


def spread(value: Any) -> float:
    """Its standard uncertainty, zero for a plain float."""
    return float(getattr(value, "std_dev", 0.0))


@dataclass(frozen=True)
class Input:
    """One thing that is read or known.

    ``section`` marks a dimension of the cross-section, of which one complete set is needed;
    ``bounded`` marks a reading that an "at least" or "between" outcome applies to: the first given
    one, in the method's order. ``role`` is ``reading`` (taken at the test), ``fixed`` (the
    procedure fixes it) or ``size`` (of the specimen, measured before). ``kind`` is ``quantity``,
    ``series`` (rows of "at: value", with ``along`` the dimension and unit of each "at"),
    ``choice`` (one of ``choices``) or ``text``. ``least`` is ``positive``, ``zero`` or ``any``.
    ``aliases`` are other names the command line and the head of a file's column take; ``timed`` marks a single reading taken at the
    procedure's reading time; ``daily`` what belongs to the day and the rig: taken before a series,
    several times.
    """

    key: str
    label: str
    symbol: str
    dimension: str
    unit: str
    required: bool = True
    section: bool = False
    bounded: bool = False
    hint: str = ""
    role: str = "reading"
    kind: str = "quantity"
    along: tuple[tuple[str, str], ...] = ()
    choices: tuple[tuple[str, str], ...] = ()
    default: str = ""
    least: str = "positive"
    aliases: tuple[str, ...] = ()
    timed: bool = False
    daily: bool = False

    @property
    def plain(self) -> bool:
        """Whether it is one quantity."""
        return self.kind == "quantity"

    @property
    def wanted(self) -> bool:
        """Whether the bench goes to it before the reading: a section, or what must be given."""
        return self.section or self.required


@dataclass(frozen=True)
class Derived:
    """A quantity on the way to a result: worked out when all it ``needs`` is there.

    Of several with one key the first that can be worked out counts.
    """

    key: str
    formula: str
    numbers: str
    compute: Callable[[Values], Any]
    needs: tuple[str, ...]
    dimension: str
    unit: str


@dataclass(frozen=True)
class Estimated:
    """A result that carries its own bounds, uncertainty and lines of working.

    ``steps`` are (formula, numbers, value); ``at_time`` the time in s its last reading was taken at.
    """

    observation: Observation
    uncertainty: float
    steps: tuple[tuple[str, str, str], ...] = ()
    at_time: float | None = None


@dataclass(frozen=True)
class ResultDefinition:
    """One result: its property, formula in symbols, source, and the function that computes it.

    ``compute`` receives what the result ``needs`` by key in SI, as floats or ``uncertainties``
    numbers, and returns SI, an :class:`Estimated`, or ``None`` where there is nothing to say. A
    choice is needed as ``key=choice``. Of several for one property the first that answers counts. ``numbers`` is the right-hand side with
    ``{key}`` for each. ``bounded`` is false where the bound of a reading is none of the result;
    ``at_end`` is true for what is only reached at the end of a test: "at least" when it held.
    """

    property: str
    formula: str
    numbers: str
    compute: Callable[[Values], Any]
    source: str
    needs: tuple[str, ...] = ()
    bounded: bool = True
    at_end: bool = False


@dataclass(frozen=True)
class Outcome:
    """How a test can end: its key on the bench, and what it makes of the reading.

    ``breaks`` says whether the specimen is destroyed by it, whatever the method usually does;
    ``None`` leaves that to the method. ``fails`` marks a failure: what was read before it is no good
    result but a bound on the bad side; with the bound ``zero`` it failed before there was any load,
    and nothing is read (it crept at least so far, it kept at most so much).
    """

    key: str
    label: str
    letter: str
    bound: str
    needs_reason: bool = False
    breaks: bool | None = None
    fails: bool = False


@dataclass(frozen=True)
class Place:
    """Failure location: ``at`` is the position along the specimen, 0 at the lower end, 1 at the upper."""

    key: str
    label: str
    letter: str
    at: float
    suspect: str = ""


@dataclass(frozen=True)
class Mode:
    """How or what failed; chosen on the bench by ``letter``, a digit."""

    key: str
    label: str
    letter: str


def modes(*labels: str) -> tuple[Mode, ...]:
    """Failure modes numbered from 1.

    >>> modes("layers split")[0].key
    'layers_split'
    """
    return tuple(
        Mode(label.replace(" ", "_").replace("-", "_"), label, str(i))
        for i, label in enumerate(labels, 1)
    )


@dataclass(frozen=True)
class Method:
    """A test method: everything that form, working, command line and bench need to know.

    ``example`` is one test as typed, with what the procedure fixes: it shows how readings are written,
    and tests try every part of the bench with it. ``curve`` maps what a load–displacement curve yields to the inputs it fills. ``apart`` says that
    results of different outcomes are never averaged. ``possible`` raises for readings that cannot
    be together, from what was read in SI; ``sensible`` for texts that a procedure cannot fix. ``check`` returns remarks on validity, from
    plain numbers, and raises for the impossible. ``version`` counts changes of the cautions.
    ``destroys`` says that a specimen is destroyed by the test; ``cv`` is the coefficient of
    variation and ``minutes`` the time at the rig, measuring included, to expect while nothing
    better is known (common practice, no source).
    """

    key: str
    name: str
    question: str
    orientation: str
    inputs: tuple[Input, ...]
    results: tuple[ResultDefinition, ...]
    outcomes: tuple[Outcome, ...]
    places: tuple[Place, ...]
    cautions: tuple[str, ...]
    drawing: str
    example: Values
    derived: tuple[Derived, ...] = ()
    modes: tuple[Mode, ...] = ()
    needs_section: bool = True
    curve: Mapping[str, str] = field(default_factory=dict)
    check: Callable[[Values], tuple[str, ...]] = lambda values: ()
    possible: Callable[[Values], None] = lambda values: None
    sensible: Callable[[Mapping[str, str]], None] = lambda texts: None
    apart: bool = False
    own_property: bool = False
    version: int = 1
    destroys: bool = True
    cv: float = 0.08
    minutes: float = 5.0

    def input(self, key: str) -> Input:
        """The input with this key; ``KeyError`` when there is none."""
        found = next((i for i in self.inputs if i.key == key), None)
        if found is None:
            raise KeyError(key)
        return found

    @property
    def reading(self) -> Input:
        """The number taken at the moment of the test: the bounded one, else the first reading."""
        bounded = next((i for i in self.inputs if i.bounded), None)
        return bounded or next(i for i in self.inputs if i.role == "reading" and not i.section)

    def reading_for(self, property_key: str) -> Input:
        """The reading a property rests on first: what the bench asks for in large.

        The method's own :attr:`reading` when it serves, else the first reading that the property
        needs, straight or by what is derived.
        """
        needed = [
            i
            for r in self.results
            if r.property == property_key
            for need in r.needs
            for i in self.roots(need)
        ]
        read = [i for i in needed if i.role == "reading" and not i.section]
        return self.reading if not read or self.reading in read else read[0]

    def roots(self, key: str) -> list[Input]:
        """The inputs below a quantity, the deflection or angle before the load it came under."""
        direct = [i for i in self.inputs if i.key == key]
        below = [n for d in self.derived if d.key == key for n in d.needs]
        return direct or [i for n in below for i in self.roots(n)]

    @property
    def series(self) -> Input | None:
        """The reading taken as a series, if the method has one."""
        return next((i for i in self.inputs if i.kind == "series"), None)

    @property
    def timed(self) -> tuple[Input, ...]:
        """The series read at set times."""
        return tuple(i for i in self.inputs if any(d == "time" for d, _ in i.along))

    @property
    def fixed(self) -> tuple[Input, ...]:
        """The inputs that a procedure fixes."""
        return tuple(i for i in self.inputs if i.role == "fixed")

    def averaged_outcome(self, outcomes: Sequence[str]) -> str:
        """Where unlike outcomes are never averaged: the one that is, the most frequent; else empty.

        Of equally frequent ones the method's earlier counts.
        """
        if not self.apart or len(set(outcomes)) < 2:
            return ""
        order = [o.key for o in self.outcomes]
        return max(set(outcomes), key=lambda o: (outcomes.count(o), -order.index(o)))

    def spends(self, outcome: str, destroys: bool | None = None) -> bool:
        """Whether a specimen is destroyed by a test that ended so; ``destroys`` is the procedure's say.

        A break spends it under any procedure; a void or a specimen that held does not destroy it.
        """
        found = self.outcome(outcome)
        if found is not None and found.breaks is not None:
            return found.breaks
        return self.destroys if destroys is None else destroys

    def outcome(self, key: str) -> Outcome | None:
        """The outcome with this key, if the method has it."""
        return next((o for o in self.outcomes if o.key == key), None)

    def place(self, key: str) -> Place | None:
        """The place with this key, if the method has it."""
        return next((p for p in self.places if p.key == key), None)

    def mode(self, key: str) -> Mode | None:
        """The failure mode with this key, if the method has it."""
        return next((m for m in self.modes if m.key == key), None)


def fixed_choice(key: str, label: str, choices: tuple[tuple[str, str], ...], default: str) -> Input:
    """A choice that the procedure fixes; its first word counts on the command line.

    >>> fixed_choice("bar", "Bar", (("supported", "supported at both ends"),), "supported").kind
    'choice'
    """
    return Input(
        key,
        label,
        "",
        "text",
        "",
        required=False,
        role="fixed",
        kind="choice",
        choices=choices,
        default=default,
    )


def worded(key: str, label: str, required: bool = False, hint: str = "") -> Input:
    """A text that the procedure fixes.

    >>> worded("how", "How it is done").required
    False
    """
    return Input(
        key, label, "", "text", "", required=required, role="fixed", kind="text", hint=hint
    )


PEAK_LOAD = Input(
    "force",
    "Peak load",
    "F",
    "force",
    "N",
    bounded=True,
    aliases=("load", "peak_load", "peak_force", "peak", "max_load", "maximum_load"),
)
WIDTH = Input("width", "Width", "b", "length", "mm", required=False, section=True, aliases=("b",))
THICKNESS = Input(
    "thickness",
    "Thickness",
    "h",
    "length",
    "mm",
    required=False,
    section=True,
    aliases=("h", "depth"),
)
DIAMETER = Input(
    "diameter", "Diameter", "d", "length", "mm", required=False, section=True, aliases=("d", "dia")
)
OUTER = Input("outer_diameter", "Outer diameter", "D", "length", "mm", required=False, section=True)
INNER = Input("inner_diameter", "Inner diameter", "d", "length", "mm", required=False, section=True)
MASS = Input("mass", "Mass", "m", "mass", "g", required=False, role="size")
SECTION_INPUTS = (WIDTH, THICKNESS, DIAMETER, OUTER, INNER)

BROKE = Outcome("broke", "broke", "B", "exact", breaks=True)
HELD = Outcome("held", "did not break", "H", "at_least", breaks=False)
LIMIT = Outcome("limit", "machine limit", "L", "at_least", breaks=False)
BETWEEN = Outcome("between", "stepwise, between", "W", "between", breaks=True)
VOID = Outcome("void", "void …", "V", "void", needs_reason=True, breaks=False)
READ = Outcome("read", "read", "B", "exact")
CRACKED = Outcome(
    "cracked_at_assembly", "cracked at assembly", "A", "zero", breaks=True, fails=True
)
BREAK_OUTCOMES = (BROKE, HELD, LIMIT, BETWEEN, VOID)
READ_OUTCOMES = (READ, VOID)

LOCAL = "Your safety data sheet and local rules come first."
FRAGMENTS = "Wear glasses or stand behind a shield: fragments fly when it breaks."
WEIGHTS = "Falling weights and released tension hurt: feet clear, nothing soft under the load."
PINCH = "Pinch points: keep fingers out of grips and from between load and support."
FIBRES = "Filled plastics shed fibre dust when they break: collect it wet, do not sweep it dry."
RESIN = "Resin prints not fully cured: gloves, no skin contact, waste by local rules."
