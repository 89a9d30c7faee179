"""How a workshop writes dates and decimals: known while one request is answered."""

import re
from contextvars import ContextVar
from dataclasses import dataclass
from datetime import date, datetime

from django.utils import dateformat, timezone
from django.utils.html import format_html
from django.utils.safestring import SafeString

from brunt_core.quantities.rendering import DECIMAL_SIGN

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


def written_moment(moment: date | datetime, form: str) -> str:
    """A moment in a form, its date as the workshop writes dates; in the zone that is active.

    >>> from datetime import date
    >>> written_moment(date(2026, 11, 26), "j M Y")
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
            '<time datetime="{}">{}</time>', moment.isoformat(), written_moment(moment, form)
        )
    local = timezone.localtime(moment) if moment.tzinfo else moment
    whole = f"{written_moment(moment, 'l j F Y, H:i')} {zone_name()}"
    iso = local.isoformat(timespec="seconds")
    return format_html(
        '<time datetime="{}" title="{}">{}</time>', iso, whole, written_moment(moment, form)
    )


# Stands for the decimal sign in text that is made for one page, until it is known where on the page it stands.
MARK = "\ue000"
_MARK = MARK.encode()
# Answers that may hold marks; in a picture or a zip the same bytes stand for something else.
WITH_MARKS = {"text/html", "text/plain", "application/json", "image/svg+xml"}
_TAG = re.compile(rb"(<[^>]*>)")
_AS_IS = re.compile(rb"<(script|style|textarea|code|pre|kbd)\b", re.I)
_OWN_POINT = re.compile(r"(?<=\d)\.(?=\d)")


def write_for_reader() -> None:
    """From here on this request only writes a page: numbers are written as the workshop writes them.

    Nothing may be stored after it. The middleware ends it with the request.
    """
    if current.get().comma:
        DECIMAL_SIGN.set(MARK)


def own_numbers(text: str) -> str:
    """A sentence that Brunt stored, with no words of a person in it, in the workshop's decimals.

    >>> own_numbers("58.4 × 9.81 = 572.9 N")
    '58.4 × 9.81 = 572.9 N'
    """
    sign = DECIMAL_SIGN.get()
    return text if sign == "." else _OWN_POINT.sub(sign, text)


def with_commas(page: bytes) -> bytes:
    """A page with each mark as a comma where it is read, and as a point in fields, code and addresses.

    What a person wrote holds no mark and stays as it was written.

    >>> page = f'<p title="1{MARK}5">58{MARK}4 kgf of lot 12.4</p><code>1{MARK}5</code>'
    >>> with_commas(page.encode()).decode()
    '<p title="1.5">58,4 kgf of lot 12.4</p><code>1.5</code>'
    """
    parts, inside = _TAG.split(page), b""
    for i, part in enumerate(parts):
        if i % 2:
            if inside and part.lower().startswith(b"</" + inside):
                inside = b""
            elif not inside and (found := _AS_IS.match(part)):
                inside = found[1].lower()
        parts[i] = part.replace(_MARK, b"." if i % 2 or inside else b",")
    return b"".join(parts)


def with_points(content: bytes) -> bytes:
    """An answer that is no page, with each mark as a point."""
    return content.replace(_MARK, b".")
