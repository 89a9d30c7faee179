"""Signing in, and the demo's one press."""

from django.conf import settings
from django.contrib import messages
from django.contrib.auth import get_user_model, login
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.views import LoginView
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.utils.decorators import method_decorator
from django.views.decorators.http import require_POST

from brunt_core.errors import InputError
from brunt_web.people.actions import seats
from brunt_web.people.requests import SeatedRequest

DEMO_USER = "bench-lead"


@method_decorator(login_not_required, name="dispatch")
class SignIn(LoginView):
    """The sign-in page."""

    template_name = "people/sign_in.html"
    redirect_authenticated_user = True
    extra_context = {"demo": settings.DEMO}


@require_POST
@login_not_required
def demo_sign_in(request: HttpRequest) -> HttpResponse:
    """Sign in as the demo's bench lead; exists in demo mode only."""
    if not settings.DEMO:
        raise Http404
    user = get_user_model().objects.filter(username=DEMO_USER).first()
    if user is None:
        raise Http404
    login(request, user, backend="brunt_web.people.backend.SeatBackend")
    return redirect(settings.LOGIN_REDIRECT_URL)


@require_POST
def sit_down(request: SeatedRequest, pk: int) -> HttpResponse:
    """Go to another workshop that is open to the person."""
    try:
        seat = seats.sit_down(request.user, pk)
    except InputError as error:
        raise Http404(error.sentence) from None
    messages.success(request, f"You are in “{seat.workshop}” now.")
    return redirect("start")
