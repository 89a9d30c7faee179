"""What the bench, the clock and the specimen's page send, read in one place."""

import json
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

from django import forms
from django.http import QueryDict
from django.utils import timezone

from brunt_core.errors import InputError
from brunt_web.campaigns.models import Condition, Specimen, Turn
from brunt_web.interface.typed import choosing
from brunt_web.testing.actions.record_test import Entry
from brunt_web.testing.actions.timed import Taken

_LONGEST_AGE = 30 * 86400.0


class _Seconds(forms.CharField):
    """Seconds since something, as the browser counted them; nonsense counts as none."""

    def __init__(self) -> None:
        super().__init__(required=False)

    def clean(self, value: Any) -> float:
        try:
            seconds = float(value or 0)
        except (TypeError, ValueError):
            return 0.0
        return min(max(seconds, 0.0), _LONGEST_AGE) if seconds == seconds else 0.0


class _Told(forms.Form):
    """How long ago it was entered, and how long it was being typed."""

    age = _Seconds()
    typed_for = _Seconds()

    def times(self, now: datetime) -> tuple[datetime, datetime]:
        """When it was entered, and when its first character was typed."""
        entered = now - timedelta(seconds=self.cleaned_data["age"])
        return entered, entered - timedelta(seconds=self.cleaned_data["typed_for"])


def clock_time(text: str, now: datetime) -> datetime | None:
    """A time of day as the clock on the wall shows it: 14:05, 14:05:30, or with its date.

    Without a date it is the last such time. ``None`` for an empty text. Raises
    :class:`InputError` for what is no time, or one to come.
    """
    text = text.strip()
    if not text:
        return None
    here = timezone.localtime(now)
    for shape in ("%H:%M", "%H:%M:%S", "%H.%M", "%Y-%m-%d %H:%M", "%Y-%m-%d %H:%M:%S"):
        try:
            found = datetime.strptime(text, shape)
        except ValueError:
            continue
        dated = "%Y" in shape
        if not dated:
            found = found.replace(year=here.year, month=here.month, day=here.day)
        moment = found.replace(tzinfo=here.tzinfo)
        if moment > here + timedelta(minutes=1) and not dated:
            moment -= timedelta(days=1)
        if moment > here + timedelta(minutes=1):
            raise InputError("That time is in the future.", "read_at")
        return moment
    raise InputError("Write the time as 14:05, or as 2026-03-02 14:05.", "read_at")


def check_named(turn: Turn, uuid: str) -> None:
    """Refuse an entry that names another specimen. Raises :class:`InputError`.

    An entry that names none, as a script of somebody's own sends it, is meant for the ID it was sent to.
    """
    if uuid and uuid != str(turn.specimen.uuid):
        raise InputError(
            f"This was entered for another specimen that bore the ID {turn.code}; nothing was saved.",
            "specimen",
        )


class PassForm(forms.Form):
    """One timed reading given up."""

    input = forms.CharField(max_length=30)
    load_step = forms.CharField(required=False, max_length=30)
    due = forms.FloatField(min_value=0)


class EntryForm(_Told):
    """One test as the bench sends it; the method's inputs are taken as they were typed."""

    key = forms.CharField(required=False)
    specimen = forms.CharField(required=False)
    outcome = forms.CharField(required=False, max_length=20)
    place = forms.CharField(required=False, max_length=30)
    mode = forms.CharField(required=False, max_length=40)
    reason = forms.CharField(required=False, max_length=2000)
    note = forms.CharField(required=False, max_length=10_000)
    kept = forms.CharField(required=False, max_length=2000, strip=False)
    changed = forms.CharField(required=False, max_length=20_000)
    correct = forms.BooleanField(required=False)
    untimely = forms.CharField(required=False, max_length=2000)
    noted_speed = forms.CharField(required=False, max_length=60)
    ticked = forms.CharField(required=False)
    asks_ticks = forms.BooleanField(required=False)
    reading_outstanding = forms.BooleanField(required=False)

    def __init__(self, data: QueryDict | None, turn: Turn) -> None:
        super().__init__(data)
        self.turn = turn
        self.is_valid()

    @property
    def texts(self) -> dict[str, str]:
        """The method's inputs that were sent, as typed."""
        keys = {i.key for i in self.turn.procedure.method.inputs}
        return {k: str(v) for k, v in self.data.items() if k in keys}

    def said(self, name: str) -> str:
        """A field's text; what is too long is cut, and refused by the action that knows its limit."""
        return str(self.cleaned_data.get(name) or self.data.get(name, ""))

    @property
    def changes(self) -> list[dict[str, str]]:
        """What was asked about a reading and changed on that account."""
        try:
            rows = json.loads(self.said("changed") or "[]")
            return [{k: str(c[k])[:300] for k in ("asked", "was", "now")} for c in rows[:5]]
        except (ValueError, KeyError, TypeError, AttributeError, RecursionError):
            return []

    def check_specimen(self) -> None:
        """Refuse what was entered for another specimen than the one that bears this ID here."""
        check_named(self.turn, self.said("specimen"))

    def entry(
        self, now: datetime, texts: dict[str, str], answers: tuple[dict[str, str], ...]
    ) -> Entry:
        """The entry. Raises :class:`InputError` when it has lost its key."""
        try:
            key = UUID(self.said("key"))
        except ValueError:
            raise InputError("This form has lost its entry key; reload the page.", "key") from None
        at, read_at = self.times(now)
        ticked = tuple(self.data.getlist("ticked")) if hasattr(self.data, "getlist") else ()
        return Entry(
            key=key,
            at=at,
            inputs=texts,
            outcome=self.said("outcome"),
            place=self.said("place"),
            mode=self.said("mode"),
            reason=self.said("reason"),
            note=self.said("note"),
            answers=answers,
            read_at=read_at,
            untimely=self.said("untimely"),
            speed=self.said("noted_speed"),
            ticks=ticked if self.cleaned_data.get("asks_ticks") else None,
            reading_outstanding=bool(self.cleaned_data.get("reading_outstanding")),
        )


