"""People of a workshop: invited, joined, given a role, left, suspended, reinstated."""

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from itertools import chain, count

from django.contrib.auth import get_user_model
from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.contrib.sessions.models import Session
from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from brunt_core.errors import InputError
from brunt_web.people.actions.seats import ensure_seat, found_workshop, open_to
from brunt_web.people.at_work import name_worker
from brunt_web.people.models import Invitation, Seat, Workshop
from brunt_web.people.queries import belongs, members
from brunt_web.people.roles import OWNER, ROLES
from brunt_web.people.second import take_off_all

DAYS = 7


def invite(workshop: Workshop, by: User, rights: str, now: datetime) -> Invitation:
    """A link that lets one person join within a week. Raises :class:`InputError` for a role that is none."""
    if rights not in ROLES:
        raise InputError("Choose a role.", "rights")
    return Invitation.objects.create(
        workshop=workshop, by=by, rights=rights, until=now + timedelta(days=DAYS)
    )


def revoke_invitation(workshop: Workshop, pk: int, now: datetime) -> None:
    """An invitation that nobody has used yet no longer opens anything."""
    Invitation.objects.filter(workshop=workshop, pk=pk, used_by__isnull=True).update(
        taken_back_at=now
    )


def _open(token: str, now: datetime) -> QuerySet[Invitation]:
    found = Invitation.objects.filter(
        token=token, used_by__isnull=True, taken_back_at__isnull=True, until__gt=now
    )
    return found.select_related("workshop", "by")


def invitation_of(token: str, now: datetime) -> Invitation | None:
    """The invitation of a link that still opens; it ends with whoever made it."""
    found = _open(token, now).first()
    return found if found and belongs(found.by, found.workshop) else None


@transaction.atomic
def join(token: str, name: str, password: str, now: datetime) -> User:
    """A new person joins by a link, which is then spent.

    Raises :class:`InputError` for a link that opens no more, a name that is taken, an easy password.
    """
    found = _locked(token, now)
    name = " ".join(name.split())
    if not 1 <= len(name) <= 150:
        raise InputError("Give a name of 1 to 150 characters.", "name")
    if get_user_model().objects.filter(username__iexact=name).exists():
        raise InputError(f"The name {name} is taken here; add a word to it.", "name")
    user = User(username=name)
    _set_password(user, password)
    user.save()
    name_worker(str(user.pk), str(found.workshop_id))
    ensure_seat(user, found.workshop, found.rights, found.rights)
    found.used_by = user
    found.save(update_fields=["used_by"])
    return user


@transaction.atomic
def join_too(token: str, user: User, now: datetime) -> Workshop:
    """Somebody who can sign in joins one more workshop by a link."""
    found = _locked(token, now)
    seat = ensure_seat(user)
    if members(found.workshop).filter(pk=seat.pk).exists():
        raise InputError(f"You are in {found.workshop} already.", "token")
    open_to(user, found.workshop, found.rights)
    found.used_by = user
    found.save(update_fields=["used_by"])
    return found.workshop


def _locked(token: str, now: datetime) -> Invitation:
    found = _open(token, now).select_for_update(of=("self",)).first()
    if found is None or not belongs(found.by, found.workshop):
        raise InputError("This link is no longer valid: ask for a new one.", "token")
    return found


def _set_password(user: User, password: str) -> None:
    try:
        validate_password(password, user)
    except ValidationError as error:
        raise InputError(" ".join(error.messages), "password") from None
    user.set_password(password)


@transaction.atomic
def give_role(workshop: Workshop, pk: int, rights: str) -> Seat:
    """What a person may do from now on. Raises :class:`InputError` when no owner would be left."""
    if rights not in ROLES:
        raise InputError("Choose a role.", "rights")
    seat = _seat(workshop, pk)
    if rights != OWNER:
        _another_owner(workshop, seat)
    if seat.workshop_id == workshop.pk:
        seat.rights = rights
    else:
        seat.elsewhere = {**seat.elsewhere, str(workshop.pk): rights}
    seat.save(update_fields=["rights", "elsewhere"])
    return seat


@transaction.atomic
def shut_out(workshop: Workshop, by: User, pk: int) -> Seat:
    """A person can no longer sign in; what they did stays theirs. Their sessions end.

    Whoever belongs to other workshops too only loses this one: it is not for its owner to close those.
    Raises :class:`InputError` for oneself, and for the last owner.
    """
    seat = _seat(workshop, pk)
    if seat.user_id == by.pk:
        raise InputError("You cannot suspend yourself; leave the workshop instead.", "person")
    _another_owner(workshop, seat)
    if seat.others:
        _out_of(workshop, seat)
        return seat
    seat.user.is_active = False
    seat.user.save(update_fields=["is_active"])
    end_sessions(seat.user)
    return seat


@transaction.atomic
def let_in(workshop: Workshop, pk: int) -> Seat:
    """A person who was suspended is reinstated."""
    seat = _seat(workshop, pk)
    seat.user.is_active = True
    seat.user.save(update_fields=["is_active"])
    return seat


