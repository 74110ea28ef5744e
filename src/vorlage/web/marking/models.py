"""What marking needs beside the marks themselves: groups as they were found, decisions about them, ready comments, who
holds which answer, and what is typed and not given yet."""

from __future__ import annotations

from django.db import models
from django.utils import timezone

from vorlage.web.bank.models import Question
from vorlage.web.files.models import Stored
from vorlage.web.forms.models import Form, FormSetCandidate
from vorlage.web.jobs.models import Job
from vorlage.web.people.models import User
from vorlage.web.sittings.models import Sitting, Taking

# The kind of job that puts the marked work of a class into one PDF.
RETURNING = "class-work"


class SentToAnEye(models.Model):
    """What a sitting's marks are sent to somebody's eye for, beside what nobody but a person can mark."""

    sitting = models.OneToOneField(Sitting, on_delete=models.CASCADE, related_name="sent_to_an_eye")
    # what could only be found to agree with the key, and not be proved
    agrees = models.BooleanField(default=False)
    # what is so near the key, in per cent of it, and still not within the tolerance
    near = models.PositiveSmallIntegerField(null=True)

    def __str__(self) -> str:
        return f"What is looked at in {self.sitting_id}"


class Grouped(models.Model):
    """The answers to one part of a question in a sitting, beside their keys and in their groups, as they were found;
    ``version`` says of which answers."""

    sitting = models.ForeignKey(Sitting, on_delete=models.CASCADE, related_name="grouped")
    candidate = models.ForeignKey(FormSetCandidate, on_delete=models.CASCADE, related_name="+")
    part = models.CharField(max_length=20)
    version = models.CharField(max_length=60)
    # as ``Column`` has them
    entries = models.JSONField()
    groups = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["sitting", "candidate", "part"], name="one_grouping_a_part")]

    def __str__(self) -> str:
        return f"{self.part} of {self.candidate_id} in {self.sitting_id}"


class Decision(models.Model):
    """A mark that was given to a group of answers; it holds for later ones in it where that is wished."""

    sitting = models.ForeignKey(Sitting, on_delete=models.CASCADE, related_name="decisions")
    candidate = models.ForeignKey(FormSetCandidate, on_delete=models.CASCADE, related_name="+")
    part = models.CharField(max_length=20)
    # which group, and what it is in words
    group = models.CharField(max_length=400)
    words = models.CharField(max_length=400, blank=True)
    # exactly, as text
    share = models.CharField(max_length=40)
    reason = models.CharField(max_length=300, blank=True)
    comment = models.CharField(max_length=1000, blank=True)
    # whether later answers get it as well, and whether it was taken back
    later = models.BooleanField(default=True)
    # until when it was looked for later answers
    looked = models.DateTimeField(default=timezone.now)
    undone = models.DateTimeField(null=True)
    by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.share} for {self.words or self.group}"


class ReadyComment(models.Model):
    """A comment that was given to an answer to a part, ready to be given again."""

    question = models.ForeignKey(Question, on_delete=models.CASCADE, related_name="+")
    part = models.CharField(max_length=20)
    text = models.CharField(max_length=1000)
    used = models.PositiveIntegerField(default=1)
    last = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-used", "-last"]
        constraints = [models.UniqueConstraint(fields=["question", "part", "text"], name="one_ready_comment")]

    def __str__(self) -> str:
        return self.text


class Holding(models.Model):
    """The answer that somebody has before them in a sitting, for others who mark it too."""

    sitting = models.ForeignKey(Sitting, on_delete=models.CASCADE, related_name="+")
    by = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    candidate = models.ForeignKey(FormSetCandidate, on_delete=models.CASCADE, related_name="+")
    part = models.CharField(max_length=20)
    # nobody where a whole group is held
    taking = models.ForeignKey(Taking, on_delete=models.CASCADE, null=True, related_name="+")
    group = models.CharField(max_length=400, blank=True)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["sitting", "by"], name="one_answer_a_marker")]

    def __str__(self) -> str:
        return f"{self.by} at {self.part}"


