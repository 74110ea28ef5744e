"""Slots in templates: ``{% slot "name" object %}``, and ``{% slots "name" objects as found %}`` for a list."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from django import template
from django.template import Context
from django.utils.safestring import SafeString

from vorlage.web.design.slots import filled

register = template.Library()


@register.simple_tag(takes_context=True)
def slot(context: Context, name: str, shown: Any) -> SafeString:
    """What stations above have to say of an object in this place."""
    return filled(name, context["request"], [shown], context.flatten())[shown.pk] if shown else SafeString()


@register.simple_tag(takes_context=True)
def slots(context: Context, name: str, shown: Iterable[Any]) -> list[tuple[Any, SafeString]]:
    """Each of some objects with what stations above have to say of it."""
    listed = list(shown)
    found = filled(name, context["request"], listed, context.flatten())
    return [(each, found[each.pk]) for each in listed]
