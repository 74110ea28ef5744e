"""Practice: fresh numbers for ever, feedback at once, and nothing of it in any mark."""

from __future__ import annotations

from datetime import datetime

from .clock import HANDED_IN, MISSED, ON_PAPER, OPEN, USUAL, Allowed, Record, closing, last_begin, phase
from .rules import Rules

# Where one is who sits nothing at the moment.
IDLE = frozenset({OPEN, MISSED, HANDED_IN, ON_PAPER})


def may_practise(rules: Rules, record: Record, now: datetime, allowed: Allowed = USUAL) -> bool:
    """Whether a student may practise now: while it is open where it is nothing but practice; where it was sat before,
    once it has closed and they sit it no more."""
    if rules.practice == "only":
        last = last_begin(rules, allowed)
        return rules.opens <= now and (last is None or now < last)
    closes = closing(rules, allowed)
    if rules.practice == "no" or closes is None or now < closes:
        return False
    return phase(rules, record, now, allowed) in IDLE
