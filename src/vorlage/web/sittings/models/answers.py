"""Every answer as it arrived, what was tried of it, and every mark as it was given: they are only ever added."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property, lru_cache
from typing import Any, Protocol, TypeVar

from django.db import models
from django.utils import timezone

from vorlage.core.marking import PartMark
from vorlage.web.forms.models import Form
from vorlage.web.people.models import User

# What stands as a part for the working at a question.
WORKING_PART = "~working"


@lru_cache(maxsize=4096)
def exactly(text: str) -> Fraction:
    """A fraction as it is kept; a class has thousands of marks, and few that differ."""
    return Fraction(text)


@dataclass(frozen=True, slots=True)
class Change:
    """An answer as a page sends it: under a number of the page's own, so that the same sent twice is kept once."""

    number: int
    position: int
    part: str
    response: Any

    @property
    def columns(self) -> dict[str, Any]:
        return {"number": self.number, "position": self.position, "part": self.part, "response": self.response}


class Response(models.Model):
    """An answer as it arrived. None is ever changed; of those that count, the last is the student's answer."""

    taking = models.ForeignKey("sittings.Taking", on_delete=models.CASCADE, related_name="responses")
    # the question on their form, from 0, and the part by its identity
    position = models.PositiveSmallIntegerField()
    part = models.CharField(max_length=20)
    response = models.JSONField(null=True)
    # the page that sent it, and the number that it gave it
    tab = models.CharField(max_length=40)
    number = models.PositiveIntegerField()
    arrived = models.DateTimeField()
    counts = models.BooleanField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["taking", "tab", "number"], name="one_change_a_number")]
        indexes = [models.Index(fields=["taking", "position", "part", "-id"], name="answers_of_a_taking")]

    def __str__(self) -> str:
        return f"Answer {self.number} of taking {self.taking_id}"


class HintTaken(models.Model):
    """A hint that a student took, and the share of the marks that it cost."""

    taking = models.ForeignKey("sittings.Taking", on_delete=models.CASCADE, related_name="hints")
    # the form that they had then
    form = models.ForeignKey(Form, on_delete=models.PROTECT, related_name="+")
    position = models.PositiveSmallIntegerField()
    part = models.CharField(max_length=20)
    # which of the part's hints, from 0
    number = models.PositiveSmallIntegerField()
    cost = models.CharField(max_length=40)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["taking", "form", "position", "part", "number"], name="one_hint_once")
        ]

    def __str__(self) -> str:
        return f"Hint {self.number + 1} to {self.position + 1} {self.part}"


class Earned(models.Model):
    """What a part earned, and by which rule."""

    position = models.PositiveSmallIntegerField()
    part = models.CharField(max_length=20)
    outcome = models.CharField(max_length=12)
    # exact fractions, as text
    share = models.CharField(max_length=40)
    marks = models.CharField(max_length=40)
    most = models.CharField(max_length=40)
    # the share that hints and further tries have cost
    cost = models.CharField(max_length=40, default="0")
    code = models.CharField(max_length=60)
    because = models.CharField(max_length=500)
    certainty = models.CharField(max_length=12, blank=True)
    reading = models.CharField(max_length=1000, blank=True)
    feedback = models.JSONField(default=list)

    class Meta:
        abstract = True

    @cached_property
    def held(self) -> PartMark:
        """As the core has it. None is ever changed, and a total looks at each several times."""
        share, marks, most = exactly(self.share), exactly(self.marks), exactly(self.most)
        return PartMark(
            self.part, self.outcome, share, marks, most, self.code, self.because, self.certainty, self.reading,
            tuple(self.feedback), exactly(self.cost),
        )  # fmt: skip

    @staticmethod
    def columns_of(mark: PartMark) -> dict[str, Any]:
        """The columns for what the core has."""
        return {
            "part": mark.part, "outcome": mark.outcome, "share": str(mark.share), "marks": str(mark.marks),
            "most": str(mark.most), "cost": str(mark.cost), "code": mark.code[:60], "because": mark.because[:500],
            "certainty": mark.certainty, "reading": mark.reading[:1000], "feedback": list(mark.feedback),
        }  # fmt: skip


