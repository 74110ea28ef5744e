"""The second step of signing in, for whoever wants it: a code that only one's own phone or key shows (RFC 6238), and
codes on paper for when that is lost."""

from __future__ import annotations

import base64
import hashlib
import secrets
from typing import Any

from allauth.account.decorators import reauthentication_required
from allauth.account.forms import ReauthenticateForm
from allauth.account.views import ReauthenticateView
from allauth.mfa.adapter import DefaultMFAAdapter
from allauth.mfa.base.forms import AuthenticateForm
from allauth.mfa.base.views import AuthenticateView
from allauth.mfa.models import Authenticator
from allauth.mfa.recovery_codes.views import GenerateRecoveryCodesView, ViewRecoveryCodesView
from allauth.mfa.totp.forms import ActivateTOTPForm
from allauth.mfa.totp.views import ActivateTOTPView, DeactivateTOTPView
from cryptography.fernet import Fernet, InvalidToken, MultiFernet
from django import forms
from django.conf import settings
from django.http import HttpResponse
from django.shortcuts import render
from django.utils.decorators import method_decorator
from django.utils.encoding import force_bytes
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET

from .models import User
from .permissions import signed_in
from .requests import MemberRequest
from .views import Refused


class Adapter(DefaultMFAAdapter):
    """What is kept of the second step is worth nothing without the secret of the installation, which is not in the
    database and so in no backup."""

    error_messages = DefaultMFAAdapter.error_messages | {
        "incorrect_code": "This is not the code that is shown now. Wait for the next one and type it.",
    }

    def cipher(self) -> MultiFernet:
        keys = [settings.SECRET_KEY, *settings.SECRET_KEY_FALLBACKS]
        hashes = [hashlib.sha256(b"second step " + force_bytes(key)).digest() for key in keys]
        return MultiFernet([Fernet(base64.urlsafe_b64encode(each)) for each in hashes])

    def encrypt(self, text: str) -> str:
        return self.cipher().encrypt(text.encode()).decode()

    def decrypt(self, encrypted_text: str) -> str:
        try:
            return self.cipher().decrypt(encrypted_text.encode()).decode()
        except InvalidToken:
            # the secret of the installation was changed: no code fits any more, until the step is lifted
            return base64.b32encode(secrets.token_bytes(20)).decode()


def dressed(form: forms.Form, name: str, label: str) -> None:
    """The look and the words of the one field of a form."""
    field = form.fields[name]
    field.label = label
    field.error_messages["required"] = "This is needed."
    field.widget.attrs |= {"class": "form-control", "autofocus": True, "placeholder": ""}


class StepForm(AuthenticateForm):
    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        dressed(self, "code", "The code that your phone shows, or one of your codes on paper")


class SetUpForm(ActivateTOTPForm):
    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        dressed(self, "code", "The six-digit code that your phone shows now")
        self.fields["code"].widget.attrs["inputmode"] = "numeric"


class AgainForm(ReauthenticateForm):
    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        dressed(self, "password", "Your password")
        self.fields["password"].widget.attrs["autocomplete"] = "current-password"


private = method_decorator([never_cache, signed_in], name="dispatch")


@method_decorator(never_cache, name="dispatch")
class SecondStep(Refused, AuthenticateView):
    """After the password: the second step."""

    template_name = "people/confirm.html"
    form_class = StepForm
    extra_context = {
        "heading": "Second step",
        "words": "Have you lost both? Ask whoever looks after Vorlage at your school: the second step can be lifted.",
        "press": "Sign in",
    }


@private
class Again(Refused, ReauthenticateView):
    """The password once more, before something about signing in is changed; also where the library would be content
    with a code."""

    template_name = "people/confirm.html"
    form_class = AgainForm
    extra_context = {
        "heading": "Your password once more",
        "words": "You are about to change how you sign in.",
        "press": "Go on",
    }


@private
class SetUp(Refused, ActivateTOTPView):
    template_name = "people/second_step_set_up.html"
    form_class = SetUpForm


@private
class TakeAway(Refused, DeactivateTOTPView):
    template_name = "people/confirm.html"
    extra_context = {
        "heading": "Sign in without a second step",
        "words": "Then your password alone opens your account, and the codes on paper are worth nothing.",
        "press": "Take the second step away",
    }


@private
@method_decorator(reauthentication_required(app="allauth.mfa"), name="dispatch")
class Codes(ViewRecoveryCodesView):
    template_name = "people/second_step_codes.html"


@private
class NewCodes(Refused, GenerateRecoveryCodesView):
    template_name = "people/confirm.html"
    extra_context = {
        "heading": "New codes on paper",
        "words": "The codes that you have now are worth nothing then.",
        "press": "Make new codes",
    }


@never_cache
@signed_in
@require_GET
def second_step(request: MemberRequest) -> HttpResponse:
    """Whether one signs in with a second step, and what can be done about it."""
    held = {each.type: each for each in Authenticator.objects.filter(user=request.user)}
    codes = held.get(Authenticator.Type.RECOVERY_CODES)
    context = {
        "step": held.get(Authenticator.Type.TOTP),
        "left": len(codes.wrap().get_unused_codes()) if codes else 0,
    }
    return render(request, "people/second_step.html", context)


def lift(user: User) -> None:
    """Take the second step from an account whose owner has lost it."""
    Authenticator.objects.filter(user=user).delete()
