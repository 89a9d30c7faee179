"""People: who is in the workshop, invitations, joining, passwords, sessions."""

from collections.abc import Callable

from django.contrib import messages
from django.contrib.auth import get_user_model, login, update_session_auth_hash
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.models import User
from django.contrib.auth.tokens import default_token_generator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.utils.encoding import force_bytes
from django.utils.http import urlsafe_base64_decode, urlsafe_base64_encode
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from brunt_core.errors import InputError
from brunt_web.people.actions import people
from brunt_web.people.backups import last_backup
from brunt_web.people.forms import InviteForm, JoinForm, NewPasswordForm, PasswordForm, RoleForm
from brunt_web.people.models import Seat, SecondFactor
from brunt_web.people.queries import members
from brunt_web.people.requests import SeatedRequest
from brunt_web.people.roles import OWNER, ROLES, may
from brunt_web.people.second import can_have_passkeys

_BACKEND = "brunt_web.people.backend.SeatBackend"


@require_GET
def everybody(request: SeatedRequest) -> HttpResponse:
    """Who is in the workshop, what they may do, invitations that wait, the last good backup."""
    return _people(request)


def _people(request: SeatedRequest, link: str = "", problem: str = "") -> HttpResponse:
    now = timezone.now()
    seats = members(request.workshop).order_by("-user__is_active", "user__username")
    context = {
        "seats": [(s, s.rights_in(request.workshop)) for s in seats],
        "roles": ROLES,
        "owner": may(request.seat.rights, OWNER),
        "waiting": request.workshop.invitations.filter(
            used_by__isnull=True, taken_back_at__isnull=True, until__gt=now
        ),
        "invite_form": InviteForm(),
        "link": link,
        "problem": problem,
        "backup": last_backup(),
    }
    return render(request, "people/people.html", context, status=422 if problem else 200)


@require_POST
def invite_view(request: SeatedRequest) -> HttpResponse:
    """A link for one person; it is shown once, and can be revoked."""
    form = InviteForm(request.POST)
    if not form.is_valid():
        return _people(request, problem="Choose a role.")
    made = people.invite(
        request.workshop, request.user, form.cleaned_data["rights"], timezone.now()
    )
    return _people(request, request.build_absolute_uri(reverse("join", args=[made.token])))


@require_POST
def invite_back(request: SeatedRequest, pk: int) -> HttpResponse:
    """An invitation was undone."""
    people.revoke_invitation(request.workshop, pk, timezone.now())
    messages.success(request, "The link is no longer valid.")
    return redirect("people")


@require_POST
def person_role(request: SeatedRequest, pk: int) -> HttpResponse:
    """What a person may do from now on."""
    form = RoleForm(request.POST)
    rights = form.cleaned_data["rights"] if form.is_valid() else ""
    return _done(request, lambda: people.give_role(request.workshop, pk, rights), "{} now has the role {}.")  # fmt: skip


@require_POST
def person_off(request: SeatedRequest, pk: int) -> HttpResponse:
    """A person can no longer sign in."""
    return _done(request, lambda: people.shut_out(request.workshop, request.user, pk), "{} is suspended from this workshop.")  # fmt: skip


@require_POST
def person_on(request: SeatedRequest, pk: int) -> HttpResponse:
    """A person is reinstated."""
    return _done(request, lambda: people.let_in(request.workshop, pk), "{} is reinstated.")


def _done(request: SeatedRequest, act: Callable[[], Seat], said: str) -> HttpResponse:
    try:
        seat = act()
    except InputError as error:
        return _people(request, problem=error.sentence)
    messages.success(
        request, said.format(seat.user.get_username(), seat.rights_in(request.workshop))
    )
    return redirect("people")


@require_POST
def new_password(request: SeatedRequest, pk: int) -> HttpResponse:
    """A link by which a person who forgot their password sets another; it opens once."""
    try:
        user = people.may_be_let_in_by(request.workshop, pk)
    except InputError as error:
        return _people(request, problem=error.sentence)
    key = urlsafe_base64_encode(force_bytes(user.pk))
    token = default_token_generator.make_token(user)
    return _people(request, request.build_absolute_uri(reverse("set-password", args=[key, token])))


