"""Files of questions on their way in, and on their way out."""

from __future__ import annotations

from django.contrib.postgres.fields import ArrayField
from django.db import models

from vorlage.web.bank.models import Question
from vorlage.web.files.models import Stored
from vorlage.web.jobs.models import Job
from vorlage.web.people.models import Department, User

# The kinds of job that read a file, keep what was chosen of it, and write one.
READING, TAKING, WRITING = "intake-read", "intake-take", "outgoing"


class Intake(models.Model):
    """A file of question documents that somebody brought: what is in it is looked at, and then taken or not."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    department = models.ForeignKey(Department, on_delete=models.CASCADE, related_name="+")
    # what it is called, and what is in it; nothing once it was taken or put away
    name = models.CharField(max_length=200)
    file = models.ForeignKey(Stored, on_delete=models.SET_NULL, null=True, related_name="+")
    # what is being done with it, or was done last
    job = models.ForeignKey(Job, on_delete=models.SET_NULL, null=True, related_name="+")
    # the topics under which all of it is filed; empty where each stays under its own
    topics = models.CharField(max_length=300, blank=True)
    # rubrics that it holds, by their names
    rubrics = models.JSONField(default=dict)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return self.name

    @property
    def stage(self) -> str:
        """How far it is: ``working``, ``read``, ``taken``, ``stopped`` or ``failed``."""
        if self.job is None or self.job.state == Job.State.CANCELLED:
            return "stopped"
        if self.job.open:
            return "working"
        if self.job.state == Job.State.FAILED:
            return "failed"
        return "read" if self.job.kind == READING else "taken"

    def put_away(self) -> None:
        """Forget it, with the content of its file unless something else is the same."""
        file = self.file
        self.delete()
        drop(file)


def drop(file: Stored | None) -> None:
    """Delete the content of a file that nothing refers to any more."""
    if file is not None and not Intake.objects.filter(file=file).exists() and not Outgoing.objects.filter(file=file):
        try:
            file.delete()
        except models.ProtectedError:
            # a picture, or a print, that happens to be the same
            return


class Brought(models.Model):
    """A question in a file that was brought: what it is, how it stands to the bank, and what becomes of it."""

    class State(models.TextChoices):
        NEW = "new", "new"
        SAME = "same", "here already"
        CHANGED = "changed", "here, and otherwise"
        REFUSED = "refused", "cannot be taken"

    class Becomes(models.TextChoices):
        NOTHING = "nothing", "is left out"
        QUESTION = "question", "becomes a question"
        REVISION = "revision", "becomes a new revision"
        COPY = "copy", "becomes a copy"

    intake = models.ForeignKey(Intake, on_delete=models.CASCADE, related_name="brought")
    number = models.PositiveIntegerField()
    # what it is called in the file, and its title
    name = models.CharField(max_length=300)
    title = models.CharField(max_length=200, blank=True)
    state = models.CharField(max_length=10, choices=State)
    becomes = models.CharField(max_length=10, choices=Becomes)
    # why it cannot be taken
    reasons = models.JSONField(default=list)
    # the question of the department that it is
    question = models.ForeignKey(Question, on_delete=models.SET_NULL, null=True, related_name="+")
    # the identity that it has in the file
    identity = models.UUIDField(null=True)
    # as it was judged: its document and filing, under which identity and number, and what is kept with a revision
    document = models.JSONField(null=True)
    filing = models.JSONField(default=dict)
    key = models.UUIDField(null=True)
    revision = models.PositiveIntegerField(default=1)
    facts = models.JSONField(default=dict)
    prints = ArrayField(models.CharField(max_length=16), default=list)
    # its pictures: the hash of each in the file and in the bank
    pictures = models.JSONField(default=list)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["intake", "number"], name="one_brought_a_number")]

    def __str__(self) -> str:
        return self.title or self.name

    @property
    def choices(self) -> list[tuple[str, str]]:
        """What can become of it."""
        able = {
            self.State.NEW: [self.Becomes.QUESTION],
            self.State.SAME: [self.Becomes.COPY],
            self.State.CHANGED: [self.Becomes.REVISION, self.Becomes.COPY],
            self.State.REFUSED: [],
        }[self.State(self.state)]
        return [(each.value, str(each.label)) for each in [self.Becomes.NOTHING, *able]]


class Outgoing(models.Model):
    """Questions that leave as a file."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    department = models.ForeignKey(Department, on_delete=models.CASCADE, related_name="+")
    job = models.ForeignKey(Job, on_delete=models.SET_NULL, null=True, related_name="+")
    # ``archive`` or ``text``
    way = models.CharField(max_length=10)
    questions = ArrayField(models.BigIntegerField())
    file = models.ForeignKey(Stored, on_delete=models.SET_NULL, null=True, related_name="+")
    # what could not be said, in words
    report = models.JSONField(default=list)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{len(self.questions)} questions of {self.department}"
