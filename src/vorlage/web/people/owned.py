"""What belongs to somebody in a department, and handing it over to a colleague.

This app knows nothing of tests, drafts or classes: every app says what of its own belongs to people.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from django.db import transaction

from .models import Department, User


@dataclass(frozen=True)
class Owned:
    """A kind of thing that belongs to people: what one and several are called, how many somebody has in a department,
    and giving them to somebody else there."""

    one: str
    many: str
    count: Callable[[User, Department], int]
    give: Callable[[User, User, Department], object]

    def words(self, count: int) -> str:
        return f"{count} {self.one if count == 1 else self.many}"


OWNED: list[Owned] = []


def owns(kind: Owned) -> None:
    """Say that this belongs to people."""
    OWNED.append(kind)


def belongings(user: User, departments: Iterable[Department]) -> list[tuple[Department, list[str]]]:
    """What somebody has in departments, in words; departments in which they have nothing are left out."""
    found = []
    for department in departments:
        counts = [(kind, kind.count(user, department)) for kind in OWNED]
        words = [kind.words(count) for kind, count in counts if count]
        if words:
            found.append((department, words))
    return found


@transaction.atomic
def hand_over(user: User, colleague: User, departments: Iterable[Department]) -> None:
    """Give a colleague all that somebody has in departments."""
    for department in departments:
        for kind in OWNED:
            kind.give(user, colleague, department)
