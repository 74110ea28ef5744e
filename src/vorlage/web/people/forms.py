"""What is typed when somebody signs in, and about a department."""

from __future__ import annotations

from decimal import Decimal
from typing import Any, cast

from allauth.account.adapter import DefaultAccountAdapter
from allauth.account.forms import LoginForm
from django import forms
from django.contrib.auth.forms import PasswordChangeForm, PasswordResetForm, SetPasswordForm
from django.db.models import QuerySet
from django.http import HttpRequest

from vorlage.core.answers import plain_marks, to_marks
from vorlage.core.notation import from_document
from vorlage.web.design.asking import for_paper

from .models import DEMANDS, Department, Membership, School, User

MISMATCH = "This address or name and this password do not belong together. Check both and try again."


class AccountAdapter(DefaultAccountAdapter):
    """Messages that say what to do; nobody signs up by themselves."""

    error_messages = DefaultAccountAdapter.error_messages | {
        "email_password_mismatch": MISMATCH,
        "username_password_mismatch": MISMATCH,
        "too_many_login_attempts": "Too many tries. Wait five minutes, then try again.",
        "account_inactive": "This account has been closed. Ask an administrator of your school.",
    }

    def is_open_for_signup(self, request: HttpRequest) -> bool:
        return False

    def add_message(self, *args: Any, **kwargs: Any) -> None:
        """The page one arrives at says enough."""


class SignInForm(LoginForm):
    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        login, password, remember = (self.fields[name] for name in ("login", "password", "remember"))
        login.label = "E-mail address, or the name on your slip"
        login.widget.attrs = {"autocomplete": "username", "autofocus": True, "class": "form-control"}
        login.error_messages["required"] = "Your e-mail address is needed, or the name on your slip."
        password.help_text = ""
        password.widget.attrs = {"autocomplete": "current-password", "class": "form-control"}
        password.error_messages["required"] = "Your password is needed."
        remember.label = "Stay signed in on this computer"
        remember.widget.attrs = {"class": "form-check-input"}


def as_here(form: forms.Form) -> None:
    """The look and the words of the fields of a form of Django's."""
    labels = {
        "old_password": "Your password so far",
        "new_password1": "New password",
        "new_password2": "New password once more",
    }
    for name, field in form.fields.items():
        field.widget.attrs["class"] = "form-control"
        field.label = labels.get(name, field.label)
        field.help_text = ""
        field.error_messages["required"] = "This is needed."


class ChangePasswordForm(PasswordChangeForm):
    error_messages = PasswordChangeForm.error_messages | {
        "password_mismatch": "The two are not the same: type the new password once more.",
        "password_incorrect": "This is not your password so far. Type it again.",
    }

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        as_here(self)


class NewPasswordForm(SetPasswordForm):
    error_messages = SetPasswordForm.error_messages | {
        "password_mismatch": "The two are not the same: type the new password once more.",
    }

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        as_here(self)


class ForgottenForm(PasswordResetForm):
    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        as_here(self)
        self.fields["email"].label = "Your e-mail address"
        self.fields["email"].widget.attrs["autocomplete"] = "username"

    def get_users(self, email: str) -> Any:
        """Also whoever has no password yet: an account is made without one."""
        return User.objects.filter(email__iexact=email, is_active=True)


TYPED = {"class": "form-control", "autocomplete": "off"}


class DepartmentField(forms.ModelChoiceField):
    """A department of the school, by its name."""

    def label_from_instance(self, department: Department) -> str:
        return department.name


