"""The name of a form, by which it is known when it is sent twice."""

from __future__ import annotations

import uuid

from django import template
from django.utils.html import format_html
from django.utils.safestring import SafeString

from vorlage.web.once.models import FIELD

register = template.Library()


@register.simple_tag
def once() -> SafeString:
    """A hidden field with a name of this form's own."""
    return format_html('<input type="hidden" name="{}" value="{}">', FIELD, uuid.uuid4())


@register.simple_tag
def form_name() -> str:
    """The name by itself, for what is sent without a form."""
    return str(uuid.uuid4())
