"""Form sets: forms made together from a test, and all that was frozen of them."""

from __future__ import annotations

import secrets
from collections.abc import Iterable
from dataclasses import asdict
from fractions import Fraction
from typing import Any

from django.db import models, transaction
from django.db.models import Max, Prefetch

from vorlage.core.documents import page_picture
from vorlage.core.questions import FrozenDraw
from vorlage.web.bank.models import MarksField, Revision
from vorlage.web.files.models import Stored
from vorlage.web.jobs.models import Job
from vorlage.web.people.models import Membership, User
from vorlage.web.plans.models import SchoolMark, Test


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
    # what the marks are scaled to when they are added up
    maximum = MarksField(null=True)
    # whether options stood as they were written, and on paper beside each other
    in_order = models.BooleanField(default=False)
    across = models.BooleanField(default=False)
    # how its papers look, as ``Look`` has it
    look = models.JSONField(default=dict)
    # from which total on a grade is given, as ``Boundaries`` has it
    boundaries = models.JSONField(default=dict)
    # the mark of the school at their head
    mark = models.ForeignKey(SchoolMark, on_delete=models.PROTECT, null=True, related_name="+")
    # how numbers were written in the department when it was ordered, as ``Habits`` has them
    habits = models.JSONField(default=dict)
    seed = models.CharField(max_length=80, default=secrets.token_hex, editable=False)
    # the set that it was made from in place of the plan, and in words what is different
    source = models.ForeignKey("self", on_delete=models.PROTECT, null=True, related_name="followers")
    reason = models.CharField(max_length=300, blank=True)
    # what has to stay, and what must not come again, as ``Basis`` has it
    basis = models.JSONField(default=dict)
    # how even its forms are, as ``Evenness`` has it but for what stands with each form
    evenness = models.JSONField(default=dict)
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
        settings = {name: getattr(test, name) for name in SETTINGS if name != "title"}
        settings["mark"] = test.mark
        made = FormSet.begun(test, count, author, **settings)
        made.take_inserts(test.inserts.all())
        sections: dict[int, FormSetSection] = {}
        for number, held in enumerate(test.ordered()):
            section = held.section
            if section.pk not in sections:
                said = {name: getattr(section, name) for name in SAID_OF_A_SECTION}
                sections[section.pk] = FormSetSection.objects.create(form_set=made, position=len(sections), **said)
            place = FormSetPlace.objects.create(
                form_set=made,
                section=sections[section.pk],
                position=number,
                take=held.place.take,
                name=held.place.name if held.place.pool else "",
                **{name: getattr(held.place, name) for name in SAID_OF_A_PLACE},
            )
            FormSetCandidate.objects.bulk_create(
                FormSetCandidate(place=place, position=k, revision_id=each.revision_id, first_draw=each.draw)
                for k, each in enumerate(held.candidates)
            )
        return made.queued()

    def take_inserts(self, inserts: Iterable[Any]) -> None:
        """Keep these inserts, of a test or of another set, as they are now."""
        FormSetInsert.objects.bulk_create(
            FormSetInsert(form_set=self, **{name: getattr(each, name) for name in OF_AN_INSERT}) for each in inserts
        )

    @staticmethod
    def begun(test: Test, count: int, author: User, **values: Any) -> FormSet:
        """The row of a new set, under the next number of its test."""
        Test.objects.select_for_update().get(pk=test.pk)
        last = test.form_sets.aggregate(last=Max("number"))["last"] or 0
        habits = asdict(test.department.habits)
        given = {"title": test.title, "habits": habits} | values
        return FormSet.objects.create(test=test, number=last + 1, count=count, author=author, **given)

    def queued(self) -> FormSet:
        """The set, with the work of making it ordered."""
        self.job = Job.order(MAKING, self.author, self.count, form_set=self.pk)
        self.save(update_fields=["job"])
        return self

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
        """The places in order, with their sections and the questions that they take from, their documents unread."""
        unread = ("revision__document", "revision__sheet", "revision__question__note")
        return self.places_with(FormSetCandidate.objects.defer(*unread))

    @property
    def read(self) -> list[FormSetPlace]:
        """The places in order with the documents of their questions."""
        return self.places_with(FormSetCandidate.objects.all())

    def places_with(self, candidates: models.QuerySet[FormSetCandidate]) -> list[FormSetPlace]:
        questions = candidates.select_related("revision__question").order_by("position")
        places = self.places.select_related("section").prefetch_related(Prefetch("candidates", questions))
        return list(places.order_by("position"))

    def uploaded(self, digest: str) -> bytes:
        """The content of a picture that one of its questions shows, which may be another department's."""
        return Stored.objects.get(pk=digest).read()


# The kind of job that makes a form set.
MAKING = "form set"


# what a set, a section of it and an insert say as those of the plan did
SETTINGS = ("title", "instructions", "maximum", "in_order", "across", "look", "boundaries")
OF_AN_INSERT = ("position", "name", "file_id", "pages", "behind")
SAID_OF_A_PLACE = ("bonus", "marks", "room", "room_height")
SAID_OF_A_SECTION = ("title", "text", "calculator", "new_page", "mixed")


class FormSetSection(models.Model):
    """A section of the plan as it was when the set was made."""

    form_set = models.ForeignKey(FormSet, on_delete=models.CASCADE, related_name="sections")
    position = models.PositiveIntegerField()
    title = models.CharField(max_length=120, blank=True)
    text = models.CharField(max_length=500, blank=True)
    calculator = models.BooleanField(null=True)
    new_page = models.BooleanField(default=False)
    mixed = models.BooleanField(default=False)

    class Meta:
        ordering = ["form_set", "position"]
        constraints = [models.UniqueConstraint(fields=["form_set", "position"], name="one_section_a_position")]

    def __str__(self) -> str:
        return self.title


