"""What is seen when: the one function that decides what of a sitting a student sees at a moment."""

from __future__ import annotations

from datetime import datetime

from .clock import USUAL, Allowed, Record, closing, is_released, may_mend, may_take_back
from .rules import MOMENTS, ROWS, Rules

# What tells the key of a draw, and with it every other answer to it.
TELLING = frozenset({"key", "solution", "outcome", "marks", "feedback"})
# What is the key itself.
THE_KEY = frozenset({"key", "solution"})


def reached(rules: Rules, record: Record, now: datetime, allowed: Allowed = USUAL) -> frozenset[str]:
    """Which of the moments have come for a student."""
    found = set()
    if record.handed_in is not None:
        found |= {"each", "handed_in"}
        if not record.more:
            found.add("no_attempt")
    closes = closing(rules, allowed)
    if closes is not None and now >= closes and (record.begun is None or record.handed_in is not None):
        found.add("closed")
    if record.handed_in is not None and is_released(rules, record, now):
        found.add("released")
    return frozenset(found)


def seen(rules: Rules, record: Record, now: datetime, allowed: Allowed = USUAL) -> frozenset[str]:
    """The rows that a student sees now.

    While marks can still be earned nothing is seen that tells more than was known before: not before handing in, and
    not while what was handed in can be taken back. No key is seen while what was handed in can be mended, or while its
    numbers can come again. Results that are withheld are not seen by any moment.
    """
    if record.handed_in is None:
        return frozenset()
    order = list(MOMENTS)
    come = {order.index(moment) for moment in reached(rules, record, now, allowed)}
    found = {row for row in ROWS if any(order.index(rules.seen[row]) <= moment for moment in come)}
    if may_take_back(rules, record, now):
        found -= TELLING | {"total", "class"}
    elif may_mend(rules, record, now) or (record.more and record.repeats):
        found -= THE_KEY
    if record.withheld:
        found &= {"own"}
    return frozenset(found)


def seen_at_once(rules: Rules, record: Record, settled: bool) -> frozenset[str]:
    """The rows of a part that a student sees after each answer; the key where the part is settled, so that nothing more
    is earned on this draw, and where its numbers cannot come again."""
    found = {row for row in ROWS if rules.seen[row] == "each"} - {"total", "class"}
    if not settled or (record.more and record.repeats):
        found -= THE_KEY
    return frozenset(found & {"own"} if record.withheld else found)
