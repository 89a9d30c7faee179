"""Reading a bare number as people type it."""

import math
import re

from brunt_core.errors import InputError

_POWER = re.compile(r"\s*(?:[x×*·]\s*10\s*(?:\^|\*\*)?\s*)([-+−]?\d+|[⁻⁺]?[⁰¹²³⁴⁵⁶⁷⁸⁹]+)$")
_SUPERSCRIPTS = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹⁻⁺", "0123456789-+")
_SPACES = str.maketrans({"\u00a0": " ", "\u202f": " ", "\u2009": " ", "−": "-", "’": "'"})
_PLAIN = re.compile(r"[-+]?(\d+(\.\d*)?|\.\d+)(e[-+]?\d+)?", re.IGNORECASE)
_GROUPED = re.compile(r"[-+]?\d{1,3}(([ ']\d{3})+|(,\d{3}){2,}|(\.\d{3}){2,})([.,]\d+)?")


def read_number(text: str) -> float:
    """The value of a number with decimal point or comma, and an optional power of ten.

    A comma followed by exactly three digits may be a decimal comma or a thousands mark; such a
    number is refused rather than guessed. A point is always a decimal point unless it groups twice.

    >>> read_number("58,4"), read_number("1.2×10^3"), read_number("1 250.5"), read_number("0,125")
    (58.4, 1200.0, 1250.5, 0.125)
    >>> read_number("1,250")
    Traceback (most recent call last):
    brunt_core.errors.InputError: “1,250” could mean 1.25 or 1250. Write 1250 or 1.250.
    """
    tidy = text.translate(_SPACES).strip()
    mantissa, exponent = _split_power(tidy)
    value = float(_plain_decimal(mantissa, text.strip())) * 10.0**exponent
    if not math.isfinite(value):
        raise InputError(f"“{text.strip()}” is too large to be a reading.")
    return value


def _split_power(text: str) -> tuple[str, int]:
    found = _POWER.search(text)
    if not found:
        return text, 0
    exponent = int(found.group(1).translate(_SUPERSCRIPTS).replace("−", "-"))
    if abs(exponent) > 300:
        raise InputError(f"“{text}” is too large to be a reading.")
    return text[: found.start()], exponent


def _plain_decimal(text: str, typed: str) -> str:
    if _PLAIN.fullmatch(text):
        return text
    if re.fullmatch(r"[-+]?\d+,\d+(e[-+]?\d+)?", text, re.IGNORECASE):
        return _decimal_comma(text, typed)
    if "," in text and "." in text:
        return _both_marks(text, typed)
    if _GROUPED.fullmatch(text):
        return _ungroup(text)
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
    grouped = re.fullmatch(rf"[-+]?\d{{1,3}}(\{group}\d{{3}})+", whole)
    if not grouped or not fraction.isdigit():
        raise InputError(f"“{typed}” is not a number: its thousands marks are out of place.")
    return f"{whole.replace(group, '')}.{fraction}"


def _ungroup(text: str) -> str:
    for mark in (" ", "'"):
        text = text.replace(mark, "")
    for mark in (",", "."):
        if text.count(mark) > 1:
            text = text.replace(mark, "")
    return text.replace(",", ".")
