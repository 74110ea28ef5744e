"""Markup that the core wrote, made ready for a page."""

from __future__ import annotations

import re

from django.urls import reverse
from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe

from vorlage.core.notation import unit_markup

UPLOADED = re.compile(r'href="picture:([0-9a-f]{64})"')


def unit_set(text: str) -> SafeString:
    """What stands behind a number: a unit is set as one, words stay words."""
    return safe(f"<math>{unit_markup(text)}</math>") if "^" in text else SafeString(escape(text))


def safe(markup: str) -> SafeString:
    """Markup that the core's printers and its sanitiser wrote; uploaded pictures get their addresses."""
    return mark_safe(UPLOADED.sub(lambda found: f'href="{reverse("picture", args=[found[1]])}"', markup))
