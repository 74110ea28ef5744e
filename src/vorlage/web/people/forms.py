"""What is typed when somebody signs in, and about a department."""

from __future__ import annotations

from typing import Any

from allauth.account.adapter import DefaultAccountAdapter
from allauth.account.forms import LoginForm
from django import forms
from django.contrib.auth.forms import PasswordChangeForm, PasswordResetForm, SetPasswordForm
from django.http import HttpRequest

from .models import Department, User


class AccountAdapter(DefaultAccountAdapter):
    """Messages that say what to do; nobody signs up by themselves."""

    error_messages = DefaultAccountAdapter.error_messages | {
        "email_password_mismatch": "This address and password do not belong together. Check both and try again.",
        "too_many_login_attempts": "Too many tries. Wait five minutes, then try again.",
        "account_inactive": "This account has been closed. Ask your technician.",
    }

    def is_open_for_signup(self, request: HttpRequest) -> bool:
        return False

    def add_message(self, *args: Any, **kwargs: Any) -> None:
        """The page one arrives at says enough."""


class SignInForm(LoginForm):
    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        login, password, remember = (self.fields[name] for name in ("login", "password", "remember"))
        login.label = "E-mail address"
        login.widget.attrs = {"autocomplete": "username", "autofocus": True, "class": "form-control"}
        login.error_messages["required"] = "Your e-mail address is needed."
        password.help_text = ""
        password.widget.attrs = {"autocomplete": "current-password", "class": "form-control"}
        password.error_messages["required"] = "Your password is needed."
        remember.label = "Stay signed in on this computer"
        remember.widget.attrs = {"class": "form-check-input"}


def as_here(form: forms.Form) -> None:
    """The look and the words of the fields of a form of Django's."""
    labels = {
        "old_password": "Your password so far",
        "new_password1": "New password",
        "new_password2": "New password once more",
    }
    for name, field in form.fields.items():
        field.widget.attrs["class"] = "form-control"
        field.label = labels.get(name, field.label)
        field.help_text = ""
        field.error_messages["required"] = "This is needed."


class ChangePasswordForm(PasswordChangeForm):
    error_messages = PasswordChangeForm.error_messages | {
        "password_mismatch": "The two are not the same: type the new password once more.",
        "password_incorrect": "This is not your password so far. Type it again.",
    }

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        as_here(self)


class NewPasswordForm(SetPasswordForm):
    error_messages = SetPasswordForm.error_messages | {
        "password_mismatch": "The two are not the same: type the new password once more.",
    }

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        as_here(self)


class ForgottenForm(PasswordResetForm):
    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        as_here(self)
        self.fields["email"].label = "Your e-mail address"
        self.fields["email"].widget.attrs["autocomplete"] = "username"

    def get_users(self, email: str) -> Any:
        """Also whoever has no password yet: an account is made without one."""
        return User.objects.filter(email__iexact=email, is_active=True)


class DepartmentForm(forms.ModelForm):
    """How numbers and formulas are written in a department."""

    class Meta:
        model = Department
        fields = ["decimal_mark", "thousands", "times", "colon", "tg"]
        labels = {
            "decimal_mark": "Decimals are marked with",
            "thousands": "Thousands are parted with",
            "times": "A sign between factors is",
            "colon": "A colon divides: 12 : 4 is typed for 12/4",
            "tg": "The tangent is called tg, the cotangent ctg",
        }
        widgets = {
            "decimal_mark": forms.RadioSelect(attrs={"class": "form-check-input"}),
            "thousands": forms.RadioSelect(attrs={"class": "form-check-input"}),
            "times": forms.RadioSelect(attrs={"class": "form-check-input"}),
            "colon": forms.CheckboxInput(attrs={"class": "form-check-input"}),
            "tg": forms.CheckboxInput(attrs={"class": "form-check-input"}),
        }
