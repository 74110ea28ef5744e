"""Classes, students, who is in which class since when, and what a student is allowed in every sitting."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date
from typing import Any

from django.core.validators import MaxValueValidator
from django.db import models, transaction
from django.db.models import Count, Prefetch, Q
from django.utils import timezone

from vorlage.core.roster import Known
from vorlage.core.text import unaccented
from vorlage.web.people.models import Department, School, User


def school_year(today: date) -> str:
    """The school year of a day, as it is usually written: from August on, the one that begins."""
    begins = today.year if today.month >= 8 else today.year - 1
    return f"{begins}/{(begins + 1) % 100:02}"


class ClassQuerySet(models.QuerySet["Class"]):
    def seen_by(self, user: User) -> ClassQuerySet:
        """The classes that somebody may open: of an administrator's school, of a department they lead, their own."""
        led = [held.department_id for held in user.roles if held.leads]
        seen = Q(department__in=led) | Q(pk__in=Teaching.objects.filter(user=user).values("held"))
        if user.administers:
            seen |= Q(department__school=user.school_id)
        return self.filter(seen)

    def with_counts(self) -> ClassQuerySet:
        """With the number of students who are in them now."""
        return self.annotate(student_count=Count("enrolments", filter=Q(enrolments__left=None)))

    def named(self, text: str) -> ClassQuerySet:
        return self.filter(name__icontains=text)


class Class(models.Model):
    """A class of a department in one school year."""

    department = models.ForeignKey(Department, on_delete=models.PROTECT, related_name="classes")
    name = models.CharField(max_length=40)
    year = models.CharField(max_length=20)
    teachers: models.ManyToManyField[User, Teaching] = models.ManyToManyField(
        User, through="Teaching", related_name="classes"
    )

    objects = ClassQuerySet.as_manager()

    class Meta:
        ordering = ["-year", "name"]
        constraints = [models.UniqueConstraint(fields=["department", "year", "name"], name="one_class_a_name")]

    def __str__(self) -> str:
        return f"{self.name} · {self.year}"

    @transaction.atomic
    def enrol(self, students: Iterable[int]) -> None:
        """Put students in; who was in it before comes back, and whoever is in it stays."""
        wanted = list(students)
        Enrolment.objects.bulk_create((Enrolment(held=self, student_id=each) for each in wanted), ignore_conflicts=True)
        Enrolment.objects.filter(held=self, student__in=wanted).exclude(left=None).update(left=None)

    def take_out(self, students: Iterable[int]) -> list[int]:
        """Take students out; who was taken out. What they have done stays theirs."""
        here = Enrolment.objects.filter(held=self, student__in=list(students), left=None)
        taken = list(here.values_list("student", flat=True))
        here.update(left=timezone.localdate())
        return taken


