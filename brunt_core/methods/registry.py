"""Finds the methods: every module of this package that defines ``METHOD``."""

from functools import cache
from importlib import import_module
from pkgutil import iter_modules

import brunt_core.methods as package
from brunt_core.errors import InputError
from brunt_core.methods.base import Method

_ORDER = ("tension", "layer-adhesion", "flexure", "impact", "torsion")


@cache
def methods() -> dict[str, Method]:
    """All methods by key; the five the product is named for first, the rest by name."""
    found = {}
    for info in iter_modules(package.__path__):
        if info.name.startswith("_") or info.name in ("base", "registry"):
            continue
        method = import_module(f"{package.__name__}.{info.name}").METHOD
        found[method.key] = method
    ranked = sorted(found, key=lambda k: (_ORDER.index(k) if k in _ORDER else len(_ORDER), k))
    return {key: found[key] for key in ranked}


@cache
def held_outcomes() -> frozenset[str]:
    """Keys of the outcomes after which the specimen is whole: what it took is "at least".

    >>> "held" in held_outcomes(), "broke" in held_outcomes()
    (True, False)
    """
    return frozenset(o.key for m in methods().values() for o in m.outcomes if o.bound == "at_least")


def method(key: str) -> Method:
    """The method with this key.

    Raises :class:`InputError` that lists the methods there are.

    >>> method("tension").name
    'Tension'
    """
    if key not in methods():
        raise InputError(
            f"There is no method “{key}”. There are: {', '.join(methods())}.", "method"
        )
    return methods()[key]
