"""Where a specimen and its tests are found."""

from functools import lru_cache

from django.urls import reverse


@lru_cache(maxsize=20_000)
def specimen_address(code: str) -> str:
    """The page of a specimen."""
    return reverse("specimen", args=[code])


@lru_cache(maxsize=20_000)
def bench_address(code: str, step: int) -> str:
    """The bench with a specimen's test of this step, counted from 0."""
    return reverse("bench-specimen", args=[turn_key(code, step)])


def turn_key(code: str, step: int) -> str:
    """A test in an address: the ID, with the number of the test where it is not the first.

    >>> turn_key("K7-3HD", 0), turn_key("K7-3HD", 1)
    ('K7-3HD', 'K7-3HD/2')
    """
    return f"{code}/{step + 1}" if step else code
