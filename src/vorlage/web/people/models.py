"""People, departments, and who may do what in which department."""

from __future__ import annotations

from dataclasses import fields
from typing import Any

from django.contrib.auth.base_user import AbstractBaseUser, BaseUserManager
from django.contrib.auth.models import PermissionsMixin
from django.contrib.auth.password_validation import validate_password
from django.db import models
from django.db.models.functions import Lower

from vorlage.core.notation import Habits


class UserManager(BaseUserManager["User"]):
    def create_user(self, email: str, password: str | None = None, **fields: Any) -> User:
        """A person. Raises ``ValidationError`` for a password that the rules do not allow, whoever makes the account;
        without one, nobody signs in before a password is set by a one-time link."""
        user = self.model(email=self.normalize_email(email).lower(), **fields)
        if password is not None:
            validate_password(password, user)
        user.set_password(password)
        user.save(using=self._db)
        return user


class User(AbstractBaseUser, PermissionsMixin):
    """A person who signs in with an e-mail address."""

    email = models.EmailField(unique=True)
    name = models.CharField(max_length=120)
    is_active = models.BooleanField(default=True)
    joined = models.DateTimeField(auto_now_add=True)

    objects = UserManager()

    USERNAME_FIELD = "email"
    REQUIRED_FIELDS = ["name"]

    class Meta:
        constraints = [models.UniqueConstraint(Lower("email"), name="one_user_an_address")]

    def __str__(self) -> str:
        return self.name


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

    name = models.CharField(max_length=120)
    school = models.CharField(max_length=120)
    # how numbers and formulas are written here, as ``Habits`` has them
    decimal_mark = models.CharField(max_length=10, choices=DecimalMark, default=DecimalMark.POINT)
    thousands = models.CharField(max_length=10, choices=Thousands, default=Thousands.SPACE)
    times = models.CharField(max_length=10, choices=Times, default=Times.CROSS)
    colon = models.BooleanField(default=False)
    tg = models.BooleanField(default=False)

    class Meta:
        ordering = ["school", "name"]
        constraints = [models.UniqueConstraint(fields=["school", "name"], name="one_department_a_name")]

    def __str__(self) -> str:
        return f"{self.name} · {self.school}"

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
        ordering = ["department__school", "department__name"]
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
