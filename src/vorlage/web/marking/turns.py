"""The order of work by student and by form: what needs an eye of one, then of the next."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from django.urls import reverse

from .overview import Whole

# What can be gone by beside the question.
BY = ("student", "form")


@dataclass(frozen=True)
class Turn:
    """An answer whose turn it is."""

    sitting: int
    taking: int
    candidate: int
    part: str
    position: int
    by: str

    @property
    def place(self) -> str:
        return f"{self.taking}-{self.position}"

    @property
    def address(self) -> str:
        page = reverse("mark-part", args=[self.sitting, self.candidate, self.part])
        return f"{page}?{urlencode({'at': self.place, 'by': self.by})}"


def turns(sitting: int, whole: Whole, by: str, students: list[dict[str, Any]]) -> list[Turn]:
    """Every answer that needs an eye, in the order of the ``students`` as they are listed, or of the forms."""
    return [
        Turn(sitting, taking, candidate, part, position, by)
        for taking in in_order(by, students)
        for candidate, part, position in whole.open.get(taking, ())
    ]


def in_order(by: str, students: list[dict[str, Any]]) -> list[int]:
    """The attempts in their order."""
    takings = [each["taking"] for each in students]
    if by == "form":
        takings.sort(key=lambda each: each.form.position)
    return [each.pk for each in takings]


def neighbours(
    whole: Whole, among: list[Turn], students: list[dict[str, Any]], here: Turn
) -> tuple[Turn | None, Turn | None]:
    """The turns before and after one, whether or not that needs an eye still; behind the last comes the first."""
    rank = {taking: k for k, taking in enumerate(in_order(here.by, students))}
    parts = {(each.candidate.pk, each.part): k for k, each in enumerate(whole.asked)}

    def at(turn: Turn) -> tuple[int, int, int]:
        return rank.get(turn.taking, 0), turn.position, parts.get((turn.candidate, turn.part), 0)

    ahead = [each for each in among if at(each) < at(here)]
    behind = [each for each in among if at(each) > at(here)]
    return (ahead[-1] if ahead else None), next(iter([*behind, *ahead]), None)
