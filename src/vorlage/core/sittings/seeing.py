"""What is seen when: the one function that decides what of a sitting a student sees at a moment."""

from __future__ import annotations

from datetime import datetime

from .clock import USUAL, Allowed, Record, closing, is_released, may_take_back
from .rules import MOMENTS, ROWS, Rules

# What tells the key of a draw, and with it every other answer to it.
TELLING = frozenset({"key", "solution", "outcome", "marks", "feedback"})


def reached(rules: Rules, record: Record, now: datetime, allowed: Allowed = USUAL) -> frozenset[str]:
    """Which of the moments have come for a student."""
    found = set()
    if record.handed_in is not None:
        found.add("handed_in")
    closes = closing(rules, allowed)
    if closes is not None and now >= closes and (record.begun is None or record.handed_in is not None):
        found.add("closed")
    if record.handed_in is not None and is_released(rules, record, now):
        found.add("released")
    return frozenset(found)


def seen(rules: Rules, record: Record, now: datetime, allowed: Allowed = USUAL) -> frozenset[str]:
    """The rows that a student sees now.

    While marks can still be earned nothing is seen that tells more than was known before: not before handing in, and
    not while what was handed in can be taken back. Results that are withheld are not seen by any moment.
    """
    if record.handed_in is None:
        return frozenset()
    order = list(MOMENTS)
    come = {order.index(moment) for moment in reached(rules, record, now, allowed)}
    found = {row for row in ROWS if any(order.index(rules.seen[row]) <= moment for moment in come)}
    if may_take_back(rules, record, now):
        found -= TELLING | {"total", "class"}
    if record.withheld:
        found &= {"own"}
    return frozenset(found)
