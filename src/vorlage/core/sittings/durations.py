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
    r"(?:(\d)\s*(?:d|days?|tage?)\s*)?(?:(\d{1,3}(?:[.,]\d{1,2})?)\s*(?:h|hr|hrs|hours?|std\.?|stunden?))?\s*(?:and\s+)?"
    r"(?:(\d{1,5})\s*(?:m|min|mins|minutes?|minuten?)?)??\s*(?:(\d{1,2})\s*(?:s|sec|secs|seconds?|sekunden?))?\.?",
    re.IGNORECASE,
)


class TimeError(CoreError, ValueError):
    """What was typed is no length of time, or no moment."""


def read_duration(text: str, least: timedelta = timedelta(minutes=1)) -> timedelta:
    """A length of time: ``50`` and ``50 min`` are minutes, ``1:40`` and ``1 h 40`` an hour and forty minutes; what
    ``duration_words`` writes is read back. Raises ``TimeError``.

    >>> [str(read_duration(each)) for each in ("50", "1 h 40", "1:40", "1.5 h", "2 min 30 s", "1 day")]
    ['0:50:00', '1:40:00', '1:40:00', '1:30:00', '0:02:30', '1 day, 0:00:00']
    """
    typed = " ".join(text.split())
    if found := BARE.fullmatch(typed):
        length = timedelta(minutes=int(found[1]))
    elif (found := CLOCK.fullmatch(typed)) and int(found[2]) < 60:
        length = timedelta(hours=int(found[1]), minutes=int(found[2]))
    elif typed and (found := NAMED.fullmatch(typed)) and any(found.groups()):
        days, hours, minutes, seconds = found.groups("0")
        length = timedelta(int(days), int(seconds), hours=float(hours.replace(",", ".")), minutes=int(minutes))
    else:
        raise TimeError("no_duration", f"“{typed[:30]}” is no length of time: type minutes, such as 50, or 1 h 40.")
    if not least <= length <= LONGEST:
        raise TimeError("duration_range", f"It is from {duration_words(least)} to seven days long.")
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
