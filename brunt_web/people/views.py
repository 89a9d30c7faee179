"""Signing in, and the demo's one press."""

from typing import Any

from django.conf import settings
from django.contrib import messages
from django.contrib.auth import get_user_model, login
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.views import LoginView
from django.http import Http404, HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from django.shortcuts import redirect, render
from django.utils.decorators import method_decorator
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_POST

from brunt_core.errors import InputError
from brunt_web.people.actions import seats
from brunt_web.people.kept import opened_form
from brunt_web.people.passwords import too_many_from
from brunt_web.people.requests import SeatedRequest
from brunt_web.people.second import has_second_factor

DEMO_USER = "bench-lead"


@method_decorator(login_not_required, name="dispatch")
class SignIn(LoginView):
    """The sign-in page."""

    template_name = "people/sign_in.html"
    redirect_authenticated_user = True
    extra_context = {"demo": settings.DEMO}

    def get_template_names(self) -> list[str]:
        """The form alone where a page shows it in place; with what was kept where something was."""
        if self.request.headers.get("X-Part"):
            return ["people/_sign_in_part.html"]
        return ["people/signed_out.html" if self._kept else self.template_name]

    @property
    def _kept(self) -> str:
        return self.request.POST.get("kept", "") if self.request.method == "POST" else ""

    def get_context_data(self, **kwargs: Any) -> dict[str, Any]:
        """With what was kept."""
        return super().get_context_data(**kwargs) | {"kept": self._kept}

    def form_invalid(self, form: Any) -> HttpResponse:
        """The page again, saying that they do not match."""
        answer = super().form_invalid(form)
        answer.status_code = 422
        return answer

    def post(self, request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        """A try; none more from an address that guessed too often, at whatever names."""
        if too_many_from(request):
            return render(request, settings.AXES_LOCKOUT_TEMPLATE, status=429)
        return super().post(request, *args, **kwargs)

    def form_valid(self, form: Any) -> HttpResponse:
        """The second step where one is asked; else on to where they wanted to go, or to what was kept."""
        if has_second_factor(form.get_user()):
            from brunt_web.people.second_views import ask_second

            return ask_second(self.request, form.get_user())
        return after_sign_in(self.request, super().form_valid(form))


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
    onward = request.POST.get("next", "")
    here = url_has_allowed_host_and_scheme(onward, {request.get_host()}, request.is_secure())
    return after_sign_in(request, redirect(onward if here else settings.LOGIN_REDIRECT_URL))


def after_sign_in(request: HttpRequest, answer: HttpResponse) -> HttpResponse:
    """What a sign-in is answered with: a new token for the page it was done on, what was kept, or the way on."""
    if request.headers.get("X-Part"):
        told = {"X-Token": get_token(request), "X-User": str(request.user.pk)}
        return HttpResponse(status=204, headers=told)
    held = opened_form(request.POST.get("kept", ""))
    if held is None:
        return answer
    return render(request, "people/send_again.html", {"to": held[0], "fields": held[1]})


@require_POST
def sit_down_view(request: SeatedRequest, pk: int) -> HttpResponse:
    """Go to another workshop that is open to the person."""
    try:
        seat = seats.sit_down(request.user, pk)
    except InputError as error:
        raise Http404(error.sentence) from None
    messages.success(request, f"You are in “{seat.workshop}” now.")
    to = request.POST.get("next", "")
    if to and url_has_allowed_host_and_scheme(to, {request.get_host()}):
        return redirect(to)
    return redirect("start")