class FormSetInsert(models.Model):
    """What is printed with the papers of a set and is none of its questions, as it was when the set was made."""

    form_set = models.ForeignKey(FormSet, on_delete=models.CASCADE, related_name="inserts")
    position = models.PositiveSmallIntegerField()
    name = models.CharField(max_length=80)
    file = models.ForeignKey(Stored, on_delete=models.PROTECT, related_name="+")
    pages = models.PositiveSmallIntegerField()
    # printed behind every paper; otherwise by itself
    behind = models.BooleanField()

    class Meta:
        ordering = ["form_set", "position", "pk"]

    def __str__(self) -> str:
        return self.name


class FormSetPlace(models.Model):
    """A place of the plan as it was when the set was made."""

    form_set = models.ForeignKey(FormSet, on_delete=models.CASCADE, related_name="places")
    section = models.ForeignKey(FormSetSection, on_delete=models.CASCADE, related_name="places")
    position = models.PositiveIntegerField()
    take = models.PositiveSmallIntegerField(default=1)
    # what a pool is called
    name = models.CharField(max_length=120, blank=True)
    bonus = models.BooleanField(default=False)
    # what each question is worth here; null as it is worth by itself
    marks = MarksField(null=True)
    # the room for working below each part, as ``Room`` has it
    room = models.CharField(max_length=10, blank=True)
    room_height = models.PositiveSmallIntegerField(null=True)
    # whether a question had fewer different draws than there are forms
    repeats = models.BooleanField(default=False)
    # of how many of its parts two forms share the answer
    shared = models.PositiveSmallIntegerField(default=0)

    class Meta:
        ordering = ["form_set", "position"]
        constraints = [models.UniqueConstraint(fields=["form_set", "position"], name="one_place_a_position")]

    def __str__(self) -> str:
        return f"{self.position + 1} of {self.form_set_id}"

    @property
    def all_candidates(self) -> list[FormSetCandidate]:
        return list(self.candidates.all())

    @property
    def is_pool(self) -> bool:
        return self.take > 1 or len(self.all_candidates) > 1

    @property
    def revision(self) -> Revision:
        """The revision of its first question: of its only one, where everybody gets the same."""
        return self.all_candidates[0].revision

    @property
    def each(self) -> Fraction:
        """What one of its questions is worth."""
        return Fraction(self.revision.marks if self.marks is None else self.marks)

    @property
    def counted(self) -> Fraction:
        """Its marks within those of the test."""
        return Fraction(0) if self.bonus else self.each * self.take


class FormSetCandidate(models.Model):
    """A question that a place took, or could take, as it was when the set was made."""

    place = models.ForeignKey(FormSetPlace, on_delete=models.CASCADE, related_name="candidates")
    position = models.PositiveIntegerField()
    revision = models.ForeignKey(Revision, on_delete=models.PROTECT, related_name="+")
    # the draw that the first form has, where one was taken along into the test
    first_draw = models.PositiveIntegerField(null=True)

    class Meta:
        ordering = ["place", "position"]
        constraints = [models.UniqueConstraint(fields=["place", "position"], name="one_question_a_position")]

    def __str__(self) -> str:
        return str(self.revision)


class Form(models.Model):
    """One form of a set, and its paper as it was made."""

    form_set = models.ForeignKey(FormSet, on_delete=models.CASCADE, related_name="forms")
    position = models.PositiveIntegerField()
    code = models.CharField(max_length=8)
    paper = models.ForeignKey(Stored, on_delete=models.PROTECT, related_name="+")
    pages = models.PositiveSmallIntegerField()
    # its number work, by ``COMPONENTS``; empty in sets of versions before
    work = models.JSONField(default=list)

    class Meta:
        ordering = ["form_set", "position"]
        constraints = [
            models.UniqueConstraint(fields=["form_set", "position"], name="one_form_a_position"),
            models.UniqueConstraint(fields=["form_set", "code"], name="one_form_a_code"),
        ]

    def __str__(self) -> str:
        return f"Form {self.code} of {self.form_set}"


class FormItem(models.Model):
    """A question of a form and what was drawn for it: all that is needed to show it again, and no key."""

    form = models.ForeignKey(Form, on_delete=models.CASCADE, related_name="items")
    # where it stands on the paper
    position = models.PositiveSmallIntegerField()
    place = models.ForeignKey(FormSetPlace, on_delete=models.CASCADE, related_name="items")
    candidate = models.ForeignKey(FormSetCandidate, on_delete=models.CASCADE, related_name="items")
    # its number in the order of the plan, whatever order the form has
    slot = models.PositiveSmallIntegerField()
    draw = models.BigIntegerField()
    # as ``FrozenDraw`` has them
    values = models.JSONField()
    orders = models.JSONField()
    texts = models.JSONField()

    class Meta:
        ordering = ["form", "position"]
        constraints = [models.UniqueConstraint(fields=["form", "position"], name="one_item_on_a_paper")]

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
        SHORT = "short", "Short key"
        ARCHIVE = "archive", "Archive"

    form_set = models.ForeignKey(FormSet, on_delete=models.CASCADE, related_name="prints")
    kind = models.CharField(max_length=10, choices=Kind)
    file = models.ForeignKey(Stored, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["form_set", "kind"], name="one_print_a_kind")]

    def __str__(self) -> str:
        return f"{self.get_kind_display()} of {self.form_set}"