class Unsaved(models.Model):
    """What somebody has typed beside an answer and not given yet."""

    by = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    sitting = models.ForeignKey(Sitting, on_delete=models.CASCADE, related_name="+")
    candidate = models.ForeignKey(FormSetCandidate, on_delete=models.CASCADE, related_name="+")
    part = models.CharField(max_length=20)
    # the answer, or the group, by its name in the address
    at = models.CharField(max_length=400)
    # the fields of the form as they were typed
    typed = models.JSONField(default=dict)
    saved = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["by", "sitting", "candidate", "part", "at"], name="one_draft_an_answer")
        ]

    def __str__(self) -> str:
        return f"Typed by {self.by} at {self.at}"


class Change(models.Model):
    """A rule of a sitting that was changed after work was handed in: what it was and is, why, whose marks moved. It can
    be undone; nothing of it is ever deleted."""

    sitting = models.ForeignKey(Sitting, on_delete=models.CASCADE, related_name="changes")
    # in words
    words = models.CharField(max_length=300)
    reason = models.CharField(max_length=300)
    # what held before and since, of the sitting: what was changed of questions, how marks are counted, the rules
    before = models.JSONField()
    after = models.JSONField()
    # whose marks it moved: all, those who gain, or some
    whose = models.CharField(max_length=10)
    # the marks that were in force and those that took their place, by their numbers
    marks = models.JSONField(default=list)
    by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(default=timezone.now)
    undone = models.DateTimeField(null=True)
    undone_by = models.ForeignKey(User, on_delete=models.PROTECT, null=True, related_name="+")

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return self.words


class Keyed(models.Model):
    """What one person keyed in of a student's paper: the form, and the answers as they were typed, by question and
    part. Two may key the same paper; what holds are the answers of the sitting."""

    taking = models.ForeignKey(Taking, on_delete=models.CASCADE, related_name="keyed")
    by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    form = models.ForeignKey(Form, on_delete=models.PROTECT, related_name="+")
    answers = models.JSONField()
    at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["taking", "by"], name="keyed_once_by_each")]

    def __str__(self) -> str:
        return f"{self.taking_id} keyed by {self.by}"


class SecondMarking(models.Model):
    """A second marking of answers to a part: which of them, with or without sight of the first marks, and from which
    difference on it has to be settled."""

    class Choice(models.TextChoices):
        ALL = "all", "all answers"
        NTH = "nth", "every third answer"
        TENTH = "tenth", "a random tenth"
        NEAR = "near", "those near a boundary"

    sitting = models.ForeignKey(Sitting, on_delete=models.CASCADE, related_name="second_markings")
    candidate = models.ForeignKey(FormSetCandidate, on_delete=models.CASCADE, related_name="+")
    part = models.CharField(max_length=20)
    who = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    choice = models.CharField(max_length=10, choices=Choice, default=Choice.ALL)
    # the answers that were chosen, by attempt and question; none of them where all are
    chosen = models.JSONField(null=True)
    sight = models.BooleanField(default=False)
    # differences above so many marks are settled
    allowed = models.DecimalField(max_digits=5, decimal_places=2, default=0)
    by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint(fields=["sitting", "candidate", "part", "who"], name="one_second_marking_a_marker")
        ]

    def __str__(self) -> str:
        return f"{self.who} marks {self.part} of {self.candidate_id} a second time"


class ClassWork(models.Model):
    """The marked work of a whole class as one PDF, in class order: as it was when it was last asked for."""

    sitting = models.OneToOneField(Sitting, on_delete=models.CASCADE, related_name="class_work")
    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="+")
    file = models.ForeignKey(Stored, on_delete=models.PROTECT, null=True, related_name="+")
    # the newest mark that is in it
    upto = models.BigIntegerField(default=0)
    at = models.DateTimeField(default=timezone.now)

    def __str__(self) -> str:
        return f"The marked work of {self.sitting_id}"


class SecondMark(models.Model):
    """What somebody gives an answer in a second marking; it holds for nothing before it is settled. The last one of an
    answer is theirs."""

    marking = models.ForeignKey(SecondMarking, on_delete=models.CASCADE, related_name="marks")
    taking = models.ForeignKey(Taking, on_delete=models.CASCADE, related_name="+")
    position = models.PositiveSmallIntegerField()
    # exactly, as text
    marks = models.CharField(max_length=40)
    comment = models.CharField(max_length=1000, blank=True)
    # whether a third decision settled the difference
    settled = models.DateTimeField(null=True)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.marks} by {self.marking.who_id}"
