"""The plan of a test, before any form is made."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from ..answers import total_marks
from ..notation import USUAL, Habits
from ..questions import CompiledQuestion


@dataclass(frozen=True, slots=True)
class Place:
    """One position in a test: a fixed question that everybody gets."""

    question: CompiledQuestion
    # the identity under which its draws are made, kept for ever
    key: str
    revision: int
    # the draw that the first form has; None leaves it to the seed
    first: int | None = None

    @property
    def marks(self) -> Decimal:
        return self.question.document.marks


@dataclass(frozen=True, slots=True)
class Plan:
    """A test's places in order."""

    title: str
    places: Sequence[Place]
    instructions: str = ""
    # how numbers are written for the people who read it
    habits: Habits = USUAL

    @property
    def marks(self) -> Decimal:
        return total_marks(place.marks for place in self.places)
