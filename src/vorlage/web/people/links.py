"""One-time links with which the owner of an account chooses a password."""

from __future__ import annotations

from django.contrib.auth.tokens import default_token_generator
from django.urls import reverse
from django.utils.encoding import force_bytes
from django.utils.http import urlsafe_base64_encode

from .models import User


def path_for(user: User) -> str:
    """The path of a new link for this account; it works once, and for a day."""
    whom = urlsafe_base64_encode(force_bytes(user.pk))
    return reverse("set-password", args=[whom, default_token_generator.make_token(user)])
