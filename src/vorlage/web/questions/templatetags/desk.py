"""Small helpers for the desk's templates."""

from __future__ import annotations

from django import template

from vorlage.web.questions.preview import Message, Preview

register = template.Library()


@register.simple_tag
def messages_for(preview: Preview, field: str) -> list[Message]:
    """What is wrong with a field."""
    return preview.messages.get(field, [])


@register.filter
def letter(number: int) -> str:
    """(a), (b), … for 0, 1, …"""
    return f"({chr(97 + number)})"
