"""What the pages of people send."""

from django import forms

from brunt_web.people.roles import LEAD, ROLES, TESTER


def _password(
    label: str, hint: str = "", asked: str = "Choose a password.", kind: str = "new-password"
) -> forms.CharField:
    """A field for a password: kept as typed, told to the browser's keeper by its kind."""
    return forms.CharField(
        label=label,
        max_length=200,
        strip=False,
        widget=forms.PasswordInput(attrs={"autocomplete": kind}),
        help_text=hint,
        error_messages={"required": asked},
    )


_HINT = "fifteen characters at least, ten with a second factor; none of the usual ones"


class Plain(forms.Form):
    """Checked on the server alone."""

    use_required_attribute = False


class InviteForm(Plain):
    """What whoever joins may do."""

    rights = forms.ChoiceField(
        label="Role",
        choices=[(r, f"{r}: {words}") for r, words in ROLES.items()],
        initial=TESTER,
    )


class RoleForm(Plain):
    """What a person may do from now on."""

    rights = forms.ChoiceField(choices=[(r, r) for r in ROLES], initial=LEAD)


class JoinForm(Plain):
    """Name and password of whoever joins."""

    name = forms.CharField(
        label="Your name", max_length=150, error_messages={"required": "Give your name."}
    )
    password = _password("Password", _HINT)


class PasswordForm(Plain):
    """The old password and the new."""

    old = _password("Current password", "", "Type the password you have.", "current-password")
    new = _password("New password", _HINT)


class NewPasswordForm(Plain):
    """A password set again."""

    password = _password("New password", _HINT)


class SecondStepForm(Plain):
    """A code, or what a passkey signed; where to go on, and what was kept."""

    code = forms.CharField(required=False, max_length=40)
    passkey = forms.CharField(required=False, max_length=20_000)
    next = forms.CharField(required=False, max_length=2000)
    kept = forms.CharField(required=False, max_length=400_000)


class PasskeyForm(Plain):
    """What a browser made, and what it is called."""

    answer = forms.CharField(max_length=20_000)
    name = forms.CharField(required=False, max_length=60)


class AgainForm(Plain):
    """The password once more."""

    password = forms.CharField(required=False, max_length=200, strip=False)