class Tried(Earned):
    """A try of a part that was checked before all was handed in, with what it came to. None is ever changed."""

    taking = models.ForeignKey("sittings.Taking", on_delete=models.CASCADE, related_name="tries")
    # the form that they had then
    form = models.ForeignKey(Form, on_delete=models.PROTECT, related_name="+")
    response = models.JSONField(null=True)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]
        indexes = [models.Index(fields=["taking", "form", "position"], name="tries_of_a_taking")]

    def __str__(self) -> str:
        return f"{self.outcome} at {self.position + 1} {self.part}"


class Mark(Earned):
    """What a part earned, and by which rule. None is ever changed; the last is the one that holds."""

    taking = models.ForeignKey("sittings.Taking", on_delete=models.CASCADE, related_name="given_marks")
    beyond = models.BooleanField(default=False)
    # the question of the form that it stands for, where it is a similar one, and what was handed in that time
    place = models.PositiveSmallIntegerField(null=True)
    submission = models.PositiveSmallIntegerField(default=1)
    # what was drawn, the revision of the question, and the version of the rules
    draw = models.BigIntegerField()
    revision = models.PositiveIntegerField()
    version = models.PositiveSmallIntegerField()
    # who gave it, where no rule did
    by = models.ForeignKey(User, on_delete=models.PROTECT, null=True, related_name="+")
    reason = models.CharField(max_length=300, blank=True)
    # why a rule was changed afterwards that gave another mark before: students read it
    why_changed = models.CharField(max_length=300, blank=True)
    # the levels of a rubric that were reached: of each criterion its name, the marks and what the level says
    levels = models.JSONField(default=list)
    made = models.DateTimeField(default=timezone.now)

    class Meta:
        indexes = [models.Index(fields=["taking", "position", "part", "-id"], name="marks_of_a_taking")]

    @property
    def place_on_form(self) -> int:
        """The question of the form that it stands for, from 0."""
        return self.position if self.place is None else self.place

    def __str__(self) -> str:
        return f"{self.marks} of {self.most} for {self.position + 1} {self.part}"


class AnyMark(Protocol):
    """What a total needs of a mark."""

    @property
    def position(self) -> int: ...
    @property
    def part(self) -> str: ...
    @property
    def outcome(self) -> str: ...
    @property
    def submission(self) -> int: ...
    @property
    def by_id(self) -> int | None: ...
    @property
    def beyond(self) -> bool: ...
    @property
    def place_on_form(self) -> int: ...
    @property
    def held(self) -> PartMark: ...


SomeMark = TypeVar("SomeMark", bound=AnyMark)


@dataclass(frozen=True, slots=True)
class BriefMark:
    """A mark without what was said of it: a class has thousands, of which a total needs no more."""

    position: int
    part: str
    outcome: str
    submission: int
    by_id: int | None
    beyond: bool
    place_on_form: int
    held: PartMark


def brief_marks(takings: Collection[int]) -> dict[int, list[BriefMark]]:
    """All marks that were given for these attempts, of each attempt the oldest first."""
    found: dict[int, list[BriefMark]] = {}
    own = "part", "outcome", "share", "marks", "most", "cost"
    rows = Mark.objects.filter(taking__in=takings).order_by("pk")
    for taking, position, place, submission, by, beyond, *held in rows.values_list(
        "taking", "position", "place", "submission", "by", "beyond", *own
    ):
        mark = brief(*held)
        where = position if place is None else place
        found.setdefault(taking, []).append(
            BriefMark(position, mark.part, mark.outcome, submission, by, beyond, where, mark)
        )
    return found


@lru_cache(maxsize=4096)
def brief(part: str, outcome: str, share: str, marks: str, most: str, cost: str) -> PartMark:
    """A mark as the core has it, without what was said of it."""
    return PartMark(
        part, outcome, exactly(share), exactly(marks), exactly(most), code="", because="", cost=exactly(cost)
    )


class Comment(models.Model):
    """What is said of an answer, to its student or to colleagues. None is ever changed; of each kind the last holds,
    and an empty one says that there is none any more."""

    taking = models.ForeignKey("sittings.Taking", on_delete=models.CASCADE, related_name="comments")
    position = models.PositiveSmallIntegerField()
    part = models.CharField(max_length=20)
    text = models.CharField(max_length=1000, blank=True)
    for_student = models.BooleanField()
    by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]
        indexes = [models.Index(fields=["taking", "position", "part", "-id"], name="comments_of_a_taking")]

    def __str__(self) -> str:
        return self.text