class Teaching(models.Model):
    """Somebody teaches a class."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="teachings")
    held = models.ForeignKey(Class, on_delete=models.CASCADE, related_name="teachings")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["user", "held"], name="teaches_a_class_once")]

    def __str__(self) -> str:
        return f"{self.user} teaches {self.held}"


class StudentQuerySet(models.QuerySet["Student"]):
    def found(self, text: str) -> StudentQuerySet:
        """Students in whose name or number every word of the text stands."""
        found = self
        for word in unaccented(text).replace(",", " ").split():
            found = found.filter(search_text__contains=word)
        return found

    def seen_by(self, user: User) -> StudentQuerySet:
        """The students that somebody may open: whoever is or was in a class that they may open; an administrator's
        whole school."""
        if user.administers:
            return self.filter(school=user.school_id)
        return self.filter(pk__in=Enrolment.objects.filter(held__in=Class.objects.seen_by(user)).values("student"))

    def with_classes(self) -> StudentQuerySet:
        """With the classes that they are in now."""
        now = Enrolment.objects.filter(left=None).select_related("held")
        return self.prefetch_related(Prefetch("enrolments", queryset=now, to_attr="now"))

    def known(self, held: Class) -> list[Known]:
        """All students of the school of a class, for a class list to be compared with."""
        here = set(held.enrolments.filter(left=None).values_list("student", flat=True))
        fields = ("pk", "family", "given", "number", "email")
        rows = self.filter(school=held.department.school_id).values_list(*fields)
        return [Known(pk, family, given, number, email, pk in here) for pk, family, given, number, email in rows]


class Student(models.Model):
    """A student of a school, with or without a sign-in."""

    school = models.ForeignKey(School, on_delete=models.PROTECT, related_name="students")
    family = models.CharField(max_length=80)
    given = models.CharField(max_length=80)
    number = models.CharField(max_length=20)
    email = models.EmailField(blank=True)
    user = models.OneToOneField(User, on_delete=models.PROTECT, null=True, related_name="student")
    # name and number as they are looked for
    search_text = models.CharField(max_length=200)

    objects = StudentQuerySet.as_manager()

    class Meta:
        # by the letters of the name, whatever accents they have
        ordering = ["search_text", "pk"]
        constraints = [models.UniqueConstraint(fields=["school", "number"], name="one_student_a_number")]
        indexes = [models.Index(fields=["school", "search_text"], name="students_by_name")]

    def __str__(self) -> str:
        return f"{self.family}, {self.given}"

    def save(self, *args: Any, **kwargs: Any) -> None:
        self.search_text = unaccented(f"{self.family} {self.given} {self.number}")
        if "update_fields" in kwargs:
            kwargs["update_fields"] = {*kwargs["update_fields"], "search_text"}
        super().save(*args, **kwargs)

    @property
    def full_name(self) -> str:
        return f"{self.given} {self.family}"

    def tell_user(self) -> None:
        """Let the sign-in have the name and the address that the student has now; an address that signs in somebody
        else stays with them."""
        if self.user is None:
            return
        self.user.name = self.full_name
        taken = self.email and User.objects.filter(email=self.email).exclude(pk=self.user.pk).exists()
        if not taken and (self.email or self.user.sign_in_name):
            self.user.email = self.email or None
        self.user.save(update_fields=["name", "email"])


class Enrolment(models.Model):
    """A student is in a class; who has left keeps what they did, and gets nothing new."""

    held = models.ForeignKey(Class, on_delete=models.CASCADE, related_name="enrolments")
    student = models.ForeignKey(Student, on_delete=models.CASCADE, related_name="enrolments")
    since = models.DateField(default=timezone.localdate)
    left = models.DateField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["held", "student"], name="in_a_class_once")]

    def __str__(self) -> str:
        return f"{self.student} in {self.held}"


class Allowance(models.Model):
    """What a student is allowed in every sitting; only whoever teaches them knows."""

    student = models.OneToOneField(Student, on_delete=models.CASCADE, related_name="allowance")
    more_time_percent = models.PositiveSmallIntegerField(default=0, validators=[MaxValueValidator(200)])
    more_time_minutes = models.PositiveSmallIntegerField(default=0, validators=[MaxValueValidator(240)])
    later_closing_minutes = models.PositiveIntegerField(default=0, validators=[MaxValueValidator(20_160)])
    breaks = models.BooleanField(default=False)
    large_print = models.BooleanField(default=False)
    larger_letters = models.BooleanField(default=False)
    wider_lines = models.BooleanField(default=False)
    one_at_a_time = models.BooleanField(default=False)
    spoken_maths = models.BooleanField(default=False)

    # what each is called, and in a line
    WORDS = {
        "breaks": "breaks that stop the clock",
        "large_print": "large print on paper",
        "larger_letters": "larger letters on screen",
        "wider_lines": "wider line distance",
        "one_at_a_time": "one question at a time",
        "spoken_maths": "spoken maths",
    }

    class Meta:
        constraints = [
            models.CheckConstraint(
                condition=Q(more_time_percent=0) | Q(more_time_minutes=0), name="more_time_in_one_way"
            )
        ]

    def __str__(self) -> str:
        return ", ".join(self.in_words()) or "none"

    def in_words(self) -> list[str]:
        """Each allowance in a few words."""
        found = []
        if self.more_time_percent:
            found.append(f"{self.more_time_percent} % more time")
        if self.more_time_minutes:
            found.append(f"{minutes(self.more_time_minutes)} more")
        if self.later_closing_minutes:
            found.append(f"closes {minutes(self.later_closing_minutes)} later")
        return found + [words for name, words in self.WORDS.items() if getattr(self, name)]


def minutes(count: int) -> str:
    return f"{count} minute{'' if count == 1 else 's'}"
