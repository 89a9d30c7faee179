"""Writing quantities for people: sensible significant figures, the unit once."""

import math
from contextvars import ContextVar
from functools import lru_cache

from brunt_core.quantities.dimensions import DIMENSIONS
from brunt_core.quantities.registry import convert

DECIMAL_SIGN: ContextVar[str] = ContextVar("decimal sign", default=".")


def number(value: float, form: str) -> str:
    """A number by a format specification of Python's, with the decimal sign of the person who reads it.

    The sign is a point unless the caller's context set :data:`DECIMAL_SIGN`: the web sets it while a page
    is made for somebody, never while something is stored or read back.

    >>> number(58.44, ".1f"), number(0.5, "g")
    ('58.4', '0.5')
    """
    text, sign = format(value, form), DECIMAL_SIGN.get()
    return text if sign == "." else text.replace(".", sign)


def in_unit(si: float, dimension: str, unit: str | None = None) -> float:
    """An SI value in a unit given by its spelling (the dimension's shown unit by default).

    >>> round(in_unit(2.5e6, "stress"), 9)
    2.5
    """
    return convert(si, *_units(dimension, unit))


@lru_cache(maxsize=512)
def _units(dimension: str, unit: str | None) -> tuple[str, str]:
    kind = DIMENSIONS[dimension]
    return kind.si, kind.unit_of(unit or kind.shown) or kind.si


def width_in_unit(si: float, dimension: str, unit: str | None = None) -> float:
    """A difference or uncertainty in SI in a unit: like :func:`in_unit`, without any offset.

    >>> width_in_unit(1.5, "temperature"), round(width_in_unit(2e6, "stress"), 9)
    (1.5, 2.0)
    """
    return in_unit(si, dimension, unit) - in_unit(0.0, dimension, unit)


def figures(value: float, significant: int = 3) -> str:
    """A number to so many significant figures, never in exponent form between 1e-4 and 1e7.

    >>> figures(59.9637), figures(1234.5, 3), figures(0.00123456), figures(0)
    ('60.0', '1234', '0.00123', '0')
    """
    if value == 0 or not math.isfinite(value):
        return "0" if value == 0 else "∞"
    magnitude = math.floor(math.log10(abs(value)))
    if not -5 < magnitude < 7:
        return number(value, f".{significant - 1}e")
    text = number(value, f".{max(significant - 1 - magnitude, 0)}f")
    return text.replace("-", "−")


def count_of(number: int, noun: str, plural: str = "") -> str:
    """A number of things, with the noun in the singular or plural that fits it.

    >>> count_of(1, "curve"), count_of(4, "material"), count_of(0, "battery", "batteries")
    ('1 curve', '4 materials', 'no batteries')
    """
    many = plural or f"{noun}s"
    return f"1 {noun}" if number == 1 else f"{number or 'no'} {many}"


def p_value(p: float) -> str:
    """A p-value as it is quoted: two figures, and never smaller than a table would give it.

    >>> p_value(0.0213), p_value(0.5), p_value(4e-9)
    ('p 0.021', 'p 0.50', 'p < 0.001')
    """
    return f"p < {number(0.001, 'g')}" if p < 0.001 else f"p {figures(p, 2)}"


def time_words(seconds: float, significant: int = 4) -> str:
    """A time in the unit people say it in.

    >>> time_words(30), time_words(60), time_words(5400), time_words(604800), time_words(520, 2)
    ('30 s', '1 min', '1.5 h', '7 d', '8.7 min')
    """
    for size, unit in ((86400.0, "d"), (3600.0, "h"), (60.0, "min")):
        if seconds >= size:
            return f"{number(seconds / size, f'.{significant}g')} {unit}"
    return f"{number(seconds, f'.{significant}g')} s"


def render(si: float, dimension: str, unit: str | None = None, significant: int = 3) -> str:
    """An SI value with its unit.

    >>> render(612.0, "force"), render(0.01002, "length", significant=4)
    ('612 N', '10.02 mm')
    """
    shown = unit or DIMENSIONS[dimension].shown
    number = figures(in_unit(si, dimension, shown), significant)
    return f"{number} {shown}" if shown not in ("°", "") else f"{number}{shown}"


def render_with_uncertainty(value: float, uncertainty: float | None) -> tuple[str, str]:
    """Value and ± to the place of the uncertainty's second figure (GUM 7.2.6).

    >>> render_with_uncertainty(59.9637, 0.7342)
    ('59.96', '0.73')
    >>> render_with_uncertainty(59.9637, None)
    ('60.0', '')
    """
    if not uncertainty or not math.isfinite(uncertainty):
        return figures(value), ""
    places = max(1 - math.floor(math.log10(uncertainty)), 0)
    return number(value, f".{places}f").replace("-", "−"), number(uncertainty, f".{places}f")
