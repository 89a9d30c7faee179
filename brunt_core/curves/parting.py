"""A file that holds the pulls of several specimens, one below the other or side by side: parted, never joined."""

import re
from dataclasses import dataclass

import numpy as np

from brunt_core.curves.reading import Doubtful, Guess, LoadCurve, guesses, read_curve
from brunt_core.errors import InputError

_LEAST_POINTS = 5
# A pull begins again where the travel leaps back by this share of what it had reached, to near where it began,
_BACK, _NEAR = 0.5, 0.25
# with hardly any load on, and then rises to at least this share of the pull before.
_UNLOADED, _AGAIN = 0.3, 0.05
_NUMBERS = re.compile(r"[\d_#.\s]+")


@dataclass(frozen=True)
class CurveQuestion:
    """What a person must say of a file: which of ``guesses`` is right, or, with ``pulls``, whose each of them is."""

    sentence: str
    guesses: list[Guess]
    pulls: bool = False


def begins(curve: LoadCurve) -> list[int]:
    """Where each pull of a curve begins, as places in its readings; ``[0]`` where it is one.

    A specimen that is unloaded and loaded again comes back step by step; another specimen begins where the
    logged travel leaps back to its start with the load gone. Common practice, no source.

    >>> once = np.linspace(0, 2e-3, 20)
    >>> begins(LoadCurve(np.r_[once, once], np.r_[once * 1e6, once * 1.3e6]))
    [0, 20]
    >>> begins(LoadCurve(np.r_[once, once[::-1], once], np.r_[once, once[::-1], once] * 1e6))
    [0]
    """
    x, f = curve.displacement, curve.force
    found = [0]
    for i in np.flatnonzero(np.diff(x) < 0) + 1:
        begun = found[-1]
        before, reached = x[begun:i], float(x[begun:i].max())
        span, peak = reached - float(before[0]), float(np.abs(f[begun:i]).max())
        after = f[i:]
        if (
            i - begun >= _LEAST_POINTS
            and len(x) - i >= _LEAST_POINTS
            and span > 0
            and x[i - 1] - x[i] > _BACK * span
            and x[i] - before[0] < _NEAR * span
            and abs(f[i]) < _UNLOADED * peak
            and float(np.abs(after).max()) > _AGAIN * peak
        ):
            found.append(int(i))
    return found


def read_or_ask(text: str, chosen: str = "") -> LoadCurve | CurveQuestion:
    """The curve of a file, or what a person must say first.

    ``chosen`` is the key of a guess that was picked: of a way to read the columns, of a pull (``way#2``), or of the
    whole as one specimen's (``way#0``). Raises :class:`InputError` as
    :func:`~brunt_core.curves.reading.read_curve` does.

    >>> rows = "\\n".join(f"{i / 10};{i * 9}" for i in range(12))
    >>> two = read_or_ask(f"travel mm;load N\\n{rows}\\n\\nspecimen 2\\n{rows}")
    >>> two.pulls, [g.key for g in two.guesses]
    (True, ['#1', '#2', '#0'])
    >>> float(read_or_ask(f"travel mm;load N\\n{rows}\\n\\nspecimen 2\\n{rows}", "#2").force.max())
    99.0
    """
    way, mark, pull = chosen.partition("#")
    try:
        curve = read_curve(text, way)
    except Doubtful as doubt:
        beside = _side_by_side(doubt.guesses)
        if beside:
            sentence = f"This file holds {len(beside)} curves in columns next to each other. Assign each to its specimen."
            return CurveQuestion(sentence, beside, pulls=True)
        return CurveQuestion(doubt.sentence, doubt.guesses)
    edges = [*begins(curve), len(curve.force)]
    several = len(edges) > 2
    if mark and pull == "0" or not several:
        return curve
    pulls = [_part(curve, way, i, edges) for i in range(1, len(edges))]
    if not mark:
        whole = Guess(f"{way}#0", curve, "all of it is one specimen")
        sentence = f"This file holds {len(pulls)} curves, one after the other. Assign each to its specimen."
        return CurveQuestion(sentence, [*pulls, whole], pulls=True)
    if not pull.isdecimal() or not 1 <= int(pull) <= len(pulls):
        raise InputError("That is not one of the curves in this file.", "curve")
    return pulls[int(pull) - 1].curve


def questions_on(text: str, way: str = "") -> CurveQuestion:
    """What is asked about a file, with every way to read it where nothing is in doubt."""
    try:
        found = read_or_ask(text, way)
    except InputError as error:
        return CurveQuestion(error.sentence, [])
    return (
        found
        if isinstance(found, CurveQuestion)
        else CurveQuestion("Is it correct now?", guesses(text))
    )


def _part(curve: LoadCurve, way: str, number: int, edges: list[int]) -> Guess:
    own = slice(edges[number - 1], edges[number])
    x, f = curve.displacement[own], curve.force[own]
    notes = (*curve.notes, f"curve {number} of {len(edges) - 1} in the file")
    return Guess(f"{way}#{number}", LoadCurve(x, f, notes), f"curve {number}: {len(f)} readings")


def _side_by_side(found: list[Guess]) -> list[Guess]:
    """Pairs of columns next to each other that are called alike but for a number, and share no column."""
    pairs: list[tuple[int, int, Guess]] = []
    for guess in found:
        travel, load, *_ = guess.key.split(":")
        if abs(int(travel) - int(load)) == 1:
            pairs.append((min(int(travel), int(load)), max(int(travel), int(load)), guess))
    pairs.sort(key=lambda p: p[0])
    taken: list[tuple[int, int, Guess]] = []
    for pair in pairs:
        if not taken or pair[0] > taken[-1][1]:
            taken.append(pair)
    called = {_NUMBERS.sub(" ", g.words) for _, _, g in taken}
    named = all("“" in g.words for _, _, g in taken)
    return [g for _, _, g in taken] if len(taken) > 1 and len(called) == 1 and named else []