class InviteForm(forms.Form):
    """A colleague who is to have a role; ``departments`` are those that may be chosen."""

    name = forms.CharField(
        max_length=120, label="Name", widget=forms.TextInput(TYPED), error_messages={"required": "Who is it?"}
    )
    email = forms.EmailField(
        label="E-mail address", widget=forms.TextInput(TYPED),
        error_messages={
            "required": "The address is needed: one signs in with it.", "invalid": "This is no e-mail address.",
        },
    )  # fmt: skip
    department = DepartmentField(
        Department.objects.none(), required=False, label="Department", empty_label="no department",
        widget=forms.Select({"class": "form-select"}),
    )  # fmt: skip
    role = forms.ChoiceField(
        choices=Membership.Role.choices,
        initial="author",
        label="Role there",
        widget=forms.Select({"class": "form-select"}),
    )
    administers = forms.BooleanField(
        required=False, label="Administers the school: people, classes, settings",
        widget=forms.CheckboxInput({"class": "form-check-input"}),
    )  # fmt: skip

    def __init__(self, departments: QuerySet[Department], may_administer: bool, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.school: int | None = None
        choice = cast(forms.ModelChoiceField, self.fields["department"])
        choice.queryset = departments
        self.may_administer = may_administer
        if not may_administer:
            choice.required, choice.empty_label = True, None
            del self.fields["administers"]

    def clean_email(self) -> str:
        return str(self.cleaned_data["email"]).lower()

    def clean(self) -> dict[str, Any]:
        found: dict[str, Any] = super().clean() or {}
        known = User.objects.filter(email__iexact=found["email"]).first() if found.get("email") else None
        if known is not None and (known.studies or known.school_id != self.school):
            self.add_error("email", "This address is that of a student, or of somebody at another school.")
        if known is not None and not known.is_active:
            self.add_error("email", f"{known.name} has an account that is closed. An administrator opens it again.")
        found["known"], found["administers"] = known, found.get("administers", False)
        if not found.get("department") and not found["administers"] and "department" not in self.errors:
            self.add_error("department", "Choose a department.")
        return found


class SchoolForm(forms.ModelForm):
    class Meta:
        model = School
        fields = ["name", "time_zone", "day_ends"]
        labels = {"name": "Name of the school", "time_zone": "Time zone", "day_ends": "The school day ends at"}
        widgets = {
            "name": forms.TextInput(TYPED),
            "time_zone": forms.TextInput(TYPED | {"list": "time-zones"}),
            "day_ends": forms.TimeInput(TYPED | {"type": "time"}, format="%H:%M"),
        }
        error_messages = {
            "name": {"required": "The school needs a name.", "unique": "Another school here has this name."},
            "time_zone": {"required": "Which time zone is it in? Such as Europe/Lisbon."},
            "day_ends": {
                "required": "When does it end? Such as 17:00.",
                "invalid": "This is no time of day, such as 17:00.",
            },
        }


class NewDepartmentForm(forms.ModelForm):
    class Meta:
        model = Department
        fields = ["name"]
        labels = {"name": "Name of the department"}
        widgets = {"name": forms.TextInput(TYPED | {"placeholder": "Physics"})}
        error_messages = {"name": {"required": "The department needs a name."}}

    def clean_name(self) -> str:
        name = str(self.cleaned_data["name"])
        if Department.objects.filter(school=self.instance.school_id, name__iexact=name).exists():
            raise forms.ValidationError(f"There is a department {name} already.")
        return name


TOO_LONG = "A name has at most 30 characters; name %(nth)s:"


class DepartmentForm(forms.ModelForm):
    """What holds in a department: its name, what papers and questions begin with, how numbers are written."""

    class Meta:
        model = Department
        fields = [
            "name", "letterhead", "first_marks", "level_names", "demand_names", "boundary_names", "rounding",
            "mark_step",
            "decimal_mark", "thousands", "times", "colon", "tg",
        ]  # fmt: skip
        labels = {
            "name": "Name",
            "letterhead": "At the top of every paper",
            "first_marks": "A part of a new question begins with these marks",
            "level_names": "Names of the levels, from 1 on, with commas between",
            "demand_names": "Names of the kinds of demand, with commas between",
            "boundary_names": "Names of the grade boundaries, from the best on, with commas between",
            "rounding": "Marks of students are shown",
            "mark_step": "Marks are given by hand in",
            "decimal_mark": "Decimals are marked with",
            "thousands": "Thousands are parted with",
            "times": "A sign between factors is",
            "colon": "A colon divides: 12 : 4 is typed for 12/4",
            "tg": "The tangent is called tg, the cotangent ctg",
        }
        widgets = {
            "name": forms.TextInput(TYPED),
            "letterhead": forms.TextInput(TYPED),
            "first_marks": forms.TextInput(TYPED | {"inputmode": "decimal"}),
            "level_names": forms.TextInput(TYPED | {"placeholder": "first steps, standard, stretch"}),
            "demand_names": forms.TextInput(TYPED | {"placeholder": ", ".join(DEMANDS)}),
            "boundary_names": forms.TextInput(TYPED | {"placeholder": "distinction, merit, pass"}),
            **dict.fromkeys(
                ("rounding", "mark_step", "decimal_mark", "thousands", "times"),
                forms.RadioSelect({"class": "form-check-input"}),
            ),
            **dict.fromkeys(("colon", "tg"), forms.CheckboxInput({"class": "form-check-input"})),
        }
        error_messages = {
            "name": {"required": "The department needs a name."},
            "level_names": {
                "max_length": "There are five levels.", "item_invalid": TOO_LONG
            },
            "demand_names": {
                "max_length": "At most six kinds of demand.", "item_invalid": TOO_LONG
            },
            "boundary_names": {
                "max_length": "At most twelve boundaries.", "item_invalid": TOO_LONG
            },
        }  # fmt: skip

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["letterhead"].widget.attrs["placeholder"] = str(self.instance)
        self.fields["mark_step"].required = False
        told = "Marks are a number from 0 to 100, such as 1 or 1.5."
        self.fields["first_marks"] = forms.CharField(
            label=self.fields["first_marks"].label, widget=self.fields["first_marks"].widget, max_length=10,
            error_messages={"required": told, "max_length": told},
        )  # fmt: skip
        self.initial["first_marks"] = from_document(str(plain_marks(self.instance.first_marks)), self.instance.habits)

    @property
    def texts(self) -> list[forms.BoundField]:
        names = ("name", "letterhead", "first_marks", "level_names", "demand_names", "boundary_names")
        return [self[name] for name in names]

    @property
    def written(self) -> list[forms.BoundField]:
        """How numbers and formulas are written."""
        return [self[name] for name in ("decimal_mark", "thousands", "times", "colon", "tg")]

    def clean_name(self) -> str:
        name = str(self.cleaned_data["name"])
        alike = Department.objects.filter(school=self.instance.school_id, name__iexact=name)
        if alike.exclude(pk=self.instance.pk).exists():
            raise forms.ValidationError(f"There is a department {name} already.")
        return name

    def clean_mark_step(self) -> str:
        """Nothing chosen is as before."""
        return str(self.cleaned_data["mark_step"] or self.instance.mark_step)

    def clean_letterhead(self) -> str:
        return for_paper(str(self.cleaned_data["letterhead"]))

    def clean_first_marks(self) -> Decimal:
        """The marks, with a point or a comma, or as a fraction of halves and quarters."""
        try:
            marks = to_marks(str(self.cleaned_data["first_marks"]).replace(",", "."))
        except ValueError as problem:
            raise forms.ValidationError(self.fields["first_marks"].error_messages["required"]) from problem
        if not 0 <= marks <= 100:
            raise forms.ValidationError(self.fields["first_marks"].error_messages["required"])
        return marks
