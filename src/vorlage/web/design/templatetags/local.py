"""Numbers in sentences, as they are written in the department whose page it is."""

from __future__ import annotations

from decimal import Decimal

from django import template
from django.template import Context

from vorlage.core.notation import told
from vorlage.web.design.context import habits_in

register = template.Library()


@register.simple_tag(takes_context=True)
def marks_words(context: Context, marks: Decimal) -> str:
    """Marks with their word: ``2.5 marks``."""
    return f"{marks_here(context, marks)} {'mark' if marks == 1 else 'marks'}"


@register.simple_tag(takes_context=True)
def marks_here(context: Context, marks: Decimal) -> str:
    """Marks as a number."""
    return told(str(marks), habits_in(context))
