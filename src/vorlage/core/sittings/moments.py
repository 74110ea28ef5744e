"""Moments as teachers type them, by the clock of their school, and in words."""

from __future__ import annotations

import re
from datetime import date, datetime, time, timedelta, tzinfo

from .durations import TimeError

DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
MONTHS = (
    "January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November",
    "December",
)  # fmt: skip
AT = re.compile(r"(?:\s*,)?\s*(?:at\s+)?(\d{1,2})(?:[:.](\d{2})|\s*h\s*(\d{2})?)\s*$", re.IGNORECASE)
ISO = re.compile(r"(\d{4})-(\d{1,2})-(\d{1,2})[T\s]*$")
DOTTED = re.compile(r"(\d{1,2})[./](\d{1,2})[./]?(\d{4}|\d{2})?\s*$")
WORDED = re.compile(r"(\d{1,2})\.?\s+([A-Za-z]{3,9})\.?(?:\s+(\d{4}))?\s*$")
WORDED_FIRST = re.compile(r"([A-Za-z]{3,9})\.?\s+(\d{1,2})(?:st|nd|rd|th)?(?:,?\s+(\d{4}))?\s*$")
SIGNS = re.compile(r"^([A-Za-z]{2,9})\.?,?\s+(?=\d)")


def read_moment(text: str, now: datetime, end_of_day: time) -> datetime:
    """A moment by the clock of ``now``, which has a time zone: ``Tue 9:40``, ``9:40``, ``tomorrow 8:00``,
    ``4 December 10:15``, ``4.12. 10:15``, ``2026-12-04 10:15``. A day without a time of day ends with
    ``end_of_day``; a day of the week is the next one, today among them while its time is to come. Raises ``TimeError``.
    """
    typed = " ".join(text.split())
    rest, at = typed, end_of_day
    if found := AT.search(typed):
        hours, minutes = int(found[1]), int(found[2] or found[3] or 0)
        if hours > 23 or minutes > 59:
            raise TimeError("no_moment", f"{found[0].strip()} is no time of day.")
        rest, at = typed[: found.start()].strip(), time(hours, minutes)
    elif typed.lower() == "now":
        return now
    day = day_of(rest, now, at)
    if day is None:
        raise TimeError(
            "no_moment", f"“{typed[:40]}” is no moment: type a day and a time, such as Tue 9:40 or 4 December 10:15."
        )
    return placed(day, at, now.tzinfo)


def placed(day: date, at: time, zone: tzinfo | None) -> datetime:
    return datetime.combine(day, at, zone)


def day_of(text: str, now: datetime, at: time) -> date | None:
    """The day that a text names; None where it names none."""
    today, lower = now.date(), text.lower().strip(" ,")
    if not lower or lower == "today":
        return today
    if lower == "tomorrow":
        return today + timedelta(days=1)
    if lower.isalpha() and len(lower) >= 2:
        found = [k for k, name in enumerate(DAYS) if name.lower().startswith(lower) or lower == name.lower()[:4]]
        if len(found) != 1:
            return None
        ahead = (found[0] - today.weekday()) % 7
        return today + timedelta(days=ahead or (0 if at > now.time() else 7))
    # a day of the week before a date says nothing more
    text = SIGNS.sub("", text) if (sign := SIGNS.match(text)) and is_day(sign[1]) else text
    return dated(text.strip(" ,"), today)


def is_day(word: str) -> bool:
    return any(name.lower().startswith(word.lower()) for name in DAYS)


def dated(text: str, today: date) -> date | None:
    """A date, in this year or the next where the year is not said."""
    if found := ISO.match(text):
        year, month, day = int(found[1]), int(found[2]), int(found[3])
    elif found := DOTTED.match(text):
        day, month, year = int(found[1]), int(found[2]), int(found[3] or 0)
    elif (found := WORDED.match(text)) and (month := month_of(found[2])):
        day, year = int(found[1]), int(found[3] or 0)
    elif (found := WORDED_FIRST.match(text)) and (month := month_of(found[1])):
        day, year = int(found[2]), int(found[3] or 0)
    else:
        return None
    year = year + 2000 if 0 < year < 100 else year
    try:
        if year:
            return date(year, month, day)
        this = date(today.year, month, day)
        # what lies months back is meant for the next year
        return this if this >= today - timedelta(days=90) else date(today.year + 1, month, day)
    except ValueError:
        return None


def month_of(word: str) -> int:
    """A month by its name or the beginning of it; 0 where it is none."""
    return next((k for k, name in enumerate(MONTHS, start=1) if name.lower().startswith(word.lower())), 0)


def clock(moment: datetime) -> str:
    """The time of day, as it is read from a clock."""
    seconds = f":{moment.second:02}" if moment.second else ""
    return f"{moment.hour}:{moment.minute:02}{seconds}"


def moment_words(moment: datetime, now: datetime) -> str:
    """A moment in words, in the time zone that it has; the year where it is another.

    >>> moment_words(datetime(2026, 12, 1, 9, 40), datetime(2026, 11, 28))
    'Tuesday 1 December, 9:40'
    """
    if moment.date() == now.date():
        return f"today, {clock(moment)}"
    year = f" {moment.year}" if moment.year != now.year else ""
    return f"{DAYS[moment.weekday()]} {moment.day} {MONTHS[moment.month - 1]}{year}, {clock(moment)}"
