"""A second reader of quantities, small and slow, written apart from the one that is tested.

It reads with ``fractions`` and a grammar of its own, and answers ``None`` where it is not sure.
Factors of units are the exact definitions: 1 in = 25.4 mm, 1 lb = 0.45359237 kg, g0 = 9.80665 m/s²
(NIST SP 811, appendix B; recalled).
"""

from fractions import Fraction

G0, POUND = Fraction("9.80665"), Fraction("0.45359237")
INCH = Fraction("0.0254")
UNITS = {
    "force": {
        "N": Fraction(1),
        "kN": Fraction(1000),
        "daN": Fraction(10),
        "kgf": G0,
        "kg": G0,
        "kilograms": G0,
        "gf": G0 / 1000,
        "lbf": POUND * G0,
        "lb": POUND * G0,
    },
    "length": {"mm": Fraction(1, 1000), "cm": Fraction(1, 100), "in": INCH, "thou": INCH / 1000},
    "torque": {"Nm": Fraction(1), "cNm": Fraction(1, 100), "ftlb": POUND * G0 * 12 * INCH},
    "mass": {"g": Fraction(1, 1000), "kg": Fraction(1), "lb": POUND, "oz": POUND / 16},
}
DIGITS = "0123456789"


def number(text: str) -> Fraction | None:
    """A number as a careful person reads it, or nothing."""
    text = text.strip()
    if text[:1] in ("-", "+"):
        found = number(text[1:]) if text[1:2] not in ("-", "+", " ") else None
        return None if found is None else -found if text[0] == "-" else found
    for way in (_power, _fraction, _grouped, _both_marks, _plain):
        found = way(text)
        if found is not None:
            return found
    return None


def _power(text: str) -> Fraction | None:
    head, sign, power = text.lower().partition("e")
    if not sign or " " in text or not power.lstrip("+-").isdigit() or len(power) > 3:
        return None
    found = _plain(head)
    return None if found is None else found * Fraction(10) ** int(power)


def _fraction(text: str) -> Fraction | None:
    whole, blank, part = text.rpartition(" ")
    over, line, under = part.partition("/")
    if not line or not (over.isdigit() and under.isdigit()) or (blank and not whole.isdigit()):
        return None
    return Fraction(int(whole or 0)) + Fraction(int(over), int(under))


def _grouped(text: str) -> Fraction | None:
    """Digits in threes after a blank or an apostrophe, or after two or more commas or points."""
    for group in (" ", "'", ",", "."):
        first, *rest = text.split(group)
        if len(rest) < (2 if group in ",." else 1) or not first.isdigit() or len(first) > 3:
            continue
        last, dot, tail = rest[-1].replace(",", ".").partition(".")
        triples = [*rest[:-1], last]
        if all(len(p) == 3 and p.isdigit() for p in triples) and (not dot or tail.isdigit()):
            return Fraction(first + "".join(triples) + (f".{tail}" if dot else ""))
    return None


def _both_marks(text: str) -> Fraction | None:
    if "," not in text or "." not in text:
        return None
    mark = max(",.", key=text.rfind)
    head, _, tail = text.rpartition(mark)
    pieces = head.split({",": ".", ".": ","}[mark])
    fits = len(pieces[0]) <= 3 and all(len(p) == 3 for p in pieces[1:])
    return (
        Fraction("".join(pieces) + "." + tail)
        if fits and all(p.isdigit() for p in [*pieces, tail])
        else None
    )


def _plain(text: str) -> Fraction | None:
    plain = text.replace(",", ".")
    if plain.count(".") > 1 or not plain.replace(".", "").isdigit() or set(plain) - {*DIGITS, "."}:
        return None
    return Fraction(plain.rstrip("."))


def quantity(text: str, dimension: str, unit: str) -> Fraction | None:
    """One reading, or a pile of them, in SI; ``None`` where it is not one reading for sure."""
    pieces = text.replace("\u00a0", " ").replace("\u2009", " ").split(" + ")
    units = UNITS[dimension]
    found: list[tuple[Fraction, str]] = []
    for piece in pieces:
        spelled = next(
            (u for u in sorted(units, key=len, reverse=True) if piece.rstrip().endswith(u)), ""
        )
        value = number(piece.rstrip().removesuffix(spelled))
        if value is None:
            return None
        found.append((value, spelled))
    named = {u for _, u in found if u}
    if len(named) > 1 and any(not u for _, u in found):
        return None
    shared = named.pop() if len(named) == 1 else unit
    return sum((value * units[u or shared] for value, u in found), Fraction(0))
