"""What is asked of people about themselves and their programmes."""

from typing import Any
from zoneinfo import available_timezones

from django import forms
from django.contrib.auth.forms import AuthenticationForm
from django.contrib.auth.password_validation import validate_password

from kessa.platform.models import Person, Programme, Role
from kessa_core.methods.parts import ROUTES

ZONES = [(zone, zone.replace("_", " ")) for zone in sorted(available_timezones()) if "/" in zone]
NAME_TAKEN = "This sign-in name is taken. Choose another."


def check_own_password(person: Person, password: str) -> None:
    """Raises ValidationError where this is not the password of *person*."""
    if not person.check_password(password):
        raise forms.ValidationError("This is not your current password.")


class SignInForm(AuthenticationForm):
    """Name and password; throttled by the view."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["username"].label = "Name"

    error_messages = {
        "invalid_login": "The name or password is wrong. Check both; capital letters matter.",
        "inactive": "The name or password is wrong. Check both; capital letters matter.",
    }


class RoleForm(forms.Form):
    """A role."""

    role = forms.ChoiceField(choices=Role.choices)


class InviteForm(RoleForm):
    """Whom to invite as what."""

    note = forms.CharField(max_length=80, required=False, label="For whom")
    field_order = ["role", "note"]


class CodeForm(forms.Form):
    """An invitation's code."""

    code = forms.CharField(
        max_length=40, label="Code", error_messages={"required": "Enter the code from the paper."}
    )


class AccountForm(forms.Form):
    """A new account."""

    username = forms.CharField(
        max_length=60,
        label="Sign-in name",
        error_messages={"required": "Choose a sign-in name."},
    )
    shown_name = forms.CharField(
        max_length=80,
        label="Your name on results",
        error_messages={"required": "Enter your name as it should appear on results."},
    )
    password = forms.CharField(
        max_length=200,
        label="Password",
        widget=forms.PasswordInput,
        error_messages={"required": "Choose a password."},
    )

    def clean_username(self) -> str:
        name: str = self.cleaned_data["username"].strip()
        Person.username_validator(name)
        if Person.objects.filter(username__iexact=name).exists():
            raise forms.ValidationError(NAME_TAKEN)
        return name

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if data.get("password") and data.get("username"):
            person = Person(username=data["username"], shown_name=data.get("shown_name", ""))
            try:
                validate_password(data["password"], person)
            except forms.ValidationError as wrong:
                self.add_error("password", wrong)
        return data


class ForgottenForm(forms.Form):
    """Name, a manager's code and a new password."""

    username = forms.CharField(max_length=150, label="Name")
    code = forms.CharField(max_length=40, label="Code from your manager")
    password = forms.CharField(max_length=200, label="New password", widget=forms.PasswordInput)


class TokenForm(forms.Form):
    """A one-time code."""

    token = forms.CharField(
        max_length=20, label="Code", error_messages={"required": "Enter the six digits."}
    )


class FactorForm(TokenForm):
    """The first one-time code, and the password once more."""

    password = forms.CharField(
        max_length=128,
        label="Your password",
        widget=forms.PasswordInput,
        error_messages={"required": "Enter your password again."},
    )

    def __init__(self, data: Any, person: Person) -> None:
        super().__init__(data)
        self.person = person

    def clean_password(self) -> str:
        password: str = self.cleaned_data["password"]
        check_own_password(self.person, password)
        return password


class ProgrammeForm(forms.Form):
    """A programme's name and time zone."""

    name = forms.CharField(
        max_length=80, label="Name", error_messages={"required": "Enter a name for the programme."}
    )
    timezone = forms.ChoiceField(choices=[("UTC", "UTC"), *ZONES], label="Time zone", initial="UTC")


class SettingsForm(ProgrammeForm):
    """The same, whether everybody signs in with a second factor, and whether the only member may
    accept own results."""

    second_factor = forms.BooleanField(
        required=False,
        label="Require one-time codes for all members",
        help_text="Members without them must turn them on before they see this programme.",
    )
    own_review = forms.BooleanField(
        required=False,
        label="Accept your own results while you are the only member",
        help_text="Normally another person accepts a result. This applies only while you are the "
        "only member.",
    )

    @classmethod
    def of(cls, programme: Programme, data: Any, alone: bool) -> "SettingsForm":
        """The form; own review is offered to a programme of one person only."""
        names = ("name", "timezone", "second_factor", "own_review")
        form = cls(data, initial={name: getattr(programme, name) for name in names})
        if not alone:
            del form.fields["own_review"]
        return form


class SamplingSettingsForm(forms.Form):
    """How this programme works: depth of sampling, and where its waste goes."""

    depth_rule = forms.ChoiceField(
        choices=Programme.Depth.choices, required=False, label="Sampling depth"
    )
    depth_cm = forms.IntegerField(
        min_value=1, max_value=1000, required=False, label="Depth, cm",
        error_messages={"invalid": "Enter whole centimetres, such as 30."},
    )  # fmt: skip

    def __init__(self, data: Any, programme: Programme) -> None:
        initial = {"depth_rule": programme.depth_rule, "depth_cm": programme.depth_cm}
        super().__init__(data, initial=initial | _by_field(programme.waste))
        for route, words in ROUTES.items():
            self.fields[f"waste_{route}"] = forms.CharField(
                max_length=200, required=False, label=words.capitalize()
            )

    def routes(self) -> list[Any]:
        """The fields of waste."""
        return [self[f"waste_{route}"] for route in ROUTES]

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        needs = data.get("depth_rule") in (Programme.Depth.FIXED, Programme.Depth.SHARE)
        if needs and not data.get("depth_cm") and "depth_cm" not in self.errors:
            self.add_error("depth_cm", "Enter the depth in centimetres.")
        return data

    def described(self) -> dict[str, Any]:
        """The programme's fields."""
        said = self.cleaned_data
        waste = {route: said[f"waste_{route}"] for route in ROUTES}
        return {
            "depth_rule": said["depth_rule"],
            "depth_cm": said["depth_cm"],
            "waste": {route: words for route, words in waste.items() if words},
        }


def _by_field(waste: dict[str, str]) -> dict[str, str]:
    return {f"waste_{route}": words for route, words in waste.items()}


class NameForm(forms.Form):
    """The name that results show."""

    shown_name = forms.CharField(
        max_length=80,
        label="Your name on results",
        error_messages={"required": "Enter your name as it should appear on results."},
    )


class OwnPasswordForm(forms.Form):
    """The password once more, before something that matters. *purpose*: begins the field's id."""

    password = forms.CharField(
        max_length=200,
        label="Password",
        widget=forms.PasswordInput,
        error_messages={"required": "Enter your password."},
    )

    def __init__(self, data: Any, person: Person, purpose: str) -> None:
        super().__init__(data, auto_id=f"{purpose}-%s")
        self.person = person

    def clean_password(self) -> str:
        """The password, when it is this person's."""
        password: str = self.cleaned_data["password"]
        check_own_password(self.person, password)
        return password


class PasswordForm(forms.Form):
    """The old password and a new one."""

    old = forms.CharField(max_length=200, label="Current password", widget=forms.PasswordInput)
    new = forms.CharField(max_length=200, label="New password", widget=forms.PasswordInput)

    def __init__(self, data: Any, person: Person) -> None:
        super().__init__(data)
        self.person = person

    def clean_old(self) -> str:
        old: str = self.cleaned_data["old"]
        check_own_password(self.person, old)
        return old

    def clean_new(self) -> str:
        new: str = self.cleaned_data["new"]
        validate_password(new, self.person)
        return new
