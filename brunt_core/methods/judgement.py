"""Judgement: a word of an ordered scale that the tester has written, for what has no number."""

from collections.abc import Mapping

from brunt_core.errors import InputError
from brunt_core.methods.base import (
    FRAGMENTS,
    LOCAL,
    READ,
    VOID,
    Estimated,
    Input,
    Method,
    ResultDefinition,
    Values,
    worded,
)
from brunt_core.observations import Observation

GRADE = Input(
    "grade", "Judged", "g", "text", "", kind="text", hint="a word of the scale, or its number"
)
NAME = worded("name", "What is judged", required=True, hint="Snapped or bent")
SCALE = worded(
    "scale",
    "Scale, from worst to best",
    required=True,
    hint="shatters; snaps clean; bends, then tears; bends without breaking",
)
HOW = worded("how", "How it is done", hint="bent by hand over a 20 mm rod")


def words_of_scale(scale: str) -> list[str]:
    """The words of a scale, worst first. Raises :class:`InputError` for fewer than two, or twice one.

    >>> words_of_scale("snaps; bends ; springs back")
    ['snaps', 'bends', 'springs back']
    """
    words = [" ".join(w.split()) for w in scale.split(";") if w.strip()]
    if len(words) < 2:
        raise InputError("Write the words of the scale from worst to best, parted by “;”.", "scale")
    folded = [w.casefold() for w in words]
    if len(set(folded)) < len(folded):
        raise InputError("Two words of the scale are the same.", "scale")
    return words


def check_scale(texts: Mapping[str, str]) -> None:
    """Refuse a procedure whose scale has fewer than two words. Raises :class:`InputError`.

    >>> check_scale({"scale": "snaps; bends"})
    """
    words_of_scale(texts.get("scale", ""))


def scale_place(grade: str, scale: str) -> int:
    """The place of a judgement on its scale, 1 the worst.

    ``grade`` is the place itself, the word, or the beginning of one word alone. Raises
    :class:`InputError` for what is not on the scale.

    >>> scale_place("Bends", "snaps; bends; springs back"), scale_place("3", "snaps; bends; springs back")
    (2, 3)
    """
    words = words_of_scale(scale)
    said = " ".join(grade.split()).casefold()
    if said.isascii() and said.isdigit() and 1 <= int(said) <= len(words):
        return int(said)
    exact = [i for i, w in enumerate(words, 1) if w.casefold() == said]
    begun = [i for i, w in enumerate(words, 1) if said and w.casefold().startswith(said)]
    found = exact or begun
    if len(found) != 1:
        known = "; ".join(f"{i} {w}" for i, w in enumerate(words, 1))
        raise InputError(f"“{grade}” is not on the scale: {known}.", "grade")
    return found[0]


def judged_place(values: Values) -> Estimated:
    """The place on the scale; no uncertainty is known of a judgement.

    Source: ordinal scale (Stevens, Science 103 (1946) 677, from memory).
    """
    place = scale_place(values["grade"], values["scale"])
    words = words_of_scale(values["scale"])
    step = ("g", f"“{words[place - 1]}”, of {len(words)} from worst to best", str(place))
    return Estimated(Observation.exact(float(place)), 0.0, (step,))


METHOD = Method(
    "judgement",
    "Judgement",
    "What has no number: by hand, by eye, in words",
    orientation="flat",
    inputs=(GRADE, NAME, SCALE, HOW),
    results=(
        ResultDefinition(
            "own_quantity",
            "g = place on the scale",
            "{grade}",
            judged_place,
            "ordinal scale, in the tester's own words",
            ("grade", "scale", "name"),
        ),
    ),
    outcomes=(READ, VOID),
    places=(),
    cautions=(FRAGMENTS, LOCAL),
    drawing="scale",
    example={
        "name": "Snapped or bent",
        "scale": "shatters; snaps clean; bends, then tears; bends without breaking",
        "how": "bent by hand over a rod of 20 mm",
        "grade": "snaps clean",
    },
    sensible=check_scale,
    needs_section=False,
    own_property=True,
    cv=0.25,
    minutes=1.0,
)
