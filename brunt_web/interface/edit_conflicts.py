"""Two at once: what stands now against what somebody saw when they began to type."""

from collections.abc import Callable, Mapping
from hashlib import sha256

from brunt_core.errors import InputError

SEEN = "seen"


def fingerprint(standing: Mapping[str, str]) -> str:
    """A short mark of what stands, to be sent back with a form.

    >>> fingerprint({"load": "500 N"}) == fingerprint({"load": "500 N"}), fingerprint({"load": "500 N"}) == fingerprint({})
    (True, False)
    """
    text = "\x1f".join(
        f"{k}\x1e{' '.join(str(v).split())}" for k, v in sorted(standing.items()) if str(v)
    )
    return sha256(text.encode()).hexdigest()[:16]


def refuse_overtaken(
    seen: str,
    standing: Mapping[str, str],
    mine: Mapping[str, str],
    by: Callable[[], str] = str,
    again: str = "Send it again",
) -> None:
    """Refuse what was typed over something that has changed since.

    Parameters: the mark that came with the form, empty where none did (then nothing is asked); what
    stands now and what was typed, by what each is called; what tells who changed it and when, asked
    only where it did.
    Raises :class:`InputError` with what stands now beside what was typed. The page it is shown on has
    the new mark: sent once more, what was typed takes the place of the other's.

    >>> refuse_overtaken(fingerprint({"load": "5 N"}), {"load": "6 N"}, {"load": "7 N"}, lambda: "quill, 14:05")
    Traceback (most recent call last):
    brunt_core.errors.InputError: This was changed by quill, 14:05, while you had it open: load is now 6 N, \
you have 7 N. Send it again to replace it with yours; leave the page to keep the saved values.
    """
    if not seen or seen == fingerprint(standing):
        return
    names = [k for k in dict.fromkeys([*standing, *mine]) if standing.get(k, "") != mine.get(k, "")]
    if not names:
        return
    told = [
        f"{n} is now {_said(standing.get(n))}, you have {_said(mine.get(n))}" for n in names[:6]
    ]
    more = f"; and {len(names) - 6} more differ" if len(names) > 6 else ""
    last = by()
    who = f" by {last}" if last else ""
    raise InputError(
        f"This was changed{who} while you had it open: {'; '.join(told)}{more}. "
        f"{again} to replace it with yours; leave the page to keep the saved values.",
        SEEN,
    )


def _said(text: str | None) -> str:
    short = " ".join(str(text or "").split())
    return f"{short[:60]}…" if len(short) > 60 else short or "empty"
