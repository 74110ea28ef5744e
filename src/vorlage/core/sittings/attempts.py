"""Attempts: when the next may begin, how many there can be, and until when all that remain still fit."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from .clock import USUAL, Allowed, closing, lengthened
from .rules import MOST_TIMES, Rules


@dataclass(frozen=True, slots=True)
class Attempt:
    """When an attempt was begun, and when it was handed in."""

    begun: datetime
    handed_in: datetime | None = None


def next_begin(rules: Rules, attempts: Sequence[Attempt], allowed: Allowed = USUAL) -> datetime | None:
    """From when on the next attempt may begin, ``attempts`` being those there were; None where there is none: all are
    used, one is not handed in yet, or it closes before."""
    if rules.attempts is not None and len(attempts) >= rules.attempts:
        return None
    earliest = rules.opens
    if attempts:
        handed_in = attempts[-1].handed_in
        if handed_in is None:
            return None
        earliest = max(earliest, handed_in + rules.wait)
    if rules.per_period is not None and len(attempts) >= rules.per_period:
        earliest = max(earliest, attempts[-rules.per_period].begun + rules.period)
    closes = closing(rules, allowed)
    return earliest if closes is None or earliest < closes else None


def left_to_begin(rules: Rules, count: int) -> int | None:
    """How many attempts remain after so many; None where there is no limit."""
    return None if rules.attempts is None else max(0, rules.attempts - count)


def most_attempts(rules: Rules) -> int:
    """How many attempts there can be, by their number, the wait between them and the window: each handed in at once.
    Counted up to ``MOST_TIMES``."""
    attempts: list[Attempt] = []
    while len(attempts) < MOST_TIMES and (begins := next_begin(rules, attempts)) is not None:
        attempts.append(Attempt(begins, begins))
    return len(attempts)


def fit_until(rules: Rules, attempts: Sequence[Attempt], allowed: Allowed = USUAL) -> datetime | None:
    """The last moment at which the next attempt may begin so that all that remain still fit, each with its whole limit;
    None where there is no closing, no number of them, or where none remain. It may be past."""
    closes, left = closing(rules, allowed), left_to_begin(rules, len(attempts))
    if closes is None or not left:
        return None
    length = timedelta(0) if rules.limit is None else lengthened(rules.limit, allowed)
    begins = [closes - (length if rules.late_start == "until_closing" else timedelta(0))]
    while len(begins) < left:
        latest = begins[-1] - length - rules.wait
        if rules.per_period is not None and len(begins) >= rules.per_period:
            latest = min(latest, begins[-rules.per_period] - rules.period)
        begins.append(latest)
    return begins[-1]
