"""Reading what a browser sends."""

from __future__ import annotations

from django.core.exceptions import ValidationError

from vorlage.core.text import put_right, unprintable


def chosen_number(text: str, otherwise: int = 0) -> int:
    """A whole number of up to eight figures; something else where there is none."""
    return int(text) if text.isdecimal() and len(text) < 9 else otherwise


def for_paper(text: str) -> str:
    """What stands on every paper, put right. Raises ``ValidationError`` for what cannot be printed."""
    found = next(unprintable(text), None)
    if found is not None:
        raise ValidationError(found.message)
    return put_right(text)
