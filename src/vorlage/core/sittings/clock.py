"""Whose time runs until when: functions of the rules, what a student is allowed, what is on record, and now.

Every end is worked out once, when it comes to be, and kept; nothing here looks at a clock.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from fractions import Fraction

from .rules import Rules


@dataclass(frozen=True, slots=True)
class Allowed:
    """What one student is allowed: more time as a share in per cent or in minutes, and a later closing."""

    percent: int = 0
    minutes: int = 0
    later: int = 0


USUAL = Allowed()


@dataclass(frozen=True, slots=True)
class Record:
    """What is on record of one student: when they began, until when they have, and what became of it."""

    begun: datetime | None = None
    ends: datetime | None = None
    paused: datetime | None = None
    handed_in: datetime | None = None
    # whether they were let in, where that is done one by one
    let_in: bool = True
    # whether somebody has released their results, or withheld them
    released: bool = False
    withheld: bool = False
    # how often this attempt was handed in, this time included; whether another attempt can come, and whether numbers
    # of this one can come again in it
    submission: int = 1
    more: bool = False
    repeats: bool = False


def closing(rules: Rules, allowed: Allowed = USUAL) -> datetime | None:
    """When it closes for this student."""
    return None if rules.closes is None else rules.closes + timedelta(minutes=allowed.later)


def last_begin(rules: Rules, allowed: Allowed = USUAL) -> datetime | None:
    """Until when this student may begin: until closing, or for so long after opening; None when there is no end."""
    closes = closing(rules, allowed)
    if rules.begin_within is None:
        return closes
    within = rules.opens + rules.begin_within + timedelta(minutes=allowed.later)
    return within if closes is None else min(within, closes)


def lengthened(length: timedelta, allowed: Allowed) -> timedelta:
    """A time with what a student is allowed beyond it: ten minutes with a quarter more are twelve and a half."""
    return length * (100 + allowed.percent) / 100 + timedelta(minutes=allowed.minutes)


def end_if_begun(rules: Rules, at: datetime, allowed: Allowed = USUAL) -> datetime | None:
    """The end of whoever begins then; None when there is none.

    With the full time it is their own limit from there on. Until closing it is the earlier of both; what is left then
    is lengthened as the limit would be.
    """
    closes = closing(rules, allowed)
    if rules.limit is None:
        return closes
    if rules.late_start == "full" or closes is None:
        return at + lengthened(rules.limit, allowed)
    return at + lengthened(min(rules.limit, max(timedelta(0), closes - at)), allowed)


def last_save(rules: Rules, ends: datetime | None) -> datetime | None:
    """Until when what arrives is kept as an answer; None when there is no end."""
    return None if ends is None or rules.time_up == "go_on" else ends + rules.grace


def last_hand_in(rules: Rules, ends: datetime | None) -> datetime | None:
    """Until when one can hand in oneself; after it, what is there is handed in."""
    if ends is None or rules.time_up == "go_on":
        return None
    return ends + rules.grace + (rules.hand_in if rules.time_up == "hand_in_only" else timedelta(0))


# Where a student is.
NOT_YET, AT_THE_DOOR, OPEN, MISSED, WORKING, ONLY_HAND_IN, OVER, PAUSED, TIME_UP, HANDED_IN, ON_PAPER = (
    "not_yet", "at_the_door", "open", "missed", "working", "only_hand_in", "over", "paused", "time_up", "handed_in",
    "on_paper",
)  # fmt: skip


def phase(rules: Rules, record: Record, now: datetime, allowed: Allowed = USUAL) -> str:
    """Where a student is: one of the names above. What is ``TIME_UP`` has yet to be handed in by whoever sees it."""
    if record.handed_in is not None:
        return HANDED_IN
    if record.begun is None:
        if rules.on_paper:
            return ON_PAPER
        last = last_begin(rules, allowed)
        if now < rules.opens:
            return NOT_YET
        if last is not None and now >= last:
            return MISSED
        return OPEN if record.let_in or not rules.one_by_one else AT_THE_DOOR
    if record.paused is not None:
        return PAUSED
    if record.ends is None or now < record.ends:
        return WORKING
    if rules.time_up == "go_on":
        return OVER
    last = last_hand_in(rules, record.ends)
    if last is not None and now >= last:
        return TIME_UP
    return ONLY_HAND_IN


def takes_answers(rules: Rules, record: Record, now: datetime) -> bool:
    """Whether an answer that arrives now is kept as one."""
    if record.begun is None or record.handed_in is not None or record.paused is not None:
        return False
    last = last_save(rules, record.ends)
    return last is None or now < last


def asks_for_all(rules: Rules, record: Record, now: datetime) -> bool:
    """Whether parts that have to be answered are asked for on handing in: never of those whose time is up."""
    return phase(rules, record, now) == WORKING


def may_take_back(rules: Rules, record: Record, now: datetime) -> bool:
    """Whether what was handed in can be taken back, to go on."""
    in_time = record.ends is None or now < record.ends
    return record.handed_in is not None and rules.take_back and in_time and not is_released(rules, record, now)


def may_mend(rules: Rules, record: Record, now: datetime) -> bool:
    """Whether what was handed in can be mended and handed in once more, which counts as handing in again."""
    in_time = record.ends is None or now < record.ends
    left = record.submission < rules.submissions
    return record.handed_in is not None and left and in_time and not is_released(rules, record, now)


def is_released(rules: Rules, record: Record, now: datetime) -> bool:
    """Whether results are out for this student."""
    if record.withheld:
        return False
    return record.released or (rules.results is not None and now >= rules.results)


def after_pause(record: Record, now: datetime) -> datetime | None:
    """The end of somebody who goes on after a pause: as much later as it took."""
    if record.ends is None or record.paused is None:
        return record.ends
    return record.ends + max(timedelta(0), now - record.paused)


def with_more_time(record: Record, length: timedelta, now: datetime) -> datetime | None:
    """The end of somebody who is given more time; whose time is up already has it from now on."""
    if record.ends is None:
        return None
    return (record.ends if record.paused is not None else max(record.ends, now)) + length


def days_late(rules: Rules, handed_in: datetime, allowed: Allowed = USUAL) -> int:
    """How many days late something was handed in, a begun day counted whole; 0 when it was in time."""
    if rules.due is None:
        return 0
    late = handed_in - rules.due - timedelta(minutes=allowed.later)
    return max(0, -(-late // timedelta(days=1)))


def kept_share(rules: Rules, days: int) -> Fraction:
    """What is left of the marks of something so many days late."""
    return max(Fraction(0), 1 - rules.late_cost * days)
