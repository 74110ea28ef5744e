"""What is typed about a class, a student and an allowance."""

from __future__ import annotations

from typing import Any, cast

from django import forms
from django.core.validators import BaseValidator
from django.db.models import QuerySet
from django.utils import timezone

from vorlage.core.roster import unfit
from vorlage.web.people.forms import DepartmentField
from vorlage.web.people.models import Department, User

from .models import Allowance, Class, Student, school_year

TYPED = {"class": "form-control"}


class ClassForm(forms.ModelForm):
    """A class; ``departments`` are those that it may be of, ``staff`` who may teach it."""

    teachers = forms.ModelMultipleChoiceField(
        User.objects.none(), required=False, label="Teachers", widget=forms.CheckboxSelectMultiple
    )

    department = DepartmentField(
        Department.objects.none(), empty_label=None, widget=forms.Select(attrs={"class": "form-select"})
    )

    class Meta:
        model = Class
        fields = ["name", "year", "department", "teachers"]
        labels = {"name": "Name", "year": "School year"}
        widgets = {
            "name": forms.TextInput(attrs=TYPED | {"placeholder": "10 B", "autocomplete": "off"}),
            "year": forms.TextInput(attrs=TYPED),
        }
        error_messages = {
            "name": {"required": "A class needs a name, such as 10 B.", "max_length": "At most 40 characters."},
            "year": {"required": "Which school year is it? Such as 2026/27.", "max_length": "At most 20 characters."},
        }

    def __init__(self, departments: QuerySet[Department], staff: QuerySet[User], *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        cast(forms.ModelChoiceField, self.fields["department"]).queryset = departments
        cast(forms.ModelMultipleChoiceField, self.fields["teachers"]).queryset = staff
        self.fields["teachers"].widget.attrs = {"class": "form-check-input"}
        if not self.instance.pk:
            self.initial.setdefault("year", school_year(timezone.localdate()))

    def clean(self) -> dict[str, Any]:
        found: dict[str, Any] = super().clean() or {}
        if {"name", "year", "department"} <= found.keys():
            alike = Class.objects.filter(**{name: found[name] for name in ("name", "year", "department")})
            if alike.exclude(pk=self.instance.pk).exists():
                self.add_error("name", f"There is a class {found['name']} in {found['year']} already.")
        return found


class StudentForm(forms.ModelForm):
    class Meta:
        model = Student
        fields = ["family", "given", "number", "email"]
        labels = {
            "family": "Family name",
            "given": "Given name",
            "number": "School number",
            "email": "E-mail address (optional)",
        }
        widgets = {name: forms.TextInput(attrs=TYPED | {"autocomplete": "off"}) for name in fields}
        error_messages = {
            "family": {"required": "The family name is missing."},
            "given": {"required": "The given name is missing."},
            "number": {"required": "The school number is missing."},
            "email": {"invalid": "This is no e-mail address. Mend it, or leave it out."},
        }

    def clean_email(self) -> str:
        return str(self.cleaned_data["email"]).lower()

    def clean(self) -> dict[str, Any]:
        found: dict[str, Any] = super().clean() or {}
        held = {name: " ".join((found.get(name) or "").split()) for name in self.Meta.fields}
        for name, why in unfit(held).items():
            if name in found:
                self.add_error(name, why)
        others = Student.objects.filter(school=self.instance.school_id).exclude(pk=self.instance.pk)
        for name in ("number", "email"):
            other = others.filter(**{f"{name}__iexact": found[name]}).first() if found.get(name) else None
            if other is not None:
                self.add_error(name, f"{other} ({other.number}) has this already.")
        return found | {name: value for name, value in held.items() if name in found}


class AllowanceForm(forms.ModelForm):
    class Meta:
        model = Allowance
        fields = ["more_time_percent", "more_time_minutes", "later_closing_minutes", *Allowance.WORDS]
        labels = {
            "more_time_percent": "More time, in per cent",
            "more_time_minutes": "or in minutes",
            "later_closing_minutes": "May begin and hand in later, by minutes",
            **{name: words[0].upper() + words[1:] for name, words in Allowance.WORDS.items()},
        }
        widgets = {
            **{
                name: forms.NumberInput(attrs=TYPED | {"min": 0, "inputmode": "numeric"})
                for name in ("more_time_percent", "more_time_minutes", "later_closing_minutes")
            },
            **{name: forms.CheckboxInput(attrs={"class": "form-check-input"}) for name in Allowance.WORDS},
        }

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for name in ("more_time_percent", "more_time_minutes", "later_closing_minutes"):
            self.fields[name].required = False
            most = {"more_time_percent": 200, "more_time_minutes": 240, "later_closing_minutes": 20_160}[name]
            told = f"A whole number from 0 to {most:,}.".replace(",", " ")
            self.fields[name].error_messages |= dict.fromkeys(("invalid", "min_value", "max_value"), told)
            for validator in cast(list[BaseValidator], self.fields[name].validators):
                validator.message = told

    @property
    def numbers(self) -> list[forms.BoundField]:
        return [self[name] for name in ("more_time_percent", "more_time_minutes", "later_closing_minutes")]

    @property
    def ticks(self) -> list[forms.BoundField]:
        return [self[name] for name in Allowance.WORDS]

    def clean(self) -> dict[str, Any]:
        found: dict[str, Any] = super().clean() or {}
        for field in self.numbers:
            if field.name in found and found[field.name] is None:
                found[field.name] = 0
        if found.get("more_time_percent") and found.get("more_time_minutes"):
            self.add_error("more_time_minutes", "More time is either in per cent or in minutes: leave one empty.")
        return found
