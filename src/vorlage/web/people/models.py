"""Schools, their departments, people, and what role somebody has where."""

from __future__ import annotations

from dataclasses import fields
from datetime import time
from functools import cached_property
from typing import Any
from zoneinfo import available_timezones

from django.contrib.auth.base_user import AbstractBaseUser, BaseUserManager
from django.contrib.auth.models import PermissionsMixin
from django.contrib.auth.password_validation import validate_password
from django.contrib.postgres.fields import ArrayField
from django.core.exceptions import ValidationError
from django.db import models
from django.db.models import Q
from django.db.models.functions import Lower

from vorlage.core.notation import Habits


class UserManager(BaseUserManager["User"]):
    def create_user(self, email: str | None, password: str | None = None, **fields: Any) -> User:
        """A person, with an address or a name to sign in with. Raises ``ValidationError`` for a password that the
        rules do not allow, whoever makes the account; without one, nobody signs in before a password is set by a
        one-time link."""
        user = self.model(email=self.normalize_email(email).lower() or None, **fields)
        if password is not None:
            validate_password(password, user)
        user.set_password(password)
        user.save(using=self._db)
        return user


def known_time_zone(name: str) -> None:
    """Raises ``ValidationError`` for what is no time zone."""
    if name not in available_timezones():
        raise ValidationError("There is no time zone of this name. Names are such as Europe/Lisbon.")


# What the kinds of demand are called where a department has no names of its own.
DEMANDS = ("recall", "method", "application", "reasoning")


class School(models.Model):
    """A school of this installation: its people see nothing of another's."""

    name = models.CharField(max_length=120, unique=True)
    time_zone = models.CharField(max_length=60, default="UTC", validators=[known_time_zone])
    # when what is given "for today" ends
    day_ends = models.TimeField(default=time(17))

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class User(AbstractBaseUser, PermissionsMixin):
    """A person who signs in: with an e-mail address, a student without one with a name made up for it."""

    email = models.EmailField(unique=True, null=True, blank=True)
    sign_in_name = models.CharField(max_length=60, unique=True, null=True, blank=True)
    name = models.CharField(max_length=120)
    school = models.ForeignKey(School, on_delete=models.PROTECT, related_name="people", null=True)
    # looks after the people, classes and settings of the school
    administers = models.BooleanField(default=False)
    # a student's sign-in, which never has a role
    studies = models.BooleanField(default=False)
    is_active = models.BooleanField(default=True)
    joined = models.DateTimeField(auto_now_add=True)

    objects = UserManager()

    USERNAME_FIELD = "email"
    REQUIRED_FIELDS = ["name"]

    class Meta:
        constraints = [
            models.UniqueConstraint(Lower("email"), name="one_user_an_address"),
            models.CheckConstraint(
                condition=Q(email__isnull=False) | Q(sign_in_name__isnull=False), name="somehow_signs_in"
            ),
        ]

    def __str__(self) -> str:
        return self.name

    @cached_property
    def roles(self) -> list[Membership]:
        """What roles they have, each with its department; whoever studies has none."""
        return [] if self.studies else list(self.memberships.select_related("department__school"))

    @property
    def is_staff_here(self) -> bool:
        """Whether they work at the school: students have no role."""
        return not self.studies and (self.administers or bool(self.roles))

    def role_in(self, department: int) -> Membership | None:
        return next((held for held in self.roles if held.department_id == department), None)

    def leads(self, department: int) -> bool:
        """Whether they are head of this department."""
        held = self.role_in(department)
        return held is not None and held.leads


class Department(models.Model):
    """A department of a school; everything that is written belongs to one."""

    class DecimalMark(models.TextChoices):
        POINT = "point", "a point"
        COMMA = "comma", "a comma"

    class Thousands(models.TextChoices):
        SPACE = "space", "a narrow space"
        APOSTROPHE = "apostrophe", "an apostrophe"

    class Times(models.TextChoices):
        CROSS = "cross", "a cross"
        DOT = "dot", "a dot"

    class Rounding(models.TextChoices):
        EXACT = "exact", "as they are"
        TENTHS = "tenths", "to tenths"
        HALVES = "halves", "to halves"
        WHOLE = "whole", "to whole marks"

    class MarkStep(models.TextChoices):
        WHOLE = "1", "whole marks"
        HALF = "0.5", "halves"
        QUARTER = "0.25", "quarters"
        TENTH = "0.1", "tenths"
        HUNDREDTH = "0.01", "hundredths"

    school = models.ForeignKey(School, on_delete=models.PROTECT, related_name="departments")
    name = models.CharField(max_length=120)
    # how numbers and formulas are written here, as ``Habits`` has them
    decimal_mark = models.CharField(max_length=10, choices=DecimalMark, default=DecimalMark.POINT)
    thousands = models.CharField(max_length=10, choices=Thousands, default=Thousands.SPACE)
    times = models.CharField(max_length=10, choices=Times, default=Times.CROSS)
    colon = models.BooleanField(default=False)
    tg = models.BooleanField(default=False)
    # what marks of students are shown as; they are kept as they are
    rounding = models.CharField(max_length=10, choices=Rounding, default=Rounding.EXACT)
    # the finest step in which marks are given by hand
    mark_step = models.CharField(max_length=5, choices=MarkStep, default=MarkStep.HALF)
    # the marks that a part of a new question begins with
    first_marks = models.DecimalField(max_digits=5, decimal_places=2, default=2)
    # what the levels of difficulty are called, from 1 on, and the grade boundaries, from the best on
    level_names = ArrayField(models.CharField(max_length=30), default=list, blank=True, size=5)
    # what the kinds of demand are called, from 1 on
    demand_names = ArrayField(models.CharField(max_length=30), default=list, blank=True, size=6)
    boundary_names = ArrayField(models.CharField(max_length=30), default=list, blank=True, size=12)
    # what stands at the top of every paper; the department and the school where it is empty
    letterhead = models.CharField(max_length=160, blank=True)

    class Meta:
        ordering = ["school__name", "name"]
        constraints = [models.UniqueConstraint(fields=["school", "name"], name="one_department_a_name")]

    def __str__(self) -> str:
        return f"{self.name} · {self.school}"

    @property
    def heads_papers(self) -> str:
        """What stands at the top of a paper."""
        return self.letterhead or str(self)

    @property
    def demands(self) -> list[tuple[int, str]]:
        """The kinds of demand by their numbers."""
        return list(enumerate(self.demand_names or DEMANDS, start=1))

    @property
    def habits(self) -> Habits:
        """How numbers and formulas are written here."""
        return Habits(**{each.name: getattr(self, each.name) for each in fields(Habits)})


class Membership(models.Model):
    """A person's role in a department."""

    class Role(models.TextChoices):
        LEAD = "lead", "Head of department"
        AUTHOR = "author", "Author"
        READER = "reader", "Reader"

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="memberships")
    department = models.ForeignKey(Department, on_delete=models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=10, choices=Role)

    class Meta:
        ordering = ["department__school__name", "department__name"]
        constraints = [models.UniqueConstraint(fields=["user", "department"], name="one_role_a_department")]

    def __str__(self) -> str:
        return f"{self.user}: {self.get_role_display()} in {self.department}"

    @property
    def leads(self) -> bool:
        """Whether this role decides for the department."""
        return self.role == self.Role.LEAD

    @property
    def may_write(self) -> bool:
        """Whether this role writes questions and tests and makes forms."""
        return self.role in {self.Role.LEAD, self.Role.AUTHOR}
