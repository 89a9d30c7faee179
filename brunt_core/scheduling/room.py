"""How much something takes at once, as a workshop says it: specimens, plates of so many, litres."""

import re
from dataclasses import dataclass

from brunt_core.errors import InputError
from brunt_core.quantities import parse

MOST = 1000
_PLATES = re.compile(r"(\d{1,3})\s*(?:plates?|trays?|shelves)\s*(?:of|à|x|×)\s*(\d{1,3})", re.I)
_LITRES = re.compile(r"(.+?)\s*[,;]\s*(.+?)\s*(?:each|a specimen|per specimen)", re.I)


@dataclass(frozen=True)
class Room:
    """``specimens`` at once; they take it by ``each``: a plate of eight is taken whole by one."""

    specimens: int
    each: int = 1

    def taken(self, count: int) -> int:
        """What so many specimens take of it, in specimens.

        >>> Room(48, 8).taken(9)
        16
        """
        return min(-(-max(count, 1) // self.each) * self.each, self.specimens)


def room(text: str) -> Room:
    """Read how much something takes.

    Parameters: a number of specimens; plates of so many; litres with the litres of a specimen.
    Raises :class:`InputError` for anything else, for none, and for more than a thousand.

    >>> room("12"), room("6 plates of 8"), room("8 l, 0.25 l each")
    (Room(specimens=12, each=1), Room(specimens=48, each=8), Room(specimens=32, each=1))
    """
    said = text.strip()
    if found := _PLATES.fullmatch(said):
        each = int(found[2])
        return _checked(int(found[1]) * each, each)
    if found := _LITRES.fullmatch(said):
        whole, part = (parse(t, "volume", "l").si for t in found.groups())
        if whole <= 0 or part <= 0:
            raise InputError("Litres are more than none.", "capacity")
        return _checked(int(min(whole / part + 1e-9, 1e9)), 1)
    if not re.fullmatch(r"\d{1,6}", said):
        raise InputError(
            "Write how much it takes: 12, or 6 plates of 8, or 8 l, 0.25 l each.", "capacity"
        )
    return _checked(int(said), 1)


def _checked(specimens: int, each: int) -> Room:
    if specimens < 1:
        raise InputError("It is too small for one specimen.", "capacity")
    if specimens > MOST:
        raise InputError(f"It takes more than {MOST} specimens.", "capacity")
    return Room(specimens, each)
