"""How a workshop writes dates and decimals: known while one request is answered."""

import re
from contextvars import ContextVar
from dataclasses import dataclass
from datetime import date, datetime

from django.utils import dateformat, timezone
from django.utils.html import format_html
from django.utils.safestring import SafeString

DATE_FORMS = {
    "j M Y": "26 Nov 2026",
    "d.m.Y": "26.11.2026",
    "d/m/Y": "26/11/2026",
    "m/d/Y": "11/26/2026",
    "Y-m-d": "2026-11-26",
}
# The short form has a blank, so that it is no decimal.
_SHORT = {"d.m.Y": "d.\u202fm.", "d/m/Y": "d/m", "m/d/Y": "m/d", "Y-m-d": "m-d"}


@dataclass(frozen=True)
class Ways:
    """The form of dates, as Django writes them; whether decimals have a comma."""

    date: str = "j M Y"
    comma: bool = False


_USUAL = Ways()
current: ContextVar[Ways] = ContextVar("ways", default=_USUAL)


def written(moment: date | datetime, form: str) -> str:
    """A moment in a form, its date as the workshop writes dates; in the zone that is active.

    >>> from datetime import date
    >>> written(date(2026, 11, 26), "j M Y")
    '26 Nov 2026'
    """
    own = current.get().date
    if own != "j M Y":
        form = form.replace("j M Y", own).replace("j F Y", own).replace("j M", _SHORT[own])
    local = timezone.localtime(moment) if isinstance(moment, datetime) and moment.tzinfo else moment
    return str(dateformat.format(local, form))


def zone_name() -> str:
    """The active zone by its name."""
    return str(timezone.get_current_timezone_name())


def stamped(moment: date | datetime | None, form: str) -> SafeString | str:
    """A moment as ``<time>``, its zone named where one points at it; nothing for none."""
    if not moment:
        return ""
    if not isinstance(moment, datetime):
        return format_html(
            '<time datetime="{}">{}</time>', moment.isoformat(), written(moment, form)
        )
    local = timezone.localtime(moment) if moment.tzinfo else moment
    whole = f"{written(moment, 'l j F Y, H:i')} {zone_name()}"
    iso = local.isoformat(timespec="seconds")
    return format_html(
        '<time datetime="{}" title="{}">{}</time>', iso, whole, written(moment, form)
    )


_TAG = re.compile(rb"(<[^>]*>)")
_POINT = re.compile(rb"(?<![\w.])(\d+)\.(?=\d+(?!\d*\.\d))")
_AS_IS = re.compile(rb"<(script|style|textarea|code|pre|kbd)\b", re.I)


def with_commas(page: bytes) -> bytes:
    """A page whose decimals have a comma: in its text alone, not in fields, code, addresses or versions.

    >>> with_commas(b'<p title="1.5">58.4 kgf, 1.2.3, v1.5; it is 7.5.</p><code>1.5</code>').decode()
    '<p title="1.5">58,4 kgf, 1.2.3, v1.5; it is 7,5.</p><code>1.5</code>'
    """
    parts, inside = _TAG.split(page), b""
    for i, part in enumerate(parts):
        if i % 2:
            if inside and part.lower().startswith(b"</" + inside):
                inside = b""
            elif not inside and (found := _AS_IS.match(part)):
                inside = found[1].lower()
        elif not inside and b"." in part:
            parts[i] = _POINT.sub(rb"\1,", part)
    return b"".join(parts)
