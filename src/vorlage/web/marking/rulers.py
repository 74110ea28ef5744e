"""Answers beside their keys before and after a change: each on a ruler of its own, which are aligned across draws as
distances from the key."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from vorlage.core.algebra import approximate
from vorlage.core.answers import stretch
from vorlage.core.marking import Answered, answered
from vorlage.core.notation import Node
from vorlage.web.sittings.models import Sitting

from .columns import Had, had_by_all
from .overview import Asked

# So many rulers are drawn at most, those whose verdict moves first.
MOST = 60
# What lies further away is drawn at the edge: so many times the wider of both tolerances.
REACH = 2.5


@dataclass(frozen=True)
class Ruler:
    """An answer and what is close enough, in per cent of the key as it would be: from where to where it was, from where
    to where it would be, and where the answer lies. ``way`` says whether its verdict ``gains``, ``loses`` or ``stays``.
    """

    taking: int
    typed: str
    was: tuple[float, float]
    now: tuple[float, float]
    at: float
    way: str


@dataclass(frozen=True)
class Rulers:
    """Rulers on one scale, which goes ``reach`` per cent to each side of the key; how many more there are."""

    rows: list[Ruler]
    reach: float
    more: int

    def x(self, at: float) -> float:
        """A place on a line of 100."""
        return round(50 + 50 * max(-1.0, min(1.0, at / self.reach)), 2)


def rulers(sitting: Sitting, asked: Asked, after: Mapping[str, Any]) -> Rulers | None:
    """The answers to a part beside what is close enough now and with ``after`` in place of what was changed; None where
    they are no numbers, or nothing of that moves."""
    found = []
    for was, now in zip(had_by_all(sitting, asked.candidate), had_by_all(sitting, asked.candidate, after)):
        place = [each.id for each in now.drawn.question.document.parts].index(asked.part)
        row = ruler_of(was, now, place)
        if row is not None:
            found.append(row)
    if not any(row.was != row.now or row.way != "stays" for row in found):
        return None
    found.sort(key=lambda row: (row.way == "stays", abs(row.at)))
    widths = [abs(end) for row in found for end in (*row.was, *row.now)]
    moved = [abs(row.at) for row in found if row.way != "stays"]
    return Rulers(found[:MOST], max([REACH * max(widths), *(1.1 * each for each in moved)]) or 1.0, len(found[MOST:]))


def ruler_of(was: Had, now: Had, part: int) -> Ruler | None:
    before, after = (answered(each.drawn, part, each.responses, each.draw) for each in (was, now))
    ends, other = ends_of(before), ends_of(after)
    verdict = after.verdict
    if (
        ends is None
        or other is None
        or verdict is None
        or verdict.value is None
        or isinstance(verdict.value, str | Node)
    ):
        return None
    number = after.drawn.number if after.drawn is not None else None
    key = approximate(number.key) if number is not None else 0.0
    if not key:
        return None

    def off(value: float) -> float:
        return round(100 * (value - key) / abs(key), 4)

    gain = verdict.share - (before.verdict.share if before.verdict is not None else 0)
    way = "gains" if gain > 0 else "loses" if gain < 0 else "stays"
    return Ruler(
        now.taking.pk, after.typed, (off(ends[0]), off(ends[1])), (off(other[0]), off(other[1])),
        off(approximate(verdict.value)), way,
    )  # fmt: skip


def ends_of(row: Answered) -> tuple[float, float] | None:
    """From where to where an answer is close enough; None where it is no number."""
    number = row.drawn.number if row.drawn is not None else None
    if number is None:
        return None
    admitted = stretch(number.key, number.tolerance, "1")
    return admitted.low, admitted.high
