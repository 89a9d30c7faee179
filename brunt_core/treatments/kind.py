"""A kind of treatment: its parameters, its steps, how each ends; also of the tester's own steps."""

from collections.abc import Mapping
from dataclasses import dataclass

from brunt_core.errors import InputError
from brunt_core.methods.base import LOCAL, Input
from brunt_core.quantities import parse


@dataclass(frozen=True)
class TreatmentStep:
    """One step of a run: what is to be done, in words for a wall, and how it ends.

    ``ends`` is ``key`` (somebody says so), ``time`` (its minutes are over), ``core`` (the core is
    within its gap) or ``settled`` (its mass is steady). ``minutes`` names the parameter it lasts, or
    is a number. ``heat`` names the parameter of its temperature. ``attended`` says that somebody
    stands by all the time.
    """

    key: str
    label: str
    order: str
    ends: str = "key"
    minutes: str | float = 5.0
    heat: str = ""
    attended: bool = True


@dataclass(frozen=True)
class Kind:
    """A kind of treatment.

    ``group`` sorts the library; ``of`` is what goes in: specimens or a lot; ``event`` how it stands
    in a history (treated or conditioned); ``vessel`` what it happens in; ``packed`` whether parts lie
    in a pack with a core.
    """

    key: str
    name: str
    group: str
    parameters: tuple[Input, ...]
    steps: tuple[TreatmentStep, ...]
    cautions: tuple[str, ...]
    vessel: str = "oven"
    of: str = "specimens"
    event: str = "treated"
    packed: bool = False
    weighed: bool = False
    told_by: tuple[str, ...] = ()

    def read(self, texts: Mapping[str, str]) -> dict[str, float | str]:
        """The parameters in SI, choices and words as they are; defaults where nothing is typed.

        Raises :class:`InputError` naming the parameter for what cannot be.

        >>> from brunt_core.treatments.kinds import KINDS
        >>> round(float(KINDS["anneal-oven"].read({"temperature": "95 °C"})["temperature"]), 2)
        368.15
        """
        known: dict[str, float | str] = {}
        for p in self.parameters:
            text = (texts.get(p.key) or p.default).strip()
            if not text:
                if p.required:
                    raise InputError(f"The {p.label.lower()} is missing.", p.key)
                continue
            known[p.key] = _parameter(p, text)
        return known

    def duration(self, values: Mapping[str, float | str]) -> float:
        """Planned seconds of all steps."""
        return sum(step_seconds(s, values) for s in self.steps)


def _parameter(p: Input, text: str) -> float | str:
    if p.kind == "choice":
        found = next((k for k, label in p.choices if text.lower() in (k, label.lower())), None)
        if found is None:
            raise InputError(f"“{text}” is not a {p.label.lower()}.", p.key)
        return found
    if p.kind == "text":
        return text[:120]
    try:
        value = parse(text, p.dimension, p.unit).si
    except InputError as error:
        raise error.at(p.key) from None
    if p.dimension != "temperature" and value < 0:
        raise InputError(f"The {p.label.lower()} cannot be less than zero.", p.key)
    return value


def step_seconds(step: TreatmentStep, values: Mapping[str, float | str]) -> float:
    """How long a step is planned to take, s.

    >>> from brunt_core.treatments.kinds import KINDS
    >>> k = KINDS["anneal-oven"]
    >>> step_seconds(k.steps[1], k.read({"time": "2 h"}))
    7200.0
    """
    if isinstance(step.minutes, float):
        return step.minutes * 60
    return float(values.get(step.minutes, 0.0))


def composed(key: str, name: str, steps: tuple[Mapping[str, object], ...], event: str) -> Kind:
    """A kind made of the tester's own steps.

    Parameters: each step a mapping of ``label``, ``ends`` (key, time, core or settled) and
    ``minutes``; ``event`` treated or conditioned.
    Raises :class:`InputError` for no steps, one without words, an unknown way to end.

    >>> composed("own-1", "Tumble", ({"label": "Tumble", "ends": "time", "minutes": 30},), "treated").steps[0].ends
    'time'
    """
    if not name.strip():
        raise InputError("Give it a name.", "name")
    if not steps:
        raise InputError("A treatment has one step at least.", "steps")
    made = []
    for i, s in enumerate(steps):
        label, ends = str(s.get("label", "")).strip(), str(s.get("ends", "key"))
        minutes = s.get("minutes", 5)
        if not label:
            raise InputError(f"Step {i + 1} has no words.", "steps")
        if ends not in ("key", "time", "core", "settled"):
            raise InputError(f"Step {i + 1} ends in no known way.", "steps")
        if not isinstance(minutes, int | float) or not 0 < minutes <= 525_600:
            raise InputError(f"Step {i + 1} takes no time, or more than a year.", "steps")
        made.append(
            TreatmentStep(
                f"s{i}", label[:80], label[:80], ends, float(minutes), attended=ends == "key"
            )
        )
    return Kind(
        key,
        name.strip()[:80],
        "Own",
        parameters=(Input("how", "How", "", "text", "", kind="text", required=False),),
        steps=tuple(made),
        cautions=(LOCAL,),
        vessel="place",
        event=event,
        packed=any(s.ends == "core" for s in made),
        weighed=any(s.ends == "settled" for s in made),
    )
