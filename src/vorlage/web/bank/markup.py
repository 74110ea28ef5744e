"""Markup that the core wrote, made ready for a page."""

from __future__ import annotations

import re

from django.urls import reverse
from django.utils.safestring import SafeString, mark_safe

UPLOADED = re.compile(r'href="picture:([0-9a-f]{64})"')


def safe(markup: str) -> SafeString:
    """Markup that the core's printers and its sanitiser wrote; uploaded pictures get their addresses."""
    return mark_safe(UPLOADED.sub(lambda found: f'href="{reverse("picture", args=[found[1]])}"', markup))
