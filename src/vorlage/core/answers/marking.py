"""Shares beyond one answer: earlier answers carried on, the cost of a retry, and sums."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from fractions import Fraction
from typing import Any

from ..algebra import EvaluationError, Values
from .answer import Checker
from .verdict import BLANK, RIGHT, UNREADABLE, WAITING, Verdict, of_share

CARRIED = "Right with your earlier answer."
PARTLY_CARRIED = "Partly right with your earlier answer."


def carried_on(own: Verdict, checker: Checker, values: Values, response: Any) -> Verdict:
    """The better of the check against the key and the check against the key that the student's own earlier answers
    lead to (``values`` has them in it); at the same share the key counts. The verdict says so when the earlier answer
    decided.
    """
    if own.share >= 1:
        return own
    try:
        carried = checker.drawn(values).check(response)
    except EvaluationError:
        # there is no such key
        return own
    if carried.share <= own.share:
        return own
    told = CARRIED if carried.outcome == RIGHT else PARTLY_CARRIED
    return replace(carried, feedback=(told, *carried.feedback), because=f"the earlier answer: {carried.because}")


def after_retries(verdict: Verdict, attempt: int, cost: Fraction) -> Verdict:
    """The verdict of an ``attempt`` (from 1), each one before it having cost a share.

    Unreadable and blank attempts cost nothing: they are not counted by whoever counts.

    >>> after_retries(Verdict(RIGHT, Fraction(1)), 3, Fraction(1, 4)).share
    Fraction(1, 2)
    """
    if attempt < 1 or not 0 <= cost <= 1:
        raise ValueError("Attempts count from 1, and a retry costs from nothing to everything.")
    lost = cost * (attempt - 1)
    if not lost or verdict.share <= 0 or verdict.outcome in {BLANK, UNREADABLE, WAITING}:
        return verdict
    share = max(Fraction(0), verdict.share - lost)
    because = f"{verdict.because}, at attempt {attempt}"
    return replace(verdict, outcome=of_share(share), share=share, because=because)


def total_share(shares: Iterable[tuple[Fraction, Fraction]], negative: bool = False) -> Fraction:
    """The share of a part from (share, weight) of its fields, weights adding up to 1; it stops at 0 and 1
    unless negative totals are allowed.

    >>> total_share([(Fraction(1), Fraction(1, 2)), (Fraction(-1), Fraction(1, 2))])
    Fraction(0, 1)
    """
    total = sum((share * weight for share, weight in shares), Fraction(0))
    return min(Fraction(1), total if negative else max(Fraction(0), total))
