"""Numbers in sentences, as they are written in the department whose page it is."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from fractions import Fraction
from typing import Any

from django import template
from django.template import Context

from vorlage.core.answers import shown_marks, told_marks
from vorlage.web.design.context import habits_in

register = template.Library()


@register.filter
def grouped(count: int) -> str:
    """A large count with its thousands apart: ``12 345``; four figures stand together.

    >>> grouped(1234), grouped(100000)
    ('1234', '100\u202f000')
    """
    return str(count) if count < 10_000 else f"{count:,}".replace(",", "\u202f")


@register.filter
def of_key(held: Mapping[str, Any], name: str) -> Any:
    """What stands under a name; empty where nothing does."""
    return held.get(name, "")


@register.filter
def split_words(text: str) -> list[str]:
    return text.split()


@register.filter
def as_marks(text: str) -> str:
    """Marks that are kept exactly, as text: ``3/2`` is 1.5."""
    return str(shown_marks(Fraction(text)))


@register.simple_tag(takes_context=True)
def marks_words(context: Context, marks: Decimal | Fraction) -> str:
    """Marks with their word: ``2.5 marks``."""
    return f"{marks_here(context, marks)} {'mark' if marks == 1 else 'marks'}"


@register.simple_tag(takes_context=True)
def marks_here(context: Context, marks: Decimal | Fraction) -> str:
    """Marks as a number, to two decimal places where they have more."""
    return told_marks(Fraction(marks), habits_in(context))


@register.simple_tag(takes_context=True)
def marks_earned(context: Context, share: Fraction, marks: Decimal) -> str:
    """What a share of the marks of a part comes to, as the department shows marks: ``1.5 of 2``."""
    membership = context.get("membership")
    rounding = membership.department.rounding if membership is not None else "exact"
    earned = shown_marks(share * Fraction(marks), rounding)
    return f"{marks_here(context, earned)} of {marks_words(context, marks)}"


@register.simple_tag(takes_context=True)
def level_here(context: Context, level: int | str) -> str:
    """A level by its number and the name that the department has for it: ``level 2, recall``."""
    name = level_name(context, level)
    return f"level {level}, {name}" if name else f"level {level}"


@register.simple_tag(takes_context=True)
def level_name(context: Context, level: int | str) -> str:
    """The name that the department has for a level; empty where it has none."""
    membership = context.get("membership")
    names = membership.department.level_names if membership is not None else []
    return str(names[int(level) - 1]) if int(level) <= len(names) else ""
