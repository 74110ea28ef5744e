"""Tests: which questions, in which order."""

from __future__ import annotations

from collections.abc import Iterable

from django.db import models, transaction
from django.db.models import Count, Max, OuterRef, Subquery, Sum
from django.db.models.functions import Coalesce

from vorlage.web.bank.models import Found, Question, Revision
from vorlage.web.people.models import Department, Membership, User


class TestQuerySet(models.QuerySet["Test"]):
    def of(self, membership: Membership) -> TestQuerySet:
        """The tests of the department that a member works in."""
        return self.filter(department=membership.department_id)

    def in_use(self) -> TestQuerySet:
        """Without those that were put into the archive."""
        return self.filter(archived=None)

    def named(self, text: str) -> TestQuerySet:
        """Tests whose title holds the text."""
        return self.filter(title__icontains=text)

    def with_totals(self) -> TestQuerySet:
        """With the number of places and the marks."""
        return self.annotate(place_count=Count("places"), total_marks=Sum("places__revision__marks", default=0))


class Test(models.Model):
    """A plan: which questions, in which order."""

    department = models.ForeignKey(Department, on_delete=models.PROTECT, related_name="tests")
    title = models.CharField(max_length=200)
    instructions = models.CharField(max_length=500, blank=True)
    author = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    # out of the way and still there; when it was put there
    archived = models.DateTimeField(null=True)
    created = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True)

    objects = TestQuerySet.as_manager()

    class Meta:
        ordering = ["-changed", "-pk"]

    def __str__(self) -> str:
        return self.title

    def ordered(self) -> list[TestPlace]:
        """The places in order, with what their revisions are called and worth, and where their questions are."""
        with_questions = self.places.select_related("revision__question__current")
        unread = ["revision__document", "revision__sheet", "revision__question__note"]
        unread += ["revision__question__current__document", "revision__question__current__sheet"]
        return list(with_questions.defer(*unread).order_by("position"))

    def touch(self) -> None:
        """Hold the plan for this transaction and note that it changes now: a later change has a later moment."""
        Test.objects.select_for_update().get(pk=self.pk)
        self.save(update_fields=["changed"])

    @transaction.atomic
    def add(self, question: Question, draw: int | None = None) -> TestPlace:
        """Put a question, as it now stands, at the end; ``draw`` is the one that was seen and taken along."""
        self.touch()
        last = self.places.aggregate(last=Max("position"))["last"]
        place = self.places.create(position=0 if last is None else last + 1, revision=question.newest, draw=draw)
        count_uses([question.pk])
        return place

    @transaction.atomic
    def take_out(self, place: TestPlace) -> None:
        self.touch()
        place.delete()
        count_uses([place.revision.question_id])

    @transaction.atomic
    def renew(self, place: TestPlace) -> None:
        """Take the latest revision of the question in this place."""
        self.touch()
        self.places.filter(pk=place.pk).update(revision=place.revision.question.current, draw=None)

    @transaction.atomic
    def move(self, place: TestPlace, by: int) -> None:
        """Move a place down by so many lines, up when negative, as far as there are lines."""
        self.touch()
        order = list(self.places.values_list("pk", flat=True))
        if place.pk not in order:
            # somebody has taken it out meanwhile
            return
        at = order.index(place.pk)
        to = max(0, min(len(order) - 1, at + by))
        order.insert(to, order.pop(at))
        self.set_order(order)

    @transaction.atomic
    def arrange(self, order: list[int]) -> None:
        """Put the places in this order of their ids; ids that are not ours are ignored, new ones stay at the end."""
        self.touch()
        known = list(self.places.values_list("pk", flat=True))
        wanted = [pk for pk in dict.fromkeys(order) if pk in known]
        self.set_order(wanted + [pk for pk in known if pk not in wanted])

    def set_order(self, order: list[int]) -> None:
        places = {place.pk: place for place in self.places.all()}
        for position, pk in enumerate(order):
            places[pk].position = position
        TestPlace.objects.bulk_update(places.values(), ["position"])


class TestPlace(models.Model):
    """One position of a test: a revision of a question."""

    test = models.ForeignKey(Test, on_delete=models.CASCADE, related_name="places")
    position = models.PositiveIntegerField()
    revision = models.ForeignKey(Revision, on_delete=models.PROTECT, related_name="places")
    # the draw of this revision that was seen when it was collected, which the first form has
    draw = models.PositiveIntegerField(null=True)

    class Meta:
        ordering = ["test", "position"]

    def __str__(self) -> str:
        return f"{self.position + 1} {self.revision}"

    @property
    def outdated(self) -> bool:
        """Whether the question has been revised since it was put here."""
        return self.revision_id != self.revision.question.current_id


def count_uses(questions: Iterable[int]) -> None:
    """Note with these questions how many tests have each."""
    tests = (
        TestPlace.objects.filter(revision__question=OuterRef("pk"))
        .order_by()
        .values("revision__question")
        .annotate(count=Count("test", distinct=True))
    )
    counted = Coalesce(Subquery(tests.values("count")), 0)
    Found.objects.filter(pk__in=list(questions)).update(uses=counted)