class ClockForm(_Told):
    """The start of a clock: for which load, and why although something is outstanding."""

    specimen = forms.CharField(required=False)
    load_step = forms.CharField(required=False, max_length=30)
    untimely = forms.CharField(required=False, max_length=300)


class TakenForm(_Told):
    """One timed reading."""

    specimen = forms.CharField(required=False)
    key = forms.UUIDField()
    input = forms.CharField(max_length=30)
    due = forms.FloatField(min_value=0)
    text = forms.CharField(required=False, max_length=100, strip=False)
    load_step = forms.CharField(required=False, max_length=30)
    kept = forms.CharField(required=False, max_length=100, strip=False)
    read_at = forms.CharField(required=False, max_length=30)

    def taken(self, now: datetime) -> Taken:
        """The reading. Raises :class:`InputError` when it has lost its key."""
        if not self.is_valid():
            raise InputError("This reading has lost its key; reload the page.", "key")
        _, at = self.times(now)
        at = clock_time(self.cleaned_data["read_at"], now) or at
        fields = ("key", "input", "due", "text", "load_step", "kept")
        return Taken(at=at, **{k: self.cleaned_data[k] for k in fields})


class WhyForm(forms.Form):
    """A written reason."""

    reason = forms.CharField(required=False, max_length=2000)


class PhotoForm(forms.Form):
    """A picture with its caption."""

    photo = forms.FileField(required=False, allow_empty_file=True)
    caption = forms.CharField(required=False, max_length=2000)


class PickForm(forms.Form):
    """A point of a curve moved."""

    pick = forms.CharField(required=False, max_length=20)
    at = forms.FloatField()


class CurveForm(forms.Form):
    """A curve as a file or as pasted lines."""

    curve = forms.FileField(required=False, allow_empty_file=True)
    pasted = forms.CharField(required=False, strip=False)
    named = forms.CharField(required=False, max_length=80)


class OwnIdForm(forms.Form):
    """What the tester calls a specimen."""

    own_id = forms.CharField(
        required=False,
        max_length=80,
        error_messages={"max_length": "Your ID has at most 80 characters."},
    )


class AnswerForm(forms.Form):
    """Which way a file is to be read: the key of a guess."""

    chosen = forms.CharField(max_length=40)


class ShareForm(forms.Form):
    """Whose each pull of a file is: ``key`` and ``to`` come in pairs; an empty ``to`` is nobody's."""

    @property
    def whose(self) -> dict[str, int]:
        """The key of a turn by that of a pull; pulls that are nobody's excluded."""
        data = self.data
        pairs = zip(data.getlist("key"), data.getlist("to"), strict=False)  # type: ignore[attr-defined]
        return {key[:40]: int(to) for key, to in pairs if to.isdecimal() and len(to) < 10}


class MixupForm(forms.Form):
    """Another specimen, since when, and why."""

    other = forms.CharField(required=False, max_length=20)
    reason = forms.CharField(required=False, max_length=2000)
    since = forms.DateTimeField(
        required=False,
        error_messages={
            "invalid": "Write the date and time as 2026-03-02 14:30, or leave it empty."
        },
    )


class ConditionRoleForm(forms.Form):
    """Another condition of the same campaign, and why."""

    condition = forms.ModelChoiceField(
        Condition.objects.none(),
        error_messages={
            "required": "Choose the condition it belongs to.",
            "invalid_choice": "It belongs to that condition already, or there is no such one here.",
        },
    )
    reason = forms.CharField(required=False, max_length=2000)
    replace = forms.BooleanField(required=False)

    def __init__(self, data: QueryDict | None, specimen: Specimen) -> None:
        super().__init__(data)
        mine = Condition.objects.filter(campaign_id=specimen.campaign_id)
        choosing(self, "condition").queryset = mine.exclude(pk=specimen.condition_id)


class NoteForm(forms.Form):
    """A note in a history."""

    words = forms.CharField(max_length=390, error_messages={"required": "Write the note first."})


class MeasurementForm(forms.Form):
    """Sizes and mass at a named moment of a history; the sizes are the specimen's own."""

    name = forms.CharField(required=False, max_length=60)
    at = forms.DateTimeField(
        required=False,
        error_messages={
            "invalid": "Write the date and time as 2026-03-02 14:30, or leave it empty."
        },
    )

    def __init__(self, data: QueryDict | None, keys: list[str]) -> None:
        super().__init__(data)
        self.keys = keys
        for key in keys:
            self.fields[key] = forms.CharField(required=False, max_length=120)

    def clean_name(self) -> str:
        """What the moment is called."""
        return self.cleaned_data["name"].strip() or "as made"

    def clean_at(self) -> datetime:
        """When it was: now where nothing is typed, never in the future."""
        at = self.cleaned_data["at"] or timezone.now()
        if at > timezone.now():
            raise forms.ValidationError("That is in the future.")
        return at

    def texts(self) -> dict[str, str]:
        """What was typed, by size."""
        return {k: str(self.cleaned_data.get(k) or "") for k in self.keys}