@login_not_required
@require_http_methods(["GET", "POST"])
def set_password_view(request: HttpRequest, key: str, token: str) -> HttpResponse:
    """Set a password by a link of the owner's."""
    user = _user_of(key)
    if user is None or not default_token_generator.check_token(user, token):
        return render(request, "people/link_gone.html", status=410)
    form = NewPasswordForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        try:
            people.set_password(user, form.cleaned_data["password"])
        except InputError as error:
            form.add_error("password", error.sentence)
        else:
            messages.success(request, "Your password is set. Sign in with it.")
            return redirect("sign-in")
    status = 422 if form.errors else 200
    return render(request, "people/set_password.html", {"form": form, "name": user.get_username()}, status=status)  # fmt: skip


def _user_of(key: str) -> User | None:
    try:
        pk = int(urlsafe_base64_decode(key).decode())
    except (ValueError, UnicodeDecodeError):
        return None
    found: User | None = get_user_model().objects.filter(pk=pk, is_active=True).first()
    return found


@login_not_required
@require_http_methods(["GET", "POST"])
def join_view(request: HttpRequest, token: str) -> HttpResponse:
    """Join by a link: with a name and a password, or as who one is."""
    found = people.invitation_of(token, timezone.now())
    if found is None:
        return render(request, "people/link_gone.html", status=410)
    form = JoinForm(request.POST or None)
    known = request.user.is_authenticated
    if request.method == "POST" and (known or form.is_valid()):
        try:
            return _joined(request, token, form)
        except InputError as error:
            form.add_error(error.field if error.field in form.fields else None, error.sentence)
    context = {"invitation": found, "form": form, "known": known, "words": ROLES[found.rights]}
    status = 422 if form.is_bound and form.errors else 200
    return render(request, "people/join.html", context, status=status)


def _joined(request: HttpRequest, token: str, form: JoinForm) -> HttpResponse:
    now = timezone.now()
    if isinstance(request.user, User):
        shop = people.join_too(token, request.user, now)
        messages.success(
            request, f"{shop} is open to you; go there under Packages, other workshops."
        )
        return redirect("packages")
    user = people.join(token, form.cleaned_data["name"], form.cleaned_data["password"], now)
    login(request, user, backend=_BACKEND)
    messages.success(request, f"Welcome, {user.get_username()}.")
    return redirect("start")


@require_GET
def account(request: SeatedRequest) -> HttpResponse:
    """One's own account: what one may do, the password, sessions, leaving."""
    return _account(request, PasswordForm())


def _account(request: SeatedRequest, form: PasswordForm) -> HttpResponse:
    own = request.session.session_key
    sessions = [(s, s.key == own) for s in people.sessions_of(request.user)]
    factor = SecondFactor.objects.filter(user=request.user, confirmed_at__isnull=False).first()
    context = {
        "form": form,
        "sessions": sessions,
        "words": ROLES[request.seat.rights],
        "app_since": factor.confirmed_at if factor else None,
        "codes_left": len(factor.codes) if factor else 0,
        "passkeys": list(request.user.passkeys.all()),
        "can_have_passkeys": can_have_passkeys(request),
    }
    return render(request, "people/account.html", context, status=422 if form.errors else 200)


@require_POST
def account_ways(request: SeatedRequest) -> HttpResponse:
    """What one is called, and whether a letter alone acts."""
    name = " ".join(request.POST.get("name", "").split())
    try:
        people.set_own_ways(request.user, name, bool(request.POST.get("single_keys")))
    except InputError as error:
        messages.error(request, error.sentence)
    else:
        messages.success(request, "Your account is saved.")
    return redirect("account")


@require_POST
def account_password(request: SeatedRequest) -> HttpResponse:
    """One's own password is changed; the other sessions end."""
    form = PasswordForm(request.POST)
    if form.is_valid():
        try:
            people.change_password(request.user, form.cleaned_data["old"], form.cleaned_data["new"])
        except InputError as error:
            form.add_error(error.field if error.field in form.fields else "new", error.sentence)
        else:
            update_session_auth_hash(request, request.user)
            people.end_sessions(request.user, but=request.session.session_key)
            messages.success(request, "Your password is changed; elsewhere you are signed out.")
            return redirect("account")
    return _account(request, form)


@require_POST
def end_sessions_view(request: SeatedRequest) -> HttpResponse:
    """All of one's other sessions end."""
    count = people.end_sessions(request.user, but=request.session.session_key)
    messages.success(request, f"{count} other session{'' if count == 1 else 's'} ended.")
    return redirect("account")


@require_POST
def leave_view(request: SeatedRequest) -> HttpResponse:
    """Leave the workshop; what one did stays."""
    try:
        people.leave(request.user)
    except InputError as error:
        messages.error(request, error.sentence)
        return redirect("account")
    messages.success(request, "You have left the workshop; your entries stay there.")
    return redirect("start")
