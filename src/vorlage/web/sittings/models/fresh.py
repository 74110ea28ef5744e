"""Fresh draws for one student: similar questions instead of missed ones, and practice."""

from __future__ import annotations

from collections.abc import Iterable

from django.db import models
from django.db.models import Q
from django.utils import timezone

from vorlage.core.questions import FrozenDraw
from vorlage.web.classes.models import Student
from vorlage.web.forms.models import Form, FormSetCandidate

from .sittings import Sitting
from .takings import Taking


def replaced(similar: Iterable[tuple[int, int]]) -> set[int]:
    """The questions that a similar one was had instead of, from the place and the position of every similar one in the
    order in which they were had: they stay as they are."""
    found, last = set[int](), dict[int, int]()
    for place, position in similar:
        found.add(last.get(place, place))
        last[place] = position
    return found


class PractisedQuerySet(models.QuerySet["Practised"]):
    def of(self, sitting: Sitting, student: Student | None, taking: Taking | None) -> PractisedQuerySet:
        """What somebody has practised with: a student of the lists, else whoever has a place."""
        mine = Q(student=student) if student is not None else Q(taking=taking, student=None)
        return self.filter(mine, sitting=sitting)


class Fresh(models.Model):
    """A fresh draw of one question for one student, laid out for them."""

    candidate = models.ForeignKey(FormSetCandidate, on_delete=models.PROTECT, related_name="+")
    # as ``FrozenDraw`` has them, and whether all of its values had been had before
    draw = models.BigIntegerField()
    values = models.JSONField()
    orders = models.JSONField()
    texts = models.JSONField()
    repeats = models.BooleanField(default=False)
    # as ``StudentSheet`` has them
    shown = models.JSONField()
    readers = models.JSONField()
    hints = models.JSONField(default=dict)
    # what each part is worth, as text
    worth = models.JSONField()
    made = models.DateTimeField(default=timezone.now)

    class Meta:
        abstract = True

    @property
    def frozen_draw(self) -> FrozenDraw:
        return FrozenDraw(self.draw, self.values, self.orders, self.texts)


class Similar(Fresh):
    """A similar question that a student had instead of a missed one: it stands behind the questions of their form."""

    taking = models.ForeignKey(Taking, on_delete=models.CASCADE, related_name="similar")
    form = models.ForeignKey(Form, on_delete=models.PROTECT, related_name="+")
    # where its answers are, from 0; the question of the form that it stands for; and which one for it, from 1
    position = models.PositiveSmallIntegerField()
    place = models.PositiveSmallIntegerField()
    number = models.PositiveSmallIntegerField()
    section = models.CharField(max_length=120, blank=True)
    section_number = models.PositiveSmallIntegerField(default=0)

    class Meta:
        ordering = ["position"]
        constraints = [models.UniqueConstraint(fields=["taking", "form", "position"], name="one_similar_a_position")]

    def __str__(self) -> str:
        return f"Question {self.called}"

    @property
    def place_on_form(self) -> int:
        """The question of the form that it stands for, from 0."""
        return self.place

    @property
    def called(self) -> str:
        """Its number, as it stands before it."""
        return f"{self.place + 1} once more" if self.number == 1 else f"{self.place + 1} once more, {self.number}"


class Practised(Fresh):
    """A fresh draw of one question that somebody practises with, and what they gave for it.

    It is apart from all marks: no total, table or statistic reads it. What was laid out stays until the next one comes.
    """

    sitting = models.ForeignKey(Sitting, on_delete=models.CASCADE, related_name="practised")
    student = models.ForeignKey(Student, on_delete=models.CASCADE, null=True, related_name="practised")
    # of whoever is in no list
    taking = models.ForeignKey(Taking, on_delete=models.CASCADE, null=True, related_name="practised")
    answers = models.JSONField(default=dict)
    # how often it was checked, and the outcome of each part when it was last
    checks = models.PositiveSmallIntegerField(default=0)
    outcomes = models.JSONField(default=dict)
    right = models.BooleanField(default=False)
    # whether the key was shown: nothing is checked after it
    told = models.BooleanField(default=False)

    objects = PractisedQuerySet.as_manager()

    class Meta:
        ordering = ["-pk"]
        indexes = [models.Index(fields=["sitting", "student", "candidate", "-id"], name="practice_of_a_student")]

    def __str__(self) -> str:
        return f"Draw {self.draw} of {self.candidate_id} in {self.sitting_id}"
