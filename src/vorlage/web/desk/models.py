"""What somebody is writing: drafts, and how they end."""

from __future__ import annotations

import uuid
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import timedelta

from django.db import connection, models, transaction
from django.utils import timezone

from vorlage.web.bank.models import Question, Revision
from vorlage.web.people.models import Department, User


@dataclass(frozen=True)
class Stroke:
    """How far a desk has been written: the page in the browser, and the number of what it sent, counted there.

    A page has another identity whenever it is loaded. The network may bring what it sends in any order.
    """

    leaf: str
    number: int


@contextmanager
def desk_held(key: uuid.UUID) -> Iterator[None]:
    """A transaction in which nobody else keeps a draft of this question or saves it; it need not exist yet."""
    with transaction.atomic():
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_advisory_xact_lock(%s)", [int.from_bytes(key.bytes[:8], signed=True)])
        yield


class Draft(models.Model):
    """What somebody has typed on one page of a desk and not yet kept as a revision. Each window has its own; they are
    brought together when the desk is opened anew."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    department = models.ForeignKey(Department, on_delete=models.CASCADE, related_name="+")
    question = models.ForeignKey(Question, on_delete=models.CASCADE, null=True, related_name="drafts")
    # the identity under which the draws are made
    key = models.UUIDField()
    # the revision that was changed
    base = models.PositiveIntegerField(default=0)
    title = models.CharField(max_length=200, blank=True)
    # the fields of the desk as they stand
    fields = models.JSONField()
    # the fields of the drafts with which the page was opened, by the pages on which they were written
    begun = models.JSONField(default=dict)
    changed = models.DateTimeField(auto_now=True)
    # the page that it was written on, and how far
    leaf = models.CharField(max_length=16, blank=True)
    stroke = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ["-changed"]
        constraints = [models.UniqueConstraint(fields=["user", "key", "leaf"], name="one_draft_of_a_page")]

    def __str__(self) -> str:
        return f"Draft of {self.title or 'a new question'}"


# What was sent before a draft was ended arrives within this time, or never.
LATE = timedelta(days=1)


class Ending(models.Model):
    """How the draft of a desk ended: saved as a revision, or put away. What was sent before does not bring it back."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    key = models.UUIDField()
    leaf = models.CharField(max_length=16)
    stroke = models.PositiveIntegerField()
    # what was saved; null when the draft was put away
    revision = models.ForeignKey(Revision, on_delete=models.CASCADE, null=True, related_name="+")
    when = models.DateTimeField(auto_now_add=True)

    class Meta:
        indexes = [models.Index(fields=["user", "key", "leaf"], name="endings_of_a_desk")]

    def __str__(self) -> str:
        return f"End of {self.leaf} at {self.stroke}"

    @classmethod
    def note(
        cls,
        user: User,
        key: uuid.UUID,
        stroke: Stroke,
        revision: Revision | None = None,
        covered: Sequence[int] = (),
    ) -> None:
        """End the draft of a page and the drafts with which it was opened; within ``desk_held``. What is typed in other
        windows stays."""
        ended = Draft.objects.filter(models.Q(leaf=stroke.leaf) | models.Q(pk__in=covered), user=user, key=key)
        strokes = {draft.leaf: draft.stroke for draft in ended if draft.leaf}
        ended.delete()
        cls.objects.filter(user=user, when__lt=timezone.now() - LATE).delete()
        # the page that ends them may have sent more than was kept of it
        strokes.pop(stroke.leaf, None)
        for leaf, number in strokes.items():
            cls.objects.create(user=user, key=key, leaf=leaf, stroke=number)
        if stroke.leaf:
            cls.objects.create(user=user, key=key, leaf=stroke.leaf, stroke=stroke.number, revision=revision)

    @classmethod
    def of(cls, user: User, key: uuid.UUID, stroke: Stroke) -> Ending | None:
        """What ended this page after this stroke was sent, or with it."""
        if not stroke.leaf:
            return None
        found = cls.objects.filter(user=user, key=key, leaf=stroke.leaf, stroke__gte=stroke.number)
        return found.select_related("revision").order_by("stroke").first()

    @classmethod
    def saved_number(cls, user: User, key: uuid.UUID, leaf: str) -> int:
        """The newest revision that was saved from this page; 0 if none was."""
        saved = cls.objects.filter(user=user, key=key, leaf=leaf, revision__isnull=False)
        return saved.aggregate(newest=models.Max("revision__number"))["newest"] or 0
