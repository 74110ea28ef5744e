"""What is shown large to a class, and what phones gave to it."""

from __future__ import annotations

from django.db import models
from django.utils import timezone

from vorlage.web.people.models import Department, User


class Wall(models.Model):
    """A test, or one question, that somebody shows large to a class: which question with which numbers, and what of it
    is shown."""

    department = models.ForeignKey(Department, on_delete=models.CASCADE, related_name="+")
    by = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    title = models.CharField(max_length=200)
    # the revisions of its questions, in their order
    revisions = models.JSONField()
    code = models.CharField(max_length=8, unique=True, null=True)
    begun = models.DateTimeField(default=timezone.now)
    # the question that is shown, from 0, and how many draws have been shown
    position = models.PositiveSmallIntegerField(default=0)
    turn = models.PositiveIntegerField(default=0)
    # as ``FrozenDraw`` and ``StudentSheet`` have them; no key is among it
    draw = models.JSONField(default=dict)
    shown = models.JSONField(default=dict)
    readers = models.JSONField(default=dict)
    # the values that were shown of each revision, as ``values_text`` has them
    had = models.JSONField(default=dict)
    # what is shown now
    answer = models.BooleanField(default=False)
    solution = models.BooleanField(default=False)
    uncovered = models.BooleanField(default=False)
    # until when they have
    until = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-begun", "-pk"]

    def __str__(self) -> str:
        return f"{self.title} on the wall"


class WallAnswer(models.Model):
    """What a phone gave to the question on a wall; of one turn that one phone gave it can be told, and nothing more."""

    wall = models.ForeignKey(Wall, on_delete=models.CASCADE, related_name="answers")
    turn = models.PositiveIntegerField()
    part = models.CharField(max_length=20)
    response = models.JSONField(null=True)
    # another one in every turn
    phone = models.CharField(max_length=64)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["wall", "turn", "phone", "part"], name="one_answer_a_phone_and_turn")
        ]

    def __str__(self) -> str:
        return f"An answer to turn {self.turn} of {self.wall}"
