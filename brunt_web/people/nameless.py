"""Where nobody is to be named: people go by number, also in what was written by hand."""

import re
from collections.abc import Mapping

from django.contrib.auth.models import User

from brunt_web.people.models import Workshop

_LEAST = 4


class Nameless:
    """Numbers for names. Names of three letters and fewer stay in written text: they are words as well.

    >>> hidden = Nameless({"marion": "person 1", "bo": "person 2"})
    >>> hidden.name("bo"), hidden.text("marion saw bo; marionette")
    ('person 2', 'person 1 saw bo; marionette')
    """

    def __init__(self, numbers: Mapping[str, str]) -> None:
        self.numbers = dict(numbers)
        known = sorted((n for n in numbers if len(n) >= _LEAST), key=len, reverse=True)
        self.pattern = re.compile(rf"(?<!\w)({'|'.join(map(re.escape, known))})(?!\w)") if known else None  # fmt: skip

    @classmethod
    def of(cls, workshop: Workshop) -> "Nameless":
        """The people of a workshop by the order they came."""
        people = User.objects.filter(seat__workshop=workshop).order_by("pk")
        return cls({u.get_username(): f"person {i}" for i, u in enumerate(people, 1)})

    def name(self, name: str) -> str:
        """The number of a name; somebody who is not known gets the next."""
        if not name:
            return ""
        return self.numbers.setdefault(name, f"person {len(self.numbers) + 1}")

    def text(self, text: str) -> str:
        """Written text with every known name by number."""
        return self.pattern.sub(lambda m: self.numbers[m[1]], text) if self.pattern else text
