"""The plan of a test, before any form is made."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from fractions import Fraction
from functools import cached_property

from ..errors import CoreError
from ..notation import USUAL, Habits
from ..questions import CompiledQuestion


class PlanError(CoreError, ValueError):
    """Why no form can be made from a plan."""


@dataclass(frozen=True, slots=True)
class Room:
    """The room for working below each part of a question: what it is filled with, empty for what the papers of the test
    have; and how high it is, in millimetres, None for as much as the marks ask for."""

    kind: str = ""
    height: int | None = None


@dataclass(frozen=True, slots=True)
class Place:
    """One position in a test: a fixed question that everybody gets. A question of a pool is the same."""

    question: CompiledQuestion
    # the identity under which its draws are made, kept for ever
    key: str
    revision: int
    # the draw that the first form has; None leaves it to the seed
    first: int | None = None
    # what it is worth here; None as the question says itself
    marks: Decimal | None = None
    # what it earns is beyond the marks of the test
    bonus: bool = False
    room: Room = Room()

    @property
    def candidates(self) -> Sequence[Place]:
        """The questions of which forms get some."""
        return (self,)

    @property
    def take(self) -> int:
        """How many of them a form gets."""
        return 1

    @property
    def worth(self) -> Fraction:
        """The marks of one question here."""
        return Fraction(self.question.document.marks if self.marks is None else self.marks)

    @property
    def called(self) -> str:
        return self.question.document.title


@dataclass(frozen=True, slots=True)
class Pool:
    """Some questions of which every form gets ``take``, each worth the same."""

    candidates: Sequence[Place]
    take: int
    marks: Decimal | None = None
    bonus: bool = False
    name: str = ""
    room: Room = Room()

    @property
    def worth(self) -> Fraction:
        """The marks of one question: those of the place, or those that all have."""
        return Fraction(self.marks) if self.marks is not None else self.candidates[0].worth

    @property
    def called(self) -> str:
        return self.name or f"{self.take} of {len(self.candidates)}"


@dataclass(frozen=True, slots=True)
class Section:
    """Places that stand together, from number ``start`` (from 0) up to the next section."""

    start: int = 0
    title: str = ""
    text: str = ""
    # whether a calculator is allowed; None where nothing is said
    calculator: bool | None = None
    new_page: bool = False
    # whether every form has the places in an order of its own
    mixed: bool = False


@dataclass(frozen=True)
class Plan:
    """A test's places in order, in sections where there are any."""

    title: str
    places: Sequence[Place | Pool]
    instructions: str = ""
    # how numbers are written for the people who read it
    habits: Habits = USUAL
    sections: Sequence[Section] = field(default=())
    # whether options stand beside each other on paper where they have room
    across: bool = False

    @cached_property
    def marks(self) -> Fraction:
        """All marks that can be had, without those beyond the test."""
        return sum((place.worth * place.take for place in self.places if not place.bonus), Fraction(0))

    @cached_property
    def bonus(self) -> Fraction:
        """The marks that can be had beyond those of the test."""
        return sum((place.worth * place.take for place in self.places if place.bonus), Fraction(0))

    @cached_property
    def slots(self) -> list[int]:
        """The number of the place, for every question of a form, in the order of the plan."""
        return [number for number, place in enumerate(self.places) for _ in range(place.take)]

    @property
    def questions(self) -> Iterable[Place]:
        """Every question that a form can have."""
        return (candidate for place in self.places for candidate in place.candidates)

    def section_of(self, place: int) -> int:
        """The number of the section of a place; -1 where there is none."""
        return sum(section.start <= place for section in self.sections) - 1

    def factor(self, place: int, candidate: int) -> Fraction:
        """By what the marks of a question are multiplied, so that it is worth what the place says."""
        held = self.places[place]
        own = Fraction(held.candidates[candidate].question.document.marks)
        return held.worth / own if own and held.worth != own else Fraction(1)

    def check(self) -> None:
        """Raises ``PlanError`` for what no form can be made from."""
        for number, place in enumerate(self.places, start=1):
            questions = [candidate.question for candidate in place.candidates]
            for question in questions:
                if question.problems:
                    raise PlanError("unsound", f"Question {number} cannot be used: {question.problems[0].message}")
            if place.take < 1 or place.take > len(questions):
                raise PlanError(
                    "too_few", f"Place {number} takes {place.take} of {len(questions)}: add questions or take fewer."
                )
            worths = {question.document.marks for question in questions}
            if place.marks is None and len(worths) > 1:
                message = f"The questions of place {number} have different marks: say what one is worth."
                raise PlanError("marks", message)
            if place.marks and 0 in worths:
                raise PlanError("marks", f"A question of place {number} has no marks that could be changed.")
        if short := self.short():
            raise PlanError(
                "too_few",
                f"Place {short[0] + 1} finds too few questions that the places before it do not take: "
                f"{short[1]} more would do.",
            )

    def short(self) -> tuple[int, int] | None:
        """The first place that cannot get its questions, each standing once in a form, and how many it lacks."""
        slot = first_without(self.options)
        if slot is None:
            return None
        place = self.slots[slot]
        return place, sum(each == place for each in self.slots[slot:])

    @cached_property
    def options(self) -> list[list[str]]:
        """The keys of the questions that each of a form's questions can be, in the order of the plan."""
        return [[candidate.key for candidate in self.places[place].candidates] for place in self.slots]


def first_without(options: Sequence[Sequence[str]]) -> int | None:
    """The first slot that cannot have a question when none stands twice; None where all can."""
    taken: dict[str, int] = {}
    return next((slot for slot in range(len(options)) if not placed(slot, options, taken, set())), None)


def placed(slot: int, options: Sequence[Sequence[str]], taken: dict[str, int], tried: set[str]) -> bool:
    """Find a question for a slot, moving others to where they can go as well (Kuhn's augmenting path)."""
    for key in options[slot]:
        if key in tried:
            continue
        tried.add(key)
        if key not in taken or placed(taken[key], options, taken, tried):
            taken[key] = slot
            return True
    return False


def numbers_in(places: Iterable[tuple[int, int]]) -> list[list[str]]:
    """What the questions are called by whose places take so many of so many, in the order of the plan: by their number
    where all are taken, else by the numbers that the place has and which of its questions it is.

    >>> numbers_in([(2, 2), (1, 2), (2, 3)])
    [['1', '2'], ['3, 1 of 2', '3, 2 of 2'], ['4 to 5, 1 of 3', '4 to 5, 2 of 3', '4 to 5, 3 of 3']]
    """
    found, first = list[list[str]](), 1
    for take, count in places:
        own = str(first) if take == 1 else f"{first} to {first + take - 1}"
        found.append([str(first + k) if count <= take else f"{own}, {k + 1} of {count}" for k in range(count)])
        first += take
    return found
