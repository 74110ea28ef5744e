"""Small helpers for the pages of questions."""

from __future__ import annotations

from django import template

from vorlage.core.answers import KINDS

register = template.Library()


@register.filter
def kind_words(kinds: list[str]) -> str:
    """The kinds of answer of a question as the desk calls them."""
    return ", ".join(KINDS[kind].words if kind in KINDS else kind for kind in kinds)
