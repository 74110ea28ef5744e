"""What came out when questions were proved again."""

from __future__ import annotations

from django.contrib.postgres.fields import ArrayField
from django.db import models

from .questions import Question, Revision


class Proved(models.Model):
    """The latest proof of a question: of which revision, when, what is wrong, and the prints of its draws then."""

    question = models.OneToOneField(Question, on_delete=models.CASCADE, primary_key=True, related_name="proved")
    revision = models.ForeignKey(Revision, on_delete=models.CASCADE, related_name="+")
    moment = models.DateTimeField(auto_now=True)
    faults = ArrayField(models.TextField(), default=list)
    prints = ArrayField(models.CharField(max_length=16), default=list)

    class Meta:
        indexes = [models.Index(fields=["question"], condition=~models.Q(faults=[]), name="proved_wrong")]

    def __str__(self) -> str:
        return f"Proof of {self.revision}"
