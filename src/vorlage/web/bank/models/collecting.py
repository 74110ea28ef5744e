"""What people collect: the tray of each, and named pools."""

from __future__ import annotations

from django.db import models

from vorlage.web.people.models import Department, User

from .questions import Question, Revision


class Collected(models.Model):
    """A question in somebody's tray, which stays there across searches and sign-ins, with the draw that was seen."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="collected")
    department = models.ForeignKey(Department, on_delete=models.CASCADE, related_name="+")
    question = models.ForeignKey(Question, on_delete=models.CASCADE, related_name="+")
    # the revision whose draw was seen, and the number of the draw
    revision = models.ForeignKey(Revision, on_delete=models.CASCADE, related_name="+")
    draw = models.PositiveIntegerField(default=1)
    position = models.PositiveIntegerField()

    class Meta:
        ordering = ["position", "pk"]
        constraints = [
            models.UniqueConstraint(fields=["user", "department", "question"], name="once_in_a_tray"),
        ]

    def __str__(self) -> str:
        return f"{self.question} in the tray of {self.user}"


class Pool(models.Model):
    """Questions of which a test takes some, under a name."""

    department = models.ForeignKey(Department, on_delete=models.CASCADE, related_name="pools")
    owner = models.ForeignKey(User, on_delete=models.PROTECT, related_name="pools")
    name = models.CharField(max_length=120)
    note = models.CharField(max_length=500, blank=True)
    questions: models.ManyToManyField[Question, Pooled] = models.ManyToManyField(
        Question, through="Pooled", related_name="pools"
    )
    archived = models.DateTimeField(null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["name", "pk"]
        constraints = [models.UniqueConstraint(fields=["department", "name"], name="one_pool_a_name")]

    def __str__(self) -> str:
        return self.name


class Pooled(models.Model):
    """That a question is in a pool."""

    pool = models.ForeignKey(Pool, on_delete=models.CASCADE, related_name="pooled")
    question = models.ForeignKey(Question, on_delete=models.PROTECT, related_name="+")
    position = models.PositiveIntegerField()

    class Meta:
        ordering = ["position", "pk"]
        constraints = [models.UniqueConstraint(fields=["pool", "question"], name="once_in_a_pool")]

    def __str__(self) -> str:
        return f"{self.question_id} in {self.pool_id}"


class Done(models.Model):
    """What somebody did to many questions at once, in words and as what takes it back."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    department = models.ForeignKey(Department, on_delete=models.CASCADE, related_name="+")
    words = models.CharField(max_length=300)
    # of every question how it was before, as ``bulk`` has it
    before = models.JSONField()
    moment = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return self.words
