"""Tests and the form sets made from them."""

from __future__ import annotations

import secrets
from functools import cached_property

from django.db import models, transaction
from django.db.models import Count, Max, Prefetch, Sum

from vorlage.core.documents import Heading, Printing
from vorlage.core.forms import FormSet as FrozenForms
from vorlage.core.forms import Place, Plan
from vorlage.web.accounts.models import Department, Membership, User
from vorlage.web.questions.models import Picture, Question, Revision


class TestQuerySet(models.QuerySet["Test"]):
    def of(self, membership: Membership) -> TestQuerySet:
        """The tests of the department that a member works in."""
        return self.filter(department=membership.department_id)

    def named(self, text: str) -> TestQuerySet:
        """Tests whose title holds the text."""
        return self.filter(title__icontains=text)

    def with_totals(self) -> TestQuerySet:
        """With the number of places and the marks."""
        return self.annotate(
            place_count=Count("places"), total_marks=Sum("places__revision__question__marks", default=0)
        )

    def with_form_sets(self) -> TestQuerySet:
        """With their form sets, without what is in them."""
        return self.prefetch_related(Prefetch("form_sets", FormSet.objects.defer("forms")))


class Test(models.Model):
    """A plan: which questions, in which order."""

    department = models.ForeignKey(Department, on_delete=models.PROTECT, related_name="tests")
    title = models.CharField(max_length=200)
    instructions = models.CharField(max_length=500, blank=True)
    author = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    created = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True)

    objects = TestQuerySet.as_manager()

    class Meta:
        ordering = ["-changed", "-pk"]

    def __str__(self) -> str:
        return self.title

    def ordered(self) -> list[TestPlace]:
        """The places in order, with their questions."""
        return list(self.places.select_related("revision__question").order_by("position"))

    def touch(self) -> None:
        """Hold the plan for this transaction and note that it changes now: a later change has a later moment."""
        Test.objects.select_for_update().get(pk=self.pk)
        self.save(update_fields=["changed"])

    @transaction.atomic
    def add(self, question: Question) -> TestPlace:
        """Put a question, as it now stands, at the end."""
        self.touch()
        last = self.places.aggregate(last=Max("position"))["last"]
        return self.places.create(position=0 if last is None else last + 1, revision=question.current)

    @transaction.atomic
    def take_out(self, place: TestPlace) -> None:
        self.touch()
        place.delete()

    @transaction.atomic
    def renew(self, place: TestPlace) -> None:
        """Take the latest revision of the question in this place."""
        self.touch()
        self.places.filter(pk=place.pk).update(revision=place.revision.question.current)

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

    class Meta:
        ordering = ["test", "position"]

    def __str__(self) -> str:
        return f"{self.position + 1} {self.revision}"

    @property
    def outdated(self) -> bool:
        """Whether the question has been revised since it was put here."""
        return self.revision.number < self.revision.question.latest


class FormSetQuerySet(models.QuerySet["FormSet"]):
    def of(self, membership: Membership) -> FormSetQuerySet:
        """The form sets of the department that a member works in."""
        return self.filter(test__department=membership.department_id)


class FormSet(models.Model):
    """All forms made together. Once frozen it never changes; it holds all that is needed to print it again."""

    class State(models.TextChoices):
        WAITING = "waiting", "Waiting to be made"
        MAKING = "making", "Being made"
        FROZEN = "frozen", "Frozen"
        FAILED = "failed", "Not made"
        CANCELLED = "cancelled", "Cancelled"

    test = models.ForeignKey(Test, on_delete=models.PROTECT, related_name="form_sets")
    number = models.PositiveIntegerField()
    title = models.CharField(max_length=200)
    instructions = models.CharField(max_length=500, blank=True)
    count = models.PositiveIntegerField()
    seed = models.CharField(max_length=80, default=secrets.token_hex, editable=False)
    state = models.CharField(max_length=10, choices=State, default=State.WAITING)
    made = models.PositiveIntegerField(default=0)
    # what was being done, for the progress bar: the forms, or the printing of them
    step = models.CharField(max_length=60, blank=True)
    failure = models.TextField(blank=True)
    forms = models.JSONField(default=list)
    repeats = models.JSONField(default=list)
    author = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    created = models.DateTimeField(auto_now_add=True)
    frozen = models.DateTimeField(null=True)

    objects = FormSetQuerySet.as_manager()

    class Meta:
        ordering = ["-created", "-pk"]
        constraints = [models.UniqueConstraint(fields=["test", "number"], name="one_form_set_a_number")]

    def __str__(self) -> str:
        return f"{self.title}, set {self.number}"

    @staticmethod
    @transaction.atomic
    def order(test: Test, count: int, author: User) -> FormSet:
        """A form set that is to be made from the test as it now stands."""
        Test.objects.select_for_update().get(pk=test.pk)
        last = test.form_sets.aggregate(last=Max("number"))["last"] or 0
        form_set = FormSet.objects.create(
            test=test, number=last + 1, title=test.title, instructions=test.instructions, count=count, author=author
        )
        FormSetPlace.objects.bulk_create(
            FormSetPlace(form_set=form_set, position=number, revision=place.revision)
            for number, place in enumerate(test.ordered())
        )
        return form_set

    def note_progress(self, made: int, step: str) -> bool:
        """Keep how far the work is; False when it has been cancelled meanwhile."""
        return bool(FormSet.objects.filter(pk=self.pk, state=self.State.MAKING).update(made=made, step=step))

    @cached_property
    def ordered(self) -> list[FormSetPlace]:
        return list(self.places.select_related("revision__question").order_by("position"))

    @property
    def plan(self) -> Plan:
        """The places with the revisions that were frozen."""
        places = [
            Place(place.revision.compiled, str(place.revision.question.key), place.revision.number)
            for place in self.ordered
        ]
        return Plan(self.title, places, self.instructions)

    @property
    def printing(self) -> Printing:
        heading = Heading(self.title, str(self.test.department), self.instructions)
        return Printing(self.plan, heading, self.uploaded)

    def uploaded(self, digest: str) -> bytes:
        """The content of a picture of this department."""
        return bytes(Picture.objects.get(department=self.test.department_id, digest=digest).content)

    @property
    def frozen_forms(self) -> FrozenForms:
        """The forms with their keys, from the frozen record."""
        return FrozenForms.from_json(self.forms)


class FormSetPlace(models.Model):
    """The revision that stood at one position when the set was made."""

    form_set = models.ForeignKey(FormSet, on_delete=models.CASCADE, related_name="places")
    position = models.PositiveIntegerField()
    revision = models.ForeignKey(Revision, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["form_set", "position"]
        constraints = [models.UniqueConstraint(fields=["form_set", "position"], name="one_revision_a_position")]

    def __str__(self) -> str:
        return f"{self.position + 1} {self.revision}"


class Print(models.Model):
    """A finished file of a form set."""

    class Kind(models.TextChoices):
        PAPERS = "papers", "All papers"
        KEY = "key", "Key"
        ARCHIVE = "archive", "Archive"

    form_set = models.ForeignKey(FormSet, on_delete=models.CASCADE, related_name="prints")
    kind = models.CharField(max_length=10, choices=Kind)
    content = models.BinaryField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["form_set", "kind"], name="one_print_a_kind")]

    def __str__(self) -> str:
        return f"{self.get_kind_display()} of {self.form_set}"
