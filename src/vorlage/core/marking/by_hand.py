"""Marks that somebody gives: which ones can be given."""

from __future__ import annotations

from fractions import Fraction

from ..answers import read_plain, shown_marks
from ..errors import CoreError

# What the steps are called in which marks are given.
STEPS = {"1": "whole marks", "0.5": "halves", "0.25": "quarters", "0.1": "tenths", "0.01": "hundredths"}


class MarkRefused(CoreError, ValueError):
    """Marks that cannot be given, and why."""

    def __init__(self, message: str) -> None:
        super().__init__("marks", message)


def read_given_marks(text: str, most: Fraction, step: str) -> Fraction:
    """Marks as somebody types them, out of ``most`` and no finer than a step of ``STEPS``. Raises ``MarkRefused``.

    >>> read_given_marks("1½", Fraction(2), "0.5")
    Fraction(3, 2)
    """
    if not text.strip():
        raise MarkRefused("Type the marks, such as 2 or 1.5.")
    try:
        marks = read_plain(text)
    except ValueError:
        raise MarkRefused(f"“{text.strip()[:20]}” is no number: type the marks, such as 2 or 1.5.") from None
    if not 0 <= marks <= most:
        raise MarkRefused(f"Marks here go from 0 to {shown_marks(most)}.")
    if (marks / Fraction(step)).denominator != 1:
        raise MarkRefused(f"The department gives marks in {STEPS[step]}; its settings say so.")
    return marks
