"""Specimen IDs that survive a pen, an oven and a gloved hand at a keyboard.

Five characters of twenty-three that are not mistaken for one another (no 0 O Q, 1 I L, 5 S alike,
8 B, 2 Z, U V Y), written ``K7-3HD``. The last is a check character: with a prime modulus and five
different weights every single wrong character and every swap of two is caught.
"""

from collections.abc import Iterable

from brunt_core.errors import InputError

ALPHABET = "23456789ACDEFHJKMNPRTWX"
_LETTERS = "ACDEFHJKMNPRTWX"
_DIGITS = "23456789"
CAPACITY = len(_LETTERS) * len(_DIGITS) * len(ALPHABET) ** 2
_STRIDE = 27_919
_WEIGHTS = (2, 3, 4, 5)


def specimen_code(number: int) -> str:
    """The ID of the *number*-th specimen of a workshop, 0 ≤ number < :data:`CAPACITY`.

    Neighbours in number are far apart in ID, so that a slip of the pen does not hit a sibling.

    >>> specimen_code(0), specimen_code(1) != specimen_code(2)
    ('A2-229', True)
    """
    if not 0 <= number < CAPACITY:
        raise InputError(f"A workshop has room for {CAPACITY} specimen IDs.")
    rest = number * _STRIDE % CAPACITY
    rest, third = divmod(rest, len(ALPHABET))
    rest, fourth = divmod(rest, len(ALPHABET))
    first, second = divmod(rest, len(_DIGITS))
    body = _LETTERS[first] + _DIGITS[second] + ALPHABET[third] + ALPHABET[fourth]
    return f"{body[:2]}-{body[2:]}{check_character(body)}"


def check_character(body: str) -> str:
    """The check character of four: Σ weight·place + check ≡ 0 (mod 23)."""
    total = sum(w * ALPHABET.index(c) for w, c in zip(_WEIGHTS, body, strict=True))
    return ALPHABET[-total % len(ALPHABET)]


def tidy_code(text: str) -> str | None:
    """An ID as typed by hand in its written form, or ``None`` when it cannot be one.

    >>> tidy_code(" a2 229 "), tidy_code("A2-22X"), tidy_code("58.4 kgf")
    ('A2-229', None, None)
    """
    bare = "".join(c for c in text.upper() if c.isalnum())
    if len(bare) != 5 or bare[0] not in _LETTERS or any(c not in ALPHABET for c in bare):
        return None
    return f"{bare[:2]}-{bare[2:]}" if check_character(bare[:4]) == bare[4] else None


def looks_like_code(text: str) -> bool:
    """Whether somebody probably meant an ID, right or wrong: a letter, a digit, five in all."""
    bare = "".join(c for c in text.upper() if c.isalnum())
    return len(bare) in (4, 5, 6) and bare[0].isalpha() and any(c.isdigit() for c in bare)


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
