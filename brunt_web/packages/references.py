"""Keys that stand inside stored documents: turned to the package's numbers, and back."""

from collections.abc import Callable, Mapping
from typing import Any

Numbers = Mapping[str, Mapping[int, int]]
_KEYS = {"turn": "turns", "lot": "lots", "from": "conditions", "to": "conditions"}


def outward(value: Any, numbers: Numbers, names: Mapping[str, str]) -> Any:
    """The document with the package's numbers; what is not in the package loses its number."""
    return _walk(value, lambda table, pk: numbers[table].get(pk), names)


def inward(value: Any, keys: Numbers, names: Mapping[str, str]) -> Any:
    """The document with the keys of the rows that were stored."""
    return _walk(value, lambda table, number: keys[table].get(number), names)


def _walk(value: Any, find: Callable[[str, int], int | None], names: Mapping[str, str]) -> Any:
    if isinstance(value, list):
        return [_walk(v, find, names) for v in value]
    if not isinstance(value, dict):
        return value
    found: dict[str, Any] = {}
    for key, own in value.items():
        if key in _KEYS and isinstance(own, int) and not isinstance(own, bool):
            found[key] = find(_KEYS[key], own)
        elif key in ("file", "operator") and isinstance(own, str):
            found[key] = names.get(own, own)
        elif (
            key == "key" and isinstance(own, str) and own.startswith("own-") and own[4:].isdecimal()
        ):
            pk = find("specimen_types", int(own[4:]))
            found[key] = own if pk is None else f"own-{pk}"
        else:
            found[key] = _walk(own, find, names)
    return found
