"""The sections of a test, the places in them, and the questions that each place takes from."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from functools import cached_property
from typing import TYPE_CHECKING, Protocol

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.http import QueryDict

from vorlage.core.documents import MOST_ROOM, ROOMS
from vorlage.core.plans import Room
from vorlage.web.bank.models import MarksField, Question, Revision, Topic
from vorlage.web.bank.search import Hunt, Search, shown

if TYPE_CHECKING:
    from .tests import Test

# A rule takes so many of what it finds, the first ones; a pool has at most so many.
MOST_IN_A_POOL = 60
MOST_TAKEN = 30
# Millimetres of room for working that can be asked for by hand.
ROOM_FROM, ROOM_TO = MinValueValidator(10), MaxValueValidator(MOST_ROOM)


class Section(models.Model):
    """Places that stand together. Every test has one, which is not seen as long as nothing is said of it."""

    test = models.ForeignKey("plans.Test", on_delete=models.CASCADE, related_name="sections")
    position = models.PositiveIntegerField()
    title = models.CharField(max_length=120, blank=True)
    text = models.CharField(max_length=500, blank=True)
    # whether a calculator is allowed; null where nothing is said
    calculator = models.BooleanField(null=True, blank=True)
    new_page = models.BooleanField(default=False)
    # whether every form has its questions in an order of its own
    mixed = models.BooleanField(default=False)

    class Meta:
        ordering = ["test", "position", "pk"]

    def __str__(self) -> str:
        return self.title or f"Section {self.position + 1}"

    @property
    def key(self) -> str:
        return str(self.pk)

    @property
    def remarks(self) -> list[str]:
        """What is decided about it, in a word or two each."""
        said = {True: "calculator allowed", False: "no calculator", None: ""}[self.calculator]
        turned, mixed = self.new_page and "new page", self.mixed and "mixed in every form"
        return [each for each in (said, turned, mixed) if each]

    @property
    def says_nothing(self) -> bool:
        return not (self.title or self.text or self.new_page or self.mixed) and self.calculator is None


class WithRoom(Protocol):
    """A place, of a plan or of a frozen set."""

    room: str
    room_height: int | None


def room_of(place: WithRoom) -> Room:
    """The room for working that a place has."""
    return Room(place.room, place.room_height)


class TestPlace(models.Model):
    """One position of a test: a question that everybody gets, or some of a pool."""

    test = models.ForeignKey("plans.Test", on_delete=models.CASCADE, related_name="places")
    section = models.ForeignKey(Section, on_delete=models.CASCADE, related_name="places")
    position = models.PositiveIntegerField()
    # whether it takes ``take`` of several questions
    pool = models.BooleanField(default=False)
    name = models.CharField(max_length=120, blank=True)
    take = models.PositiveSmallIntegerField(default=1, validators=[MinValueValidator(1), MaxValueValidator(MOST_TAKEN)])
    # the search whose findings are the pool, as it stands in an address; empty where they were chosen by hand
    rule = models.CharField(max_length=2_000, blank=True)
    # what each question is worth here; null as it is worth by itself
    marks = MarksField(null=True, blank=True)
    # what it earns is beyond the marks of the test
    bonus = models.BooleanField(default=False)
    # the room for working below each part, as ``Room`` has it
    room = models.CharField(max_length=10, choices=list(ROOMS.items()), blank=True)
    room_height = models.PositiveSmallIntegerField(null=True, blank=True, validators=[ROOM_FROM, ROOM_TO])

    class Meta:
        ordering = ["test", "position"]

    def __str__(self) -> str:
        return f"Place {self.position + 1} of {self.test_id}"

    @property
    def revision(self) -> Revision:
        """The revision of the first of its questions."""
        return self.candidates.select_related("revision__question__current").order_by("position")[0].revision


class Candidate(models.Model):
    """A question that a place takes, or may take, as one of its revisions has it."""

    place = models.ForeignKey(TestPlace, on_delete=models.CASCADE, related_name="candidates")
    position = models.PositiveIntegerField()
    revision = models.ForeignKey(Revision, on_delete=models.PROTECT, related_name="candidates")
    # the draw of this revision that was seen when it was collected, which the first form has
    draw = models.PositiveIntegerField(null=True)

    class Meta:
        ordering = ["place", "position", "pk"]

    def __str__(self) -> str:
        return str(self.revision)

    @property
    def outdated(self) -> bool:
        """Whether the question has been revised since it was put here."""
        return self.revision_id != self.revision.question.current_id


class Target(models.Model):
    """So many marks that a test is to have of an objective at a level."""

    test = models.ForeignKey("plans.Test", on_delete=models.CASCADE, related_name="targets")
    topic = models.ForeignKey(Topic, on_delete=models.CASCADE, related_name="+")
    level = models.PositiveSmallIntegerField()
    marks = MarksField()

    class Meta:
        ordering = ["test", "topic", "level"]
        constraints = [models.UniqueConstraint(fields=["test", "topic", "level"], name="one_target_a_cell")]

    def __str__(self) -> str:
        return f"{self.marks} of {self.topic_id} at level {self.level}"


# What a list reads of revisions and questions leaves these out.
UNREAD = ["document", "sheet", "question__note", "question__current__document", "question__current__sheet"]


@dataclass
class Held:
    """A place with its section and the questions that it takes from, as they now are."""

    place: TestPlace
    section: Section
    candidates: Sequence[Candidate]
    # how many a rule finds, of which the pool has the first
    found: int = 0

    @classmethod
    def of(cls, test: Test) -> list[Held]:
        places = list(test.places.select_related("section").order_by("section__position", "position", "pk"))
        by_hand: dict[int, list[Candidate]] = {place.pk: [] for place in places}
        with_questions = Candidate.objects.filter(place__in=places).select_related("revision__question__current")
        for each in with_questions.defer(*(f"revision__{name}" for name in UNREAD)).order_by("position", "pk"):
            by_hand[each.place_id].append(each)
        return [
            cls(place, place.section, *(by_rule(test, place) if place.rule else (by_hand[place.pk], 0)))
            for place in places
        ]

    @property
    def pk(self) -> int:
        return self.place.pk

    @property
    def key(self) -> str:
        return str(self.place.pk)

    @property
    def revision(self) -> Revision:
        return self.candidates[0].revision

    @property
    def candidate(self) -> Candidate:
        return self.candidates[0]

    @property
    def outdated(self) -> bool:
        return any(each.outdated for each in self.candidates)

    @cached_property
    def worths(self) -> set[Decimal]:
        """The marks that its questions have by themselves."""
        return {each.revision.marks for each in self.candidates}

    @property
    def each(self) -> Fraction:
        """What one of its questions is worth here."""
        if self.place.marks is not None:
            return Fraction(self.place.marks)
        return Fraction(self.revision.marks) if self.candidates else Fraction(0)

    @property
    def marks(self) -> Fraction:
        return self.each * self.place.take

    @property
    def counted(self) -> Fraction:
        """Its marks within those of the test."""
        return Fraction(0) if self.place.bonus else self.marks

    @property
    def title(self) -> str:
        if self.place.pool:
            return self.place.name or "A pool"
        return self.revision.title if self.candidates else "No question"

    @property
    def too_few(self) -> bool:
        return len(self.candidates) < self.place.take

    @property
    def uneven(self) -> bool:
        """Whether its questions have different marks, and nothing is said of what one is worth here."""
        return self.place.marks is None and len(self.worths) > 1

    @property
    def unmarked(self) -> bool:
        """Whether one of its questions has no marks that could be changed to those of the place."""
        return bool(self.place.marks) and Decimal(0) in self.worths


def by_rule(test: Test, place: TestPlace) -> tuple[list[Candidate], int]:
    """What a rule finds now, as the questions of a pool, and how many there are."""
    count, rows = found_by_rule(test, place.rule)
    return [Candidate(place=place, position=k, revision=each.newest) for k, each in enumerate(rows)], count


def found_by_rule(test: Test, rule: str, most: int = MOST_IN_A_POOL) -> tuple[int, list[Question]]:
    """How many questions a rule finds, and the first of them."""
    hunt = Hunt(Search.of(QueryDict(rule)), test.department)
    found = hunt.ordered()
    questions = [row.question for row in shown(found, 0, most)]
    count = len(questions) if len(questions) < most else found.count()
    return count, questions
