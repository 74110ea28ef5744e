"""What is typed about a room and a seat plan."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, cast

from django import forms

from vorlage.core.forms import MOST_COLUMNS, MOST_ROWS
from vorlage.web.classes.models import Class
from vorlage.web.forms.models import FormSet
from vorlage.web.people.models import User

from .models import Room

if TYPE_CHECKING:
    ModelForm = forms.ModelForm[Room]
else:
    ModelForm = forms.ModelForm
FIELD, CHOICE = {"class": "form-control"}, {"class": "form-select"}


class RoomForm(ModelForm):
    """The name of a room and how many rows and columns it has; a new one begins with a usual room."""

    def __init__(self, *args: Any, **options: Any) -> None:
        super().__init__(*args, **options)
        if self.instance.pk is None:
            self.initial.setdefault("rows", 5)
            self.initial.setdefault("columns", 6)

    def clean(self) -> dict[str, Any]:
        found: dict[str, Any] = super().clean() or {}
        alike = Room.objects.filter(school=self.instance.school_id, name=found.get("name")).exclude(pk=self.instance.pk)
        if found.get("name") and alike.exists():
            self.add_error("name", f"There is a room {found['name']} already.")
        return found

    class Meta:
        model = Room
        fields = ["name", "rows", "columns"]
        labels = {"rows": "Rows", "columns": "Seats in a row, gaps counted"}
        error_messages = {
            "name": {"required": "A room needs a name, such as 2.14.", "max_length": "At most 40 characters."},
            "rows": {"required": "How many rows are there? Such as 5.", "invalid": "A whole number, such as 5."},
            "columns": {"required": "How many seats has a row? Such as 6.", "invalid": "A whole number, such as 6."},
        }
        widgets = {
            "name": forms.TextInput(attrs=FIELD | {"placeholder": "2.14", "autocomplete": "off"}),
            "rows": forms.NumberInput(attrs=FIELD | {"min": 1, "max": MOST_ROWS}),
            "columns": forms.NumberInput(attrs=FIELD | {"min": 1, "max": MOST_COLUMNS}),
        }


class SeatPlanForm(forms.Form):
    """A class that one opens and a room of the school; empty where there is none of one of them."""

    held = forms.ChoiceField(
        label="Class", widget=forms.Select(attrs=CHOICE),
        error_messages={"required": "Choose a class.", "invalid_choice": "Choose one of your classes."},
    )  # fmt: skip
    room = forms.ChoiceField(
        label="Room", widget=forms.Select(attrs=CHOICE),
        error_messages={"required": "Choose a room.", "invalid_choice": "Choose one of the school's rooms."},
    )  # fmt: skip
    seated = forms.ChoiceField(
        label="Seated", choices=[("names", "by name"), ("mixed", "mixed")], initial="names",
        widget=forms.Select(attrs=CHOICE),
    )  # fmt: skip
    apart = forms.BooleanField(
        label="With free seats between, where there are enough", required=False,
        widget=forms.CheckboxInput(attrs={"class": "form-check-input"}),
    )  # fmt: skip

    def __init__(self, form_set: FormSet, user: User, data: Any = None) -> None:
        super().__init__(data, auto_id="seat-%s")
        classes = Class.objects.seen_by(user).filter(department__school=user.school_id)
        self.classes = {str(each.pk): each for each in classes}
        self.rooms = {str(each.pk): each for each in Room.objects.filter(school=user.school_id)}
        for name, found in (("held", self.classes), ("room", self.rooms)):
            field = cast(forms.ChoiceField, self.fields[name])
            field.choices = [(key, str(each)) for key, each in found.items()]
        self.initial.setdefault("held", form_set.test.school_class_id)

    def clean_held(self) -> Class:
        return self.classes[self.cleaned_data["held"]]

    def clean_room(self) -> Room:
        return self.rooms[self.cleaned_data["room"]]

    def clean(self) -> dict[str, Any]:
        found: dict[str, Any] = super().clean() or {}
        held, room = found.get("held"), found.get("room")
        if held and room:
            count, seats = held.enrolments.filter(left=None).count(), room.seat_count
            if not count:
                self.add_error("held", f"Nobody is in {held.name} yet.")
            elif count > seats:
                self.add_error("room", f"{room.name} has {seats} seats, and {count} students are in {held.name}.")
        return found
