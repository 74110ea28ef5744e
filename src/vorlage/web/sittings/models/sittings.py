"""A test that is given to classes, with the rules that hold and what happened."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from functools import cached_property
from typing import Any

from django.db import models, transaction
from django.db.models import Count, Max, Q
from django.utils import timezone

from vorlage.core.forms import MAXIMUM_FORMS
from vorlage.core.marking import Counting
from vorlage.core.sittings import Rules
from vorlage.web.classes.models import Class, Enrolment, Student
from vorlage.web.forms.models import FormSet
from vorlage.web.jobs.models import Job
from vorlage.web.people.models import Department, User
from vorlage.web.plans.models import Test
from vorlage.web.seating.models import Seat

from .takings import RECEIPT, Taking
from .walls import Wall

# The kind of job that gets forms and sheets ready.
READYING = "sitting"


class SittingQuerySet(models.QuerySet["Sitting"]):
    def seen_by(self, user: User) -> SittingQuerySet:
        """The sittings that somebody may open: of departments where they write, and of classes that they teach."""
        marks = Sitting.objects.filter(markers=user).values("pk")
        return self.filter(Q(pk__in=Sitting.objects.run_by(user).values("pk")) | Q(pk__in=marks))

    def run_by(self, user: User) -> SittingQuerySet:
        """The sittings that somebody may change: of departments where they write, and of classes that they teach."""
        writes = [held.department_id for held in user.roles if held.may_write]
        teaches = Sitting.objects.filter(classes__teachings__user=user).values("pk")
        return self.filter(Q(test__department__in=writes) | Q(pk__in=teaches))

    def for_student(self, student: Student) -> SittingQuerySet:
        """What a student has to do, or has done: given to a class of theirs, to them where it is for some of it."""
        mine = Enrolment.objects.filter(student=student, left=None).values("held")
        given = Sitting.objects.filter(classes__in=mine).filter(Q(chosen=None) | Q(chosen=student)).values("pk")
        taken = Taking.objects.filter(student=student).values("sitting")
        return self.filter(Q(pk__in=given) | Q(pk__in=taken)).filter(archived=None)


class Sitting(models.Model):
    """A test that is given to classes, with the rules that hold."""

    test = models.ForeignKey(Test, on_delete=models.PROTECT, related_name="sittings")
    number = models.PositiveIntegerField()
    title = models.CharField(max_length=200)
    form_set = models.ForeignKey(FormSet, on_delete=models.PROTECT, related_name="sittings")
    classes: models.ManyToManyField[Class, Any] = models.ManyToManyField(Class, related_name="sittings")
    # those of the classes who are to sit it; everybody where there are none
    chosen: models.ManyToManyField[Student, Any] = models.ManyToManyField(Student, related_name="+")
    # who may look into it and mark it, besides those who run it
    markers: models.ManyToManyField[User, Any] = models.ManyToManyField(User, related_name="+")
    # the sittings that passing it opens; and whether others have to be passed before it
    opens_next: models.ManyToManyField[Sitting, Any] = models.ManyToManyField(
        "self", symmetrical=False, related_name="opened_by"
    )
    behind = models.BooleanField(default=False)
    # what is typed to come in
    code = models.CharField(max_length=8, unique=True, null=True)
    # as ``Rules`` has them
    rules = models.JSONField()
    # what was changed after it was given: other answers of parts, marks, what is annulled, what is beyond the test
    changed = models.JSONField(default=dict)
    # how marks are counted together, as ``Counting`` has it
    counting = models.JSONField(default=dict)
    # the work of getting it ready, and when it was: nobody begins before
    job = models.ForeignKey(Job, on_delete=models.PROTECT, null=True, related_name="+")
    ready = models.DateTimeField(null=True)
    # whether forms were made for it, one for everybody and every attempt
    own_forms = models.BooleanField(default=False)
    # as ``Repeats`` has them, once the forms are there
    repeats = models.JSONField(null=True)
    released = models.DateTimeField(null=True)
    # whether they are released as soon as everything is marked
    when_marked = models.BooleanField(default=False)
    archived = models.DateTimeField(null=True)
    author = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    created = models.DateTimeField(auto_now_add=True)

    objects = SittingQuerySet.as_manager()

    class Meta:
        ordering = ["-created", "-pk"]
        constraints = [models.UniqueConstraint(fields=["test", "number"], name="one_sitting_a_number")]

    def __str__(self) -> str:
        return self.title

    @cached_property
    def held(self) -> Rules:
        """The rules that hold."""
        return Rules.of(self.rules)

    @property
    def counted_by(self) -> Counting:
        """How marks are counted together."""
        return Counting.of(self.counting)

    @classmethod
    @transaction.atomic
    def give(
        cls, test: Test, classes: Sequence[Class], rules: Rules, by: User, form_set: FormSet | None = None,
        chosen: Sequence[Student] = (),
    ) -> Sitting:  # fmt: skip
        """Give a test to classes, or to those who are chosen of them; without a form set one is made, with a form for
        everybody."""
        own_forms = form_set is None
        if form_set is None:
            enrolled = Enrolment.objects.filter(held__in=classes, left=None)
            everybody = len(chosen) or enrolled.values("student").distinct().count()
            form_set = FormSet.order(test, forms_for(everybody, rules), by)
        Test.objects.select_for_update().get(pk=test.pk)
        last = cls.objects.filter(test=test).aggregate(last=Max("number"))["last"] or 0
        made = cls.objects.create(
            test=test, number=last + 1, title=test.title, form_set=form_set, rules=rules.kept, author=by,
            code=fresh_code(), own_forms=own_forms,
        )  # fmt: skip
        made.classes.set(classes)
        made.chosen.set(chosen)
        made.get_ready(by)
        made.note("given", by)
        return made

    def get_ready(self, by: User) -> None:
        """Order that its forms are laid out and given."""
        self.job, self.ready, self.repeats = Job.order(READYING, by, self.form_set.count, sitting=self.pk), None, None
        self.save(update_fields=["job", "ready", "repeats"])

    def take_forms(self, form_set: FormSet, by: User) -> None:
        """Other forms than before, while nobody has begun."""
        self.form_set = form_set
        self.save(update_fields=["form_set"])
        self.takings.filter(begun=None).update(form=None)
        self.takings.exclude(tried_by=None).delete()
        self.get_ready(by)

    @transaction.atomic
    def keep_rules(self, rules: Rules, by: User, reason: str = "") -> None:
        """Other rules from now on; what they were stays on record."""
        Event.objects.create(sitting=self, kind="rules", by=by, reason=reason, data={"before": self.rules})
        named = self.held.come_in != "anonymous"
        self.rules = rules.kept
        self.__dict__.pop("held", None)
        self.save(update_fields=["rules"])
        if named and rules.come_in == "anonymous":
            # nobody's name stands beside a place any more
            self.takings.counted().filter(begun=None).delete()
        elif self.ready is not None:
            if not named and rules.come_in != "anonymous":
                self.takings.counted().filter(begun=None).delete()
            self.deal()

    def note(self, kind: str, by: User | None = None, taking: Taking | None = None, **more: Any) -> None:
        Event.objects.create(sitting=self, taking=taking, kind=kind, by=by, **more)

    def students(self) -> list[Student]:
        """Who is to sit it, in class order, and who has sat it."""
        if self.held.come_in == "anonymous":
            return []
        now = Enrolment.objects.filter(held__in=self.classes.all(), left=None)
        if chosen := list(self.chosen.values_list("pk", flat=True)):
            now = now.filter(student__in=chosen)
        taken = Taking.objects.filter(sitting=self).exclude(student=None).values("student")
        wanted = Q(pk__in=now.values("student")) | Q(pk__in=taken)
        return list(Student.objects.filter(wanted).select_related("allowance"))

    @property
    def begun(self) -> bool:
        return self.takings.counted().exclude(begun=None).exists()

    def least_used(self) -> int:
        """The form that fewest have."""
        forms = list(self.form_set.forms.order_by("position").values_list("pk", flat=True))
        given = dict(self.takings.exclude(form=None).order_by().values_list("form").annotate(Count("pk")))
        return min(forms, key=lambda each: given.get(each, 0))

    @transaction.atomic
    def deal(self) -> None:
        """Give a form to everybody of the classes who has none: by a seat plan of the class where there is one, else in
        turn, so that forms are used equally often. Who practises gets fresh draws and no form."""
        if self.held.practice == "only":
            return
        forms = list(self.form_set.forms.order_by("position").values_list("pk", flat=True))
        seats = Seat.objects.filter(plan__form_set=self.form_set, plan__held__in=self.classes.all(), form__isnull=False)
        by_seat = dict(seats.order_by("plan__created").values_list("student", "form"))
        counts = dict(self.takings.order_by().values_list("form").annotate(Count("pk")))
        used = {form: counts.get(form, 0) for form in forms}
        have = set(self.takings.exclude(form=None).values_list("student", flat=True))
        takings = []
        for student in self.students():
            if student.pk in have:
                continue
            form = by_seat.get(student.pk) or min(forms, key=lambda each: used[each])
            used[form] = used.get(form, 0) + 1
            takings.append(Taking(sitting=self, student=student, form_id=form))
        without = {each.student_id: each.form_id for each in takings}
        for there in self.takings.filter(form=None, student__in=without, earlier=False):
            Taking.objects.filter(pk=there.pk, form=None).update(form=without.pop(there.student_id))
        Taking.objects.bulk_create((each for each in takings if each.student_id in without), ignore_conflicts=True)

    def repeats_by(self, attempt: int | None) -> bool:
        """Whether numbers can come again up to an attempt; None stands for one after any number of them."""
        if attempt is None:
            return True
        held = self.repeats
        return attempt > 1 and (held is None or attempt > held["sure"])


# Forms for so many attempts are made where there is no limit to them.
ATTEMPTS_WITHOUT_LIMIT = 5


def forms_for(people: int, rules: Rules) -> int:
    """How many forms are made for so many people: one for each of their attempts."""
    return max(1, min(people * (rules.attempts or ATTEMPTS_WITHOUT_LIMIT), MAXIMUM_FORMS))


def fresh_code() -> str:
    """A code that no other sitting has, and nothing on a wall, easily told and typed."""
    while True:
        code = "".join(secrets.choice(RECEIPT) for _ in range(6))
        if not Sitting.objects.filter(code=code).exists() and not Wall.objects.filter(code=code).exists():
            return code


class Opened(models.Model):
    """That a sitting which comes after another one was opened for a student by hand."""

    sitting = models.ForeignKey(Sitting, on_delete=models.CASCADE, related_name="opened_for")
    student = models.ForeignKey(Student, on_delete=models.CASCADE, related_name="+")
    by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["sitting", "student"], name="opened_once")]

    def __str__(self) -> str:
        return f"{self.sitting} for {self.student}"


class Event(models.Model):
    """Something that happened in a sitting, to all or to one: what, by whom, why."""

    sitting = models.ForeignKey(Sitting, on_delete=models.CASCADE, related_name="events")
    taking = models.ForeignKey(Taking, on_delete=models.CASCADE, null=True, related_name="events")
    kind = models.CharField(max_length=20)
    by = models.ForeignKey(User, on_delete=models.PROTECT, null=True, related_name="+")
    reason = models.CharField(max_length=300, blank=True)
    data = models.JSONField(default=dict)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-at", "-pk"]

    def __str__(self) -> str:
        return f"{self.kind} in {self.sitting_id}"


class Note(models.Model):
    """What a teacher tells everybody while they sit, or one of them; or a correction to one question."""

    sitting = models.ForeignKey(Sitting, on_delete=models.CASCADE, related_name="notes")
    taking = models.ForeignKey(Taking, on_delete=models.CASCADE, null=True, related_name="notes")
    text = models.CharField(max_length=500)
    # the question that it is about, where it is about one; older notes have where it stands on every form, from 1
    candidate = models.ForeignKey("forms.FormSetCandidate", on_delete=models.CASCADE, null=True, related_name="+")
    question = models.PositiveSmallIntegerField(null=True)
    by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["at", "pk"]

    def __str__(self) -> str:
        return self.text


class Way(models.Model):
    """A department's own way of working: rules under a name, which fill those of a sitting."""

    department = models.ForeignKey(Department, on_delete=models.CASCADE, related_name="ways")
    name = models.CharField(max_length=60)
    # as ``Rules`` has them; the moments in it are not used
    rules = models.JSONField()
    author = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["department", "name"], name="one_way_a_name")]

    def __str__(self) -> str:
        return self.name
