"""Reading a bare number as people type it: right, or refused."""

import math
import re
import unicodedata

from brunt_core.errors import InputError

_SUPERSCRIPTS = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹⁻⁺", "0123456789-+")
_MARKS = str.maketrans("−’ʼ٫٬⁄", "-'','/")
# Blanks that hold a number together (typographic) and those that may part two.
_TIGHT = "\u00a0\u202f\u2007\u2009"
_POWER = re.compile(
    r"\s*[x×*·]\s*10\s*(?:(?:\^|\*\*)\s*([-+]?[0-9]+)|([⁻⁺]?[⁰¹²³⁴⁵⁶⁷⁸⁹]+))$",
)
_PLAIN = re.compile(r"[-+]?([0-9]+(\.[0-9]*)?|\.[0-9]+)(e[-+]?[0-9]+)?", re.IGNORECASE)
_GROUPED = re.compile(
    r"[-+]?[0-9]{1,3}(([ '][0-9]{3})+([.,][0-9]+)?|(,[0-9]{3}){2,}(\.[0-9]+)?|(\.[0-9]{3}){2,}(,[0-9]+)?)"
)
_VULGAR = "¼½¾⅐⅑⅒⅓⅔⅕⅖⅗⅘⅙⅚⅛⅜⅝⅞"
_FRACTION = re.compile(r"([-+]?)(?:([0-9]+) +)?([0-9]+)/([0-9]+)")
_MIXED = re.compile(rf"([-+]?)([0-9]*) ?([{_VULGAR}])")
_HALVES = frozenset(2**k for k in range(1, 8))


def tidy_number(text: str) -> str:
    """One way of writing signs, blanks, thousands marks and digits; nothing is read yet.

    Blanks that typography sets inside a number become the thousands mark ``'``.

    >>> tidy_number("−1’250,5"), tidy_number("٣٫٥")
    ("-1'250,5", '3,5')
    """
    text = re.sub(rf"(?<=\d)[{_TIGHT}](?=\d{{3}}(?!\d))", "'", text)
    text = re.sub(rf"[{_TIGHT}]", " ", text)
    digits = (str(unicodedata.decimal(c)) if unicodedata.category(c) == "Nd" else c for c in text)
    return "".join(digits).translate(_MARKS).strip()


def read_number(text: str) -> float:
    """The value of a number with decimal point or comma, a fraction, and an optional power of ten.

    A comma followed by exactly three digits may be a decimal comma or a thousands mark; such a
    number is refused rather than guessed. A point is always a decimal point unless it groups twice.
    A blank before three digits groups them. Fractions have halves, quarters, eighths … below the
    line, as on a rule.

    >>> read_number("58,4"), read_number("1.2×10^3"), read_number("1 250.5"), read_number("0,125")
    (58.4, 1200.0, 1250.5, 0.125)
    >>> read_number("1/8"), read_number("1 1/2"), read_number("2½")
    (0.125, 1.5, 2.5)
    >>> read_number("1,250")
    Traceback (most recent call last):
    brunt_core.errors.InputError: “1,250” could mean 1.25 or 1250. Write 1250 or 1.250.
    """
    typed, tidy = text.strip(), tidy_number(text)
    mantissa, exponent = _split_power(tidy)
    value = _fraction(mantissa, typed)
    if value is None:
        value = float(_plain_decimal(mantissa, typed))
    try:
        value *= 10.0**exponent
    except OverflowError:
        value = math.inf
    if not math.isfinite(value):
        raise InputError(f"“{typed}” is too large to be a reading.")
    return value


def _split_power(text: str) -> tuple[str, int]:
    found = _POWER.search(text)
    if not found:
        return text, 0
    exponent = int((found[1] or found[2]).translate(_SUPERSCRIPTS))
    if abs(exponent) > 300:
        raise InputError(f"“{text}” is too large to be a reading.")
    return text[: found.start()], exponent


def is_fraction(text: str) -> bool:
    """Whether a tidy number is written as a fraction of one line over another, alone.

    >>> is_fraction("3/4"), is_fraction("1 3/4"), is_fraction("0.75")
    (True, False, False)
    """
    found = _FRACTION.fullmatch(text.strip())
    return found is not None and found[2] is None


def _fraction(text: str, typed: str) -> float | None:
    """The value of ``1/8``, ``1 1/2``, ``½`` or ``2½``; ``None`` for what is no fraction."""
    if mixed := _MIXED.fullmatch(text):
        part = unicodedata.numeric(mixed[3])
        return (-1 if mixed[1] == "-" else 1) * (float(mixed[2] or 0) + part)
    found = _FRACTION.fullmatch(text)
    if not found:
        return None
    sign, whole, over, under = found[1], int(found[2] or 0), int(found[3]), int(found[4])
    if under not in _HALVES or not 0 < over < under or math.gcd(over, under) > 1:
        raise InputError(
            f"“{typed}” is no fraction as on a rule (1/2, 3/8, 1 1/4). Part several readings by ;."
        )
    return (-1 if sign == "-" else 1) * (whole + over / under)


def _plain_decimal(text: str, typed: str) -> str:
    if _PLAIN.fullmatch(text):
        return text
    if re.fullmatch(r"[-+]?[0-9]+,[0-9]+(e[-+]?[0-9]+)?", text, re.IGNORECASE):
        return _decimal_comma(text, typed)
    if _GROUPED.fullmatch(text):
        return _ungroup(text)
    if "," in text and "." in text:
        return _both_marks(text, typed)
    raise InputError(f"“{typed}” is not a number.")


def _decimal_comma(text: str, typed: str) -> str:
    whole, fraction = re.split(",", text, maxsplit=1)
    digits = whole.lstrip("+-")
    if len(fraction) == 3 and 1 <= len(digits) <= 3 and digits.strip("0"):
        joined = f"{whole}{fraction}"
        reading = f"{float(f'{whole}.{fraction}'):g}"
        raise InputError(
            f"“{typed}” could mean {reading} or {joined}. Write {joined} or {whole}.{fraction}."
        )
    return f"{whole}.{fraction}"


def _both_marks(text: str, typed: str) -> str:
    """With both marks present the last one is the decimal mark and the other groups thousands."""
    decimal = max(",.", key=text.rfind)
    group = "." if decimal == "," else ","
    whole, _, fraction = text.rpartition(decimal)
    grouped = re.fullmatch(rf"[-+]?[0-9]{{1,3}}(\{group}[0-9]{{3}})+", whole)
    if not grouped or not re.fullmatch("[0-9]+", fraction):
        raise InputError(f"“{typed}” is not a number: its thousands marks are out of place.")
    return f"{whole.replace(group, '')}.{fraction}"


def _ungroup(text: str) -> str:
    """Without the marks that group; the one that is left is the decimal mark."""
    for mark in (" ", "'"):
        if mark in text:
            return text.replace(mark, "").replace(",", ".")
    group = "," if text.count(",") > 1 else "."
    return text.replace(group, "").replace(",", ".")
