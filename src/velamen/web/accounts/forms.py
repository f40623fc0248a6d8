"""Forms of people: a shop begun, a place taken, somebody invited, one's own address."""

from __future__ import annotations

from typing import Any

from django import forms
from django.contrib.auth.forms import PasswordChangeForm
from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError

from velamen.web.accounts.models import Role


class NewPersonForm(forms.ModelForm):
    """Somebody new: a name to sign in with, a mail address, a password."""

    password = forms.CharField(
        label="Password", strip=False, help_text="8 characters at least.",
        widget=forms.PasswordInput(attrs={"autocomplete": "new-password"}),
    )  # fmt: skip

    class Meta:
        model = User
        fields = ("username", "email")
        labels = {"username": "Username", "email": "Mail"}
        help_texts = {"username": "You sign in with it.", "email": "For a new password, should you forget yours."}

    def clean(self) -> dict[str, Any]:
        found: dict[str, Any] = super().clean()
        password = found.get("password")
        if password:
            try:
                validate_password(password, User(username=found.get("username", ""), email=found.get("email", "")))
            except ValidationError as error:
                self.add_error("password", error)
        return found

    def clean_username(self) -> str:
        name: str = self.cleaned_data["username"]
        if User.objects.filter(username__iexact=name).exists():
            raise ValidationError("Somebody signs in with that name already: take another.")
        return name

    def person(self) -> User:
        """The person, not saved yet."""
        made = User(username=self.cleaned_data["username"], email=self.cleaned_data["email"])
        made.set_password(self.cleaned_data["password"])
        return made


class SignUpForm(NewPersonForm):
    """A shop begun by its first owner."""

    shop = forms.CharField(label="Name of the shop", max_length=80)
    field_order = ("shop", "username", "email", "password")


class InviteForm(forms.Form):
    """Somebody invited; with an address the link is sent there."""

    role = forms.ChoiceField(label="As", choices=Role.choices, initial=Role.DIGITIZER)
    mail = forms.EmailField(label="Mail", required=False, help_text="Without one the link is shown, to be handed on.")


class PasswordForm(PasswordChangeForm):
    """One's own new password, the old one given."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for key, label in (("old_password", "Now"), ("new_password1", "New"), ("new_password2", "New, once more")):
            self.fields[key].label, self.fields[key].help_text = label, ""
        self.fields["new_password1"].help_text = "8 characters at least; all other sessions end."
        self.fields["old_password"].widget.attrs.pop("autofocus", None)


class MailForm(forms.ModelForm):
    """One's own mail address."""

    class Meta:
        model = User
        fields = ("email",)
        labels = {"email": "Mail"}
        help_texts = {"email": "A link for a new password is sent there."}
