"""Specimen IDs that survive a pen, an oven and a gloved hand at a keyboard.

Five characters of twenty-three that are not mistaken for one another (no 0 O Q, 1 I L, 5 S alike,
8 B, 2 Z, U V Y), written ``K7-3HD``. The last is a check character: with a prime modulus and
different weights every single wrong character and every swap of two is caught. When those run out,
after 63 480 specimens, IDs have six, written ``KA-73HD``: their second is a letter, so that the two
kinds are distinguished at a glance; there are 952 200 of them.
"""

from base64 import b32decode, b32encode
from collections.abc import Iterable
from math import prod
from uuid import UUID

from brunt_core.errors import InputError

ALPHABET = "23456789ACDEFHJKMNPRTWX"
_LETTERS = "ACDEFHJKMNPRTWX"
_DIGITS = "23456789"
_SHORT = (_LETTERS, _DIGITS, ALPHABET, ALPHABET)
_LONG = (_LETTERS, _LETTERS, _DIGITS, ALPHABET, ALPHABET)
SHORT_ONES, LONG_ONES = (prod(map(len, places)) for places in (_SHORT, _LONG))
CAPACITY = SHORT_ONES + LONG_ONES
_STRIDES = {_SHORT: 27_919, _LONG: 588_493}
_WEIGHTS = (2, 3, 4, 5, 6)


def specimen_code(number: int, start: int = 0) -> str:
    """The ID of the *number*-th specimen of a workshop, 0 ≤ number < :data:`CAPACITY`.

    ``start`` is where the workshop's own sequence begins, so that two workshops do not hand out the
    same IDs in the same order; it goes round the end. Neighbours in number are far apart in ID, so
    that a slip of the pen does not hit a sibling. The first 63 480 have five characters, all later
    ones six. Raises :class:`InputError` for a number beyond the last.

    >>> specimen_code(0), specimen_code(1) != specimen_code(2), specimen_code(63_480)
    ('A2-229', True, 'AA-2228')
    >>> specimen_code(63_479, start=1) == specimen_code(0)
    True
    """
    if not 0 <= number < CAPACITY:
        raise InputError(f"A workshop has room for {CAPACITY} specimen IDs.")
    places, within = (_SHORT, number) if number < SHORT_ONES else (_LONG, number - SHORT_ONES)
    rest, body = (within + start) * _STRIDES[places] % prod(map(len, places)), ""
    # The last two places change fastest, then the others from the right.
    for characters in (places[-2], places[-1], *reversed(places[:-2])):
        rest, at = divmod(rest, len(characters))
        body += characters[at]
    body = body[:1:-1] + body[:2]
    return f"{body[:2]}-{body[2:]}{check_character(body)}"


def check_character(body: str) -> str:
    """The check character of four or five: Σ weight·place + check ≡ 0 (mod 23)."""
    total = sum(w * ALPHABET.index(c) for w, c in zip(_WEIGHTS, body, strict=False))
    return ALPHABET[-total % len(ALPHABET)]


def tidy_code(text: str) -> str | None:
    """An ID as typed by hand in its written form, or ``None`` when it cannot be one.

    >>> tidy_code(" a2 229 "), tidy_code("A2-22X"), tidy_code("58.4 kgf")
    ('A2-229', None, None)
    """
    bare = "".join(c for c in text.upper() if c.isalnum())
    places = {5: _SHORT, 6: _LONG}.get(len(bare))
    if places is None or any(
        c not in known for c, known in zip(bare, (*places, ALPHABET), strict=True)
    ):
        return None
    return f"{bare[:2]}-{bare[2:]}" if check_character(bare[:-1]) == bare[-1] else None


def label_text(code: str, uuid: UUID) -> str:
    """What a label's code holds: the ID, and the specimen's UUID in capitals, which keeps the code small.

    >>> label_text("K7-3HD", UUID(int=1))
    'K7-3HD/AAAAAAAAAAAAAAAAAAAAAAAAAE'
    """
    return f"{code}/{b32encode(uuid.bytes).decode().rstrip('=')}"


def read_label(text: str) -> UUID | None:
    """The specimen's UUID in the text of a label, or ``None`` where it is not one.

    >>> read_label("k7-3hd/aaaaaaaaaaaaaaaaaaaaaaaaae") == UUID(int=1), read_label("K7-3HD/2")
    (True, None)
    """
    _, slash, rest = text.strip().upper().partition("/")
    if not slash or len(rest) != 26:
        return None
    try:
        return UUID(bytes=b32decode(f"{rest}======"))
    except ValueError:
        return None


def looks_like_code(text: str) -> bool:
    """Whether somebody probably meant an ID, right or wrong: a letter, a digit, five or six in all."""
    bare = "".join(c for c in text.upper() if c.isalnum())
    return len(bare) in (4, 5, 6, 7) and bare[0].isalpha() and any(c.isdigit() for c in bare)


def nearest_codes(text: str, codes: Iterable[str], most: int = 3) -> list[str]:
    """The known IDs nearest to a mistyped one: fewest characters wrong, swaps counting one.

    >>> nearest_codes("A2-292", ["A2-229", "K7-3HD"])
    ['A2-229']
    """
    bare = "".join(c for c in text.upper() if c.isalnum())
    scored = sorted((_distance(bare, code.replace("-", "")), code) for code in codes)
    return [code for distance, code in scored if distance <= 2][:most]


def _distance(typed: str, code: str) -> int:
    """Optimal string alignment distance of two short strings."""
    rows = [list(range(len(code) + 1))]
    for i, a in enumerate(typed, 1):
        row = [i]
        for j, b in enumerate(code, 1):
            row.append(min(rows[-1][j] + 1, row[-1] + 1, rows[-1][j - 1] + (a != b)))
            if i > 1 and j > 1 and a == code[j - 2] and typed[i - 2] == b:
                row[-1] = min(row[-1], rows[-2][j - 2] + 1)
        rows.append(row)
    return rows[-1][-1]
