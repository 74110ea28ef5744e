"""Lengths of time as teachers type them, and in words."""

from __future__ import annotations

import re
from datetime import timedelta

from ..errors import CoreError

# Nobody sits longer at one piece of work.
LONGEST = timedelta(days=7)
BARE = re.compile(r"(\d{1,5})")
CLOCK = re.compile(r"(\d{1,3})\s*[:.]\s*(\d{2})(?:\s*h)?")
NAMED = re.compile(
    r"(?:(\d{1,3}(?:[.,]\d{1,2})?)\s*(?:h|hr|hrs|hours?|std\.?|stunden?))?\s*(?:and\s+)?"
    r"(?:(\d{1,5})\s*(?:m|min|mins|minutes?|minuten?)?)?\.?",
    re.IGNORECASE,
)


class TimeError(CoreError, ValueError):
    """What was typed is no length of time, or no moment."""


def read_duration(text: str) -> timedelta:
    """A length of time: ``50`` and ``50 min`` are minutes, ``1:40`` and ``1 h 40`` an hour and forty minutes. Raises
    ``TimeError``.

    >>> [str(read_duration(each)) for each in ("50", "1 h 40", "1:40", "1.5 h")]
    ['0:50:00', '1:40:00', '1:40:00', '1:30:00']
    """
    typed = " ".join(text.split())
    if found := BARE.fullmatch(typed):
        length = timedelta(minutes=int(found[1]))
    elif (found := CLOCK.fullmatch(typed)) and int(found[2]) < 60:
        length = timedelta(hours=int(found[1]), minutes=int(found[2]))
    elif (found := NAMED.fullmatch(typed)) and (found[1] or found[2]):
        hours, minutes = (found[1] or "0").replace(",", "."), int(found[2] or 0)
        length = timedelta(hours=float(hours), minutes=minutes)
    else:
        raise TimeError("no_duration", f"“{typed[:30]}” is no length of time: type minutes, such as 50, or 1 h 40.")
    if not timedelta(minutes=1) <= length <= LONGEST:
        raise TimeError("duration_range", "A limit is from one minute to seven days long.")
    return length


def counted(count: int, noun: str) -> str:
    return f"{count} {noun}{'' if count == 1 else 's'}"


def duration_words(length: timedelta) -> str:
    """A length of time in words, to the second where it has any.

    >>> duration_words(timedelta(minutes=100)), duration_words(timedelta(seconds=750))
    ('1 hour 40 minutes', '12 minutes 30 seconds')
    """
    seconds = round(length.total_seconds())
    days, seconds = divmod(seconds, 86_400)
    hours, seconds = divmod(seconds, 3600)
    minutes, seconds = divmod(seconds, 60)
    pieces = [(days, "day"), (hours, "hour"), (minutes, "minute"), (seconds, "second")]
    return " ".join(counted(count, noun) for count, noun in pieces if count) or "0 minutes"
