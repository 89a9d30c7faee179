"""The second step of signing in, and where a person sets it up."""

import time

import segno
from django.conf import settings
from django.contrib import messages
from django.contrib.auth import get_user_model, login
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.models import User
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_http_methods, require_POST

from brunt_core.errors import InputError
from brunt_web.people import passkeys, second
from brunt_web.people.forms import AgainForm, PasskeyForm, SecondStepForm
from brunt_web.people.passwords import ALONE
from brunt_web.people.requests import SeatedRequest
from brunt_web.people.views import after_sign_in

_HALF, _PATIENCE = "half-signed-in", 600
BACKEND = "brunt_web.people.backend.SeatBackend"


def ask_second(request: HttpRequest, user: User) -> HttpResponse:
    """The password was right; who it is waits in the session until the second step."""
    request.session.cycle_key()
    request.session[_HALF] = [user.pk, time.time()]
    return _asked(request, user, status=202 if request.headers.get("X-Part") else 200)


def _half(request: HttpRequest) -> User | None:
    pk, at = request.session.get(_HALF, (None, 0))
    if pk is None or time.time() - at > _PATIENCE:
        return None
    return get_user_model().objects.filter(pk=pk, is_active=True).first()


def _told(request: HttpRequest) -> dict[str, str]:
    """What the second step's form, or the first's, says; nothing of a field that cannot be."""
    form = SecondStepForm(request.POST)
    form.is_valid()
    return form.cleaned_data


def _asked(request: HttpRequest, user: User, problem: str = "", status: int = 200) -> HttpResponse:
    own, told = user.passkeys.exists(), _told(request)
    keys = second.can_have_passkeys(request) and own
    if own and not keys and not problem:
        problem = (
            "Your passkeys work at this machine's name over https only; here a code is needed."
        )
    context = {
        "problem": problem,
        "has_keys": keys,
        "asked": passkeys.passkey_asked(request, user) if keys else "",
        "next": told.get("next", ""),
        "kept": told.get("kept", ""),
    }
    part = bool(request.headers.get("X-Part"))
    return render(
        request,
        "people/_second_form.html" if part else "people/second.html",
        context,
        status=status,
    )


@login_not_required
@require_http_methods(["GET", "POST"])
def second_step(request: HttpRequest) -> HttpResponse:
    """A code, or what a passkey signed."""
    user = _half(request)
    if user is None:
        return redirect("sign-in")
    if request.method == "GET":
        return _asked(request, user)
    try:
        told = _told(request)
        answer, now = told.get("passkey", ""), timezone.now()
        right = (
            passkeys.check_passkey(request, user, answer, now)
            if answer
            else second.check_code(user, told.get("code", ""), now)
        )
    except InputError as error:
        return _asked(request, user, error.sentence, 429)
    if not right:
        said = "The passkey was not accepted." if answer else "This is not the code."
        return _asked(request, user, said, 422)
    del request.session[_HALF]
    login(request, user, backend=BACKEND)
    to = told.get("next", "")
    here = url_has_allowed_host_and_scheme(to, {request.get_host()}, request.is_secure())
    return after_sign_in(request, redirect(to if here else settings.LOGIN_REDIRECT_URL))


@require_http_methods(["GET", "POST"])
def app(request: SeatedRequest) -> HttpResponse:
    """Set up an authenticator app: scan, type a code, keep the recovery codes."""
    problem = ""
    if request.method == "POST":
        try:
            codes = second.confirm_app(request.user, _told(request).get("code", ""), timezone.now())
            return render(request, "people/recovery.html", {"codes": codes})
        except InputError as error:
            problem = error.sentence
    factor = second.begin_app(request.user, again=not problem)
    if factor.confirmed_at:
        return redirect("account")
    drawn = segno.make(second.provisioning_address(factor), micro=False)
    context = {"drawn": drawn.svg_data_uri(scale=5), "secret": factor.secret, "problem": problem}
    return render(request, "people/app.html", context, status=422 if problem else 200)


@require_POST
def second_off(request: SeatedRequest) -> HttpResponse:
    """Only the password again; it is asked for."""
    form = AgainForm(request.POST)
    word = form.cleaned_data["password"] if form.is_valid() else ""
    if not request.user.check_password(word):
        messages.error(request, "This is not your password; nothing was changed.")
    elif len(word) < ALONE:
        messages.error(
            request,
            f"Your password is shorter than {ALONE} characters. Change it first, then turn the second factor off.",
        )
    else:
        second.take_off_all(request.user)
        messages.success(request, "The second factor is off; only your password is asked.")
    return redirect("account")


@require_http_methods(["GET", "POST"])
def passkey(request: SeatedRequest) -> HttpResponse:
    """What a new passkey is made from; on POST it is kept."""
    if not second.can_have_passkeys(request):
        return JsonResponse(
            {"error": "Passkeys need a name of this machine over https."}, status=422
        )
    if request.method == "GET":
        return HttpResponse(
            passkeys.passkey_wanted(request, request.user), content_type="application/json"
        )
    form = PasskeyForm(request.POST)
    if not form.is_valid():
        return JsonResponse({"error": "The browser sent no passkey."}, status=422)
    try:
        kept = passkeys.keep_passkey(request, request.user, **form.cleaned_data)
    except InputError as error:
        return JsonResponse({"error": error.sentence}, status=422)
    messages.success(request, f"Passkey “{kept}” added; it can be used to sign in.")
    return JsonResponse({"kept": kept.name})


@require_POST
def passkey_off(request: SeatedRequest, pk: int) -> HttpResponse:
    """A passkey is no longer valid."""
    request.user.passkeys.filter(pk=pk).delete()
    messages.success(request, "Passkey deleted.")
    return redirect("account")
