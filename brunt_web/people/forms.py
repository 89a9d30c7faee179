"""What the pages of people send."""

from django import forms

from brunt_web.people.roles import LEAD, ROLES, TESTER

_WORD = forms.PasswordInput(attrs={"autocomplete": "new-password"})


class Plain(forms.Form):
    """Checked on the server alone."""

    use_required_attribute = False


class InviteForm(Plain):
    """What whoever joins may do."""

    rights = forms.ChoiceField(
        label="They may",
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
    password = forms.CharField(
        label="Password",
        max_length=200,
        strip=False,
        widget=_WORD,
        help_text="ten characters at least, none of the usual ones",
        error_messages={"required": "Choose a password."},
    )


class PasswordForm(Plain):
    """The old password and the new."""

    old = forms.CharField(
        label="The password you have",
        max_length=200,
        strip=False,
        widget=forms.PasswordInput(attrs={"autocomplete": "current-password"}),
        error_messages={"required": "Type the password you have."},
    )
    new = forms.CharField(
        label="The new one",
        max_length=200,
        strip=False,
        widget=_WORD,
        help_text="ten characters at least, none of the usual ones",
        error_messages={"required": "Choose a password."},
    )


class NewPasswordForm(Plain):
    """A password set anew."""

    password = forms.CharField(
        label="New password",
        max_length=200,
        strip=False,
        widget=_WORD,
        error_messages={"required": "Choose a password."},
    )
