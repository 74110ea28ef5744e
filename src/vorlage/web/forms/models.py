"""Form sets: forms made together from a test, and all that was frozen of them."""

from __future__ import annotations

import secrets
from dataclasses import asdict

from django.db import models, transaction
from django.db.models import Max

from vorlage.core.documents import page_picture
from vorlage.core.questions import FrozenDraw
from vorlage.web.bank.models import MarksField, Revision
from vorlage.web.files.models import Stored
from vorlage.web.jobs.models import Job
from vorlage.web.people.models import Membership, User
from vorlage.web.plans.models import Test


class FormSetQuerySet(models.QuerySet["FormSet"]):
    def of(self, membership: Membership) -> FormSetQuerySet:
        """The form sets of the department that a member works in."""
        return self.filter(test__department=membership.department_id)


class FormSet(models.Model):
    """All forms made together. Once frozen it never changes: its forms, what was drawn for them, their keys and the
    files that were made are kept, and nothing of it is ever worked out again."""

    test = models.ForeignKey(Test, on_delete=models.PROTECT, related_name="form_sets")
    number = models.PositiveIntegerField()
    title = models.CharField(max_length=200)
    instructions = models.CharField(max_length=500, blank=True)
    count = models.PositiveIntegerField()
    # how numbers were written in the department when it was ordered, as ``Habits`` has them
    habits = models.JSONField(default=dict)
    seed = models.CharField(max_length=80, default=secrets.token_hex, editable=False)
    # the work of making it
    job = models.OneToOneField(Job, on_delete=models.PROTECT, null=True, related_name="form_set")
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
        """A form set that is to be made from the test as it now stands; a worker makes it."""
        Test.objects.select_for_update().get(pk=test.pk)
        last = test.form_sets.aggregate(last=Max("number"))["last"] or 0
        form_set = FormSet.objects.create(
            test=test,
            number=last + 1,
            title=test.title,
            instructions=test.instructions,
            count=count,
            author=author,
            habits=asdict(test.department.habits),
        )
        FormSetPlace.objects.bulk_create(
            FormSetPlace(
                form_set=form_set,
                position=number,
                revision=place.revision,
                marks=place.revision.marks,
                first_draw=place.draw,
            )
            for number, place in enumerate(test.ordered())
        )
        form_set.job = Job.order(MAKING, author, count, form_set=form_set.pk)
        form_set.save(update_fields=["job"])
        return form_set

    @property
    def work(self) -> Job:
        """The work of making it, of a set that has been ordered."""
        if self.job is None:
            raise ValueError("This form set is not ordered yet.")
        return self.job

    @property
    def state_words(self) -> str:
        """How far it is, in words."""
        return "Frozen" if self.frozen else Job.State(self.job.state).label if self.job else ""

    @property
    def ordered(self) -> list[FormSetPlace]:
        return list(self.places.select_related("revision__question").order_by("position"))

    def uploaded(self, digest: str) -> bytes:
        """The content of a picture that one of its questions shows, which may be another department's."""
        return Stored.objects.get(pk=digest).read()


# The kind of job that makes a form set.
MAKING = "form set"


class FormSetPlace(models.Model):
    """The revision that stood at one position when the set was made, and what it is worth there."""

    form_set = models.ForeignKey(FormSet, on_delete=models.CASCADE, related_name="places")
    position = models.PositiveIntegerField()
    revision = models.ForeignKey(Revision, on_delete=models.PROTECT, related_name="+")
    marks = MarksField()
    # the draw that the first form has, where one was taken along into the test
    first_draw = models.PositiveIntegerField(null=True)
    # whether the question had fewer different draws than there are forms
    repeats = models.BooleanField(default=False)
    # of how many of its parts two forms share the answer
    shared = models.PositiveSmallIntegerField(default=0)

    class Meta:
        ordering = ["form_set", "position"]
        constraints = [models.UniqueConstraint(fields=["form_set", "position"], name="one_revision_a_position")]

    def __str__(self) -> str:
        return f"{self.position + 1} {self.revision}"


class Form(models.Model):
    """One form of a set, and its paper as it was made."""

    form_set = models.ForeignKey(FormSet, on_delete=models.CASCADE, related_name="forms")
    position = models.PositiveIntegerField()
    code = models.CharField(max_length=8)
    paper = models.ForeignKey(Stored, on_delete=models.PROTECT, related_name="+")
    pages = models.PositiveSmallIntegerField()

    class Meta:
        ordering = ["form_set", "position"]
        constraints = [
            models.UniqueConstraint(fields=["form_set", "position"], name="one_form_a_position"),
            models.UniqueConstraint(fields=["form_set", "code"], name="one_form_a_code"),
        ]

    def __str__(self) -> str:
        return f"Form {self.code} of {self.form_set}"


class FormItem(models.Model):
    """What was drawn for one place of a form: all that is needed to show the question again, and no key."""

    form = models.ForeignKey(Form, on_delete=models.CASCADE, related_name="items")
    place = models.ForeignKey(FormSetPlace, on_delete=models.CASCADE, related_name="items")
    draw = models.BigIntegerField()
    # as ``FrozenDraw`` has them
    values = models.JSONField()
    orders = models.JSONField()
    texts = models.JSONField()

    class Meta:
        ordering = ["form", "place"]
        constraints = [models.UniqueConstraint(fields=["form", "place"], name="one_item_a_place")]

    def __str__(self) -> str:
        return f"{self.place} in {self.form}"

    @property
    def frozen_draw(self) -> FrozenDraw:
        return FrozenDraw(self.draw, self.values, self.orders, self.texts)


class ItemKey(models.Model):
    """The proved keys of an item, apart from it: nothing that a student's page reads leads here."""

    item = models.OneToOneField(FormItem, on_delete=models.CASCADE, primary_key=True, related_name="+")
    # of every part: as ``KeyEntry`` has them, the key as markup, and whether another form of the set has it there too
    parts = models.JSONField()

    def __str__(self) -> str:
        return f"Key of {self.item_id}"


class Page(models.Model):
    """A page of the paper of a form as a picture, made when it is first looked at."""

    form = models.ForeignKey(Form, on_delete=models.CASCADE, related_name="pictures")
    number = models.PositiveSmallIntegerField()
    picture = models.ForeignKey(Stored, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["form", "number"], name="one_picture_a_page")]

    def __str__(self) -> str:
        return f"Page {self.number} of {self.form}"

    @classmethod
    def of(cls, form: Form, number: int) -> Page:
        """A page of a form, from 1 to as many as it has."""
        found = cls.objects.select_related("picture").filter(form=form, number=number).first()
        if found is not None:
            return found
        picture = Stored.keep(page_picture(form.paper.read(), number))
        # who looks at it at the same moment makes the same picture
        return cls.objects.get_or_create(form=form, number=number, defaults={"picture": picture})[0]


class Print(models.Model):
    """A finished file of a form set."""

    class Kind(models.TextChoices):
        PAPERS = "papers", "All papers"
        KEY = "key", "Key"
        ARCHIVE = "archive", "Archive"

    form_set = models.ForeignKey(FormSet, on_delete=models.CASCADE, related_name="prints")
    kind = models.CharField(max_length=10, choices=Kind)
    file = models.ForeignKey(Stored, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["form_set", "kind"], name="one_print_a_kind")]

    def __str__(self) -> str:
        return f"{self.get_kind_display()} of {self.form_set}"