@transaction.atomic
def leave(user: User) -> None:
    """Leave the workshop one is in: into another that is open, else into one of one's own.

    Raises :class:`InputError` for its last owner, who would leave it to nobody.
    """
    shop = Seat.objects.select_related("workshop").get(user=user).workshop
    seat = _seat(shop, user.seat.pk)
    _another_owner(shop, seat)
    _out_of(shop, seat)


def _out_of(workshop: Workshop, seat: Seat) -> None:
    """Take a workshop from a person; whoever is in it moves to another of theirs, or a new one."""
    rights = dict(seat.elsewhere)
    rights.pop(str(workshop.pk), None)
    if seat.workshop_id == workshop.pk:
        to = seat.also.exclude(pk=workshop.pk).first() or _of_ones_own(seat.user)
        seat.also.remove(to)
        seat.rights = rights.pop(str(to.pk), OWNER)
        seat.workshop = to
    seat.also.remove(workshop)
    seat.elsewhere = rights
    seat.save()


def _of_ones_own(user: User) -> Workshop:
    """A new workshop, never one that happens to bear the name."""
    name = f"{user.get_username()[:90]}'s own workshop"
    numbered = (f"{name} {n}" for n in count(2))
    free = next(n for n in chain([name], numbered) if not Workshop.objects.filter(name=n).exists())
    return found_workshop(free)


@transaction.atomic
def change_password(user: User, old: str, new: str) -> None:
    """A person's own password. Raises :class:`InputError` with the field."""
    if not user.check_password(old):
        raise InputError("This is not your password.", "old")
    _set_password(user, new)
    user.save(update_fields=["password"])


@transaction.atomic
def set_password(user: User, password: str) -> None:
    """A password set again by a link of the owner's: a new start, without the second factor of a lost device.

    Raises :class:`InputError`; other sessions end.
    """
    take_off_all(user)
    _set_password(user, password)
    user.save(update_fields=["password"])


def may_be_let_in_by(workshop: Workshop, pk: int) -> User:
    """Whose forgotten password an owner may have set again.

    Raises :class:`InputError` for somebody who belongs to other workshops too: the link would open those.
    """
    seat = members(workshop).filter(pk=pk).first()
    if seat is None:
        raise InputError("There is no such person in this workshop.", "person")
    if seat.others:
        raise InputError(
            f"{seat.user.get_username()} belongs to other workshops too, which the link would open: only"
            " whoever runs the machine can set that password.",
            "person",
        )
    return seat.user


@dataclass(frozen=True)
class SignedIn:
    """One of a person's sessions: until when it opens, when and from where it was used last, as far as known."""

    key: str
    until: datetime
    used: datetime | None
    on: str
    address: str


def sessions_of(user: User) -> list[SignedIn]:
    """A person's sessions that still open, the latest to end first."""
    open_ones = Session.objects.filter(expire_date__gt=timezone.now()).order_by("-expire_date")
    mine, found = str(user.pk), []
    for session in open_ones[:2000]:
        told = session.get_decoded()
        if told.get("_auth_user_id") == mine:
            seen = told.get("seen")
            used = datetime.fromtimestamp(seen, UTC) if seen else None
            on, address = told.get("from") or ("", "")
            found.append(SignedIn(session.session_key, session.expire_date, used, on, address))
    return found


def end_sessions(user: User, but: str | None = None) -> int:
    """End a person's sessions, all but one; how many."""
    gone = [s.key for s in sessions_of(user) if s.key != but]
    Session.objects.filter(pk__in=gone).delete()
    return len(gone)


def _seat(workshop: Workshop, pk: int) -> Seat:
    """One who belongs to the workshop; whoever changes its people does so one after the other."""
    Workshop.objects.select_for_update().get(pk=workshop.pk)
    found = members(workshop).filter(pk=pk).first()
    if found is None:
        raise InputError("There is no such person in this workshop.", "person")
    return found


def _another_owner(workshop: Workshop, seat: Seat) -> None:
    """Whether the workshop keeps an owner who can sign in when this person is one no more."""
    if seat.rights_in(workshop) != OWNER:
        return
    rest = members(workshop).filter(user__is_active=True).exclude(pk=seat.pk)
    if not any(s.rights_in(workshop) == OWNER for s in rest):
        raise InputError("A workshop needs an owner: give someone else that role first.", "rights")


@transaction.atomic
def set_own_ways(user: User, name: str, single_keys: bool) -> None:
    """What somebody is called, and whether a letter alone acts on a page.

    Raises :class:`InputError` for an empty name and one that another has.
    """
    if not name or len(name) > 150:
        raise InputError("Give your name, in at most 150 characters.", "name")
    others = User.objects.filter(username__iexact=name).exclude(pk=user.pk)
    if others.exists():
        raise InputError(f"“{name}” is taken here; add something to it.", "name")
    if name != user.username:
        user.username = name
        user.save(update_fields=["username"])
    Seat.objects.filter(user=user).update(single_keys=single_keys)
