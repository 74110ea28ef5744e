"""How often somebody may try an entry word or a code. It is counted by person, and by network at a height that a whole
school behind one address does not reach."""

from __future__ import annotations

from django.core.cache import cache

# So many wrong ones in so many seconds: of a person, and of a network.
OF_A_PERSON, OF_A_NETWORK, WITHIN = 8, 400, 60


class TooOften(Exception):
    """Too many wrong ones in a short time."""


def tried(key: str, wrong: bool, most: int = OF_A_PERSON) -> None:
    """Count a wrong one. Raises ``TooOften``, also for a right one that comes after too many."""
    name = f"tried-{key}"
    count = cache.get(name) or 0
    if count >= most:
        raise TooOften
    if wrong:
        cache.set(name, count + 1, WITHIN)
