"""How often somebody may try an entry word. It is counted by person, so that no school is shut out by one of it."""

from __future__ import annotations

from django.core.cache import cache

# So many wrong words in so many seconds.
MOST, WITHIN = 8, 60


class TooOften(Exception):
    """Too many wrong words in a short time."""


def tried(key: str, wrong: bool) -> None:
    """Count a wrong one. Raises ``TooOften``, also for a right one that comes after too many."""
    name = f"tried-{key}"
    count = cache.get_or_set(name, 0, WITHIN) or 0
    if count >= MOST:
        raise TooOften
    if wrong:
        cache.set(name, count + 1, WITHIN)
