"""What is typed about a test, its sections and its places."""

from __future__ import annotations

from decimal import Decimal
from fractions import Fraction
from typing import Any, cast

from django import forms

from vorlage.core.answers import to_marks
from vorlage.core.budget import OutOfBudget, budgeted
from vorlage.core.documents import (
    CHOICES,
    MOST_BYTES,
    MOST_MINUTES,
    MOST_ROOM,
    ROOMS,
    InsertError,
    laid_insert,
    typeset_insert,
)
from vorlage.core.notation import USUAL, Habits, from_document
from vorlage.core.plans import TOLD_IN, Boundaries
from vorlage.core.text import unprintable
from vorlage.web.classes.models import Class
from vorlage.web.design.asking import for_paper
from vorlage.web.people.models import Department

from .models import Insert, Section, Test, TestPlace

FIELD = {"class": "form-control"}
# What typesetting an insert may take, in steps and in seconds of the processor.
MAXIMUM_STEPS, MAXIMUM_SECONDS = 1_500_000, 2.0


class MarksInput(forms.Field):
    """Marks as they are typed: ``2``, ``2.5``, ``1/2``, with a comma where the department writes one."""

    def __init__(self, most: Decimal = Decimal(100), nothing: bool = False, **options: Any) -> None:
        self.most, self.nothing = most, nothing
        widget = forms.TextInput(attrs={"class": "form-control", "inputmode": "decimal", "maxlength": 12})
        super().__init__(required=False, widget=widget, **options)

    def to_python(self, value: Any) -> Decimal | None:
        text = str(value or "").strip().replace(",", ".")
        if not text:
            return None
        try:
            if self.most <= 100:
                return to_marks(text)
            marks = Decimal(text)
            if not marks.is_finite():
                raise ArithmeticError
            least = marks >= 0 if self.nothing else marks > 0
            if not least or marks > self.most or marks * 100 != int(marks * 100):
                raise ArithmeticError
            return marks
        except ValueError as problem:
            raise forms.ValidationError(str(problem)) from None
        except ArithmeticError:
            raise forms.ValidationError(f"A number up to {self.most:,}, such as 60.") from None


class NewTestForm(forms.ModelForm):
    """A test that is begun: a title is enough."""

    def clean_title(self) -> str:
        return for_paper(self.cleaned_data["title"])

    class Meta:
        model = Test
        fields = ["title"]
        labels = {"title": "Title"}
        error_messages = {
            "title": {
                "required": "A test needs a title: it stands at the top of every paper.",
                "max_length": "A title has at most 200 characters.",
            }
        }
        widgets: dict[str, forms.Widget] = {
            "title": forms.TextInput(attrs=FIELD | {"placeholder": "Moments and levers"})
        }


class TestForm(NewTestForm):
    maximum = MarksInput(
        Decimal(1000), label="Scaled to a maximum of",
        help_text="Left empty, the marks count as they are.",
    )  # fmt: skip

    def __init__(self, *args: Any, department: Department | None = None, **options: Any) -> None:
        super().__init__(*args, **options)
        held = cast("forms.ModelChoiceField[Class]", self.fields["school_class"])
        held.queryset = Class.objects.filter(department=department) if department else Class.objects.none()
        held.empty_label = "none"

    def clean_instructions(self) -> str:
        return for_paper(self.cleaned_data["instructions"])

    def clean_before(self) -> str:
        return for_paper(self.cleaned_data["before"])

    class Meta(NewTestForm.Meta):
        fields = ["title", "instructions", "before", "school_class", "maximum", "in_order", "across"]
        labels = {
            **NewTestForm.Meta.labels,
            "instructions": "Text on the sheet",
            "before": "Text that students see before",
            "school_class": "Class",
            "in_order": "Options stay in the order in which they were written",
            "across": "On paper, short options stand beside each other",
        }
        widgets = {
            **NewTestForm.Meta.widgets,
            "instructions": forms.TextInput(attrs=FIELD | {"placeholder": "Show your working."}),
            "before": forms.TextInput(attrs=FIELD | {"placeholder": "Bring a ruler and a calculator."}),
            "school_class": forms.Select(attrs={"class": "form-select"}),
            "in_order": forms.CheckboxInput(attrs={"class": "form-check-input"}),
            "across": forms.CheckboxInput(attrs={"class": "form-check-input"}),
        }


def chosen_of(name: str, label: str) -> forms.ChoiceField:
    """A choice of how papers look."""
    select = forms.Select(attrs={"class": "form-select"})
    return forms.ChoiceField(choices=list(CHOICES[name].items()), label=label, widget=select)


def ticked(label: str) -> forms.BooleanField:
    return forms.BooleanField(
        required=False, label=label, widget=forms.CheckboxInput(attrs={"class": "form-check-input"})
    )


class LookForm(forms.Form):
    """How the papers of a test look."""

    paper = chosen_of("paper", "Paper")
    letters = chosen_of("letters", "Letters")
    face = chosen_of("face", "Face")
    language = chosen_of("language", "Words of the paper itself")
    header = chosen_of("header", "Head of the paper")
    mark = ticked("The mark of the school at the head")
    working = chosen_of("working", "Room for working")
    fill = ticked("What is left of a page is given to working")
    figures = chosen_of("figures", "Figures")
    sheet = ticked("Answers go on a sheet of their own, with boxes for choices")
    even = ticked("An even number of pages, for printing on both sides")
    cover = ticked("A cover, with a table for the marker")
    minutes = forms.IntegerField(
        required=False, min_value=1, max_value=MOST_MINUTES, label="Minutes allowed, as the cover says",
        widget=forms.NumberInput(attrs={"class": "form-control narrow"}),
    )  # fmt: skip
    materials = forms.CharField(
        required=False, max_length=200, label="What students need, as the cover says",
        widget=forms.TextInput(attrs=FIELD | {"placeholder": "a ruler, a pair of compasses"}),
    )  # fmt: skip

    def clean_materials(self) -> str:
        return for_paper(self.cleaned_data["materials"])


class BoundariesForm(forms.Form):
    """A field for every grade, from the best on; one that is left empty is not given."""

    told_in = forms.ChoiceField(
        choices=list(TOLD_IN.items()), label="Told in", widget=forms.Select(attrs={"class": "form-select"})
    )

    def __init__(self, found: Test, marks: Fraction, habits: Habits, data: Any = None) -> None:
        kept = Boundaries.of(found.boundaries)
        least = dict(kept.least)
        self.total = marks if found.maximum is None else Fraction(found.maximum)
        # a grade stays that the department does not name any more
        self.names = list(dict.fromkeys([*found.department.boundary_names, *least]))
        initial: dict[str, Any] = {"told_in": kept.told_in}
        for number, name in enumerate(self.names):
            initial[f"least_{number}"] = from_document(str(least[name]), habits) if name in least else ""
        super().__init__(data, initial=initial)
        for number, name in enumerate(self.names):
            self.fields[f"least_{number}"] = MarksInput(Decimal(1000), nothing=True, label=f"{name}, from")

    @property
    def boundaries(self) -> Boundaries:
        """What was typed, when it can stand."""
        given = [(name, self.cleaned_data.get(f"least_{number}")) for number, name in enumerate(self.names)]
        return Boundaries(self.cleaned_data["told_in"], tuple((name, each) for name, each in given if each is not None))

    def clean(self) -> dict[str, Any]:
        found: dict[str, Any] = super().clean() or {}
        if not self.errors:
            typed = [name for number, name in enumerate(self.names) if found.get(f"least_{number}") is not None]
            for number, why in self.boundaries.wrong(self.total).items():
                self.add_error(f"least_{self.names.index(typed[number])}", why)
        return found


class InsertForm(forms.ModelForm):
    """A sheet that is written, or a PDF that is given; what is printed comes of it when it is valid."""

    given = forms.FileField(
        required=False, label="or a PDF", help_text="At most 20 pages; each is printed on A4.",
        widget=forms.FileInput(attrs={"class": "form-control", "accept": "application/pdf,.pdf"}),
    )  # fmt: skip

    def __init__(self, *args: Any, habits: Habits = USUAL, department: str = "", **options: Any) -> None:
        super().__init__(*args, **options)
        self.habits, self.heads = habits, department
        self.pdf = b""
        if self.instance.pk and not self.instance.text:
            del self.fields["text"]
            self.fields["given"].label = "Another PDF in its place"

    @property
    def key(self) -> str:
        """What its fields are called on the page, where there are several such forms."""
        return f"insert-{self.instance.pk or 'new'}"

    def clean_name(self) -> str:
        return for_paper(self.cleaned_data["name"])

    def clean(self) -> dict[str, Any]:
        found: dict[str, Any] = super().clean() or {}
        name, text, given = found.get("name"), str(found.get("text") or ""), found.get("given")
        if not name:
            return found
        if text.strip() and given:
            self.add_error("given", "Either write the sheet or give a PDF: this has both.")
        elif given or text.strip():
            try:
                self.pdf = laid_insert(name, given.read(MOST_BYTES + 1)) if given else self.typeset(name, text)
            except InsertError as problem:
                self.add_error("given" if given else "text", problem.message)
        elif not self.instance.pk or self.instance.text:
            self.add_error("text" if "text" in self.fields else "given", "Write the sheet, or choose a PDF.")
        return found

    def typeset(self, name: str, text: str) -> bytes:
        wrong = next(unprintable(text), None)
        if wrong is not None:
            raise InsertError("not_read", wrong.message)
        try:
            with budgeted(MAXIMUM_STEPS, MAXIMUM_SECONDS):
                return typeset_insert(name, text, self.heads, self.habits)
        except OutOfBudget:
            raise InsertError("too_costly", "This takes too long to be worked out. Make it shorter.") from None

    field_order = ("name", "text", "given", "behind")

    class Meta:
        model = Insert
        fields = ["name", "text", "behind"]
        labels = {
            "name": "Name",
            "text": "A sheet to be written: text, tables, formulas",
            "behind": "Printed behind every paper",
        }
        error_messages = {"name": {"required": "A name is needed, such as Data sheet."}}
        widgets = {
            "name": forms.TextInput(attrs=FIELD | {"placeholder": "Data sheet"}),
            "text": forms.Textarea(
                attrs=FIELD | {"rows": 5, "maxlength": 8000, "placeholder": "The moment of a force: $M = F*d$"}
            ),
            "behind": forms.CheckboxInput(attrs={"class": "form-check-input"}),
        }


class SectionForm(forms.ModelForm):
    calculator = forms.TypedChoiceField(
        required=False, empty_value=None, coerce=lambda text: text == "yes", label="Calculator",
        choices=[("", "nothing said"), ("yes", "allowed"), ("no", "not allowed")],
        widget=forms.Select(attrs={"class": "form-select"}),
    )  # fmt: skip

    def __init__(self, *args: Any, **options: Any) -> None:
        super().__init__(*args, **options)
        self.initial["calculator"] = {True: "yes", False: "no"}.get(self.instance.calculator, "")

    def clean_title(self) -> str:
        return for_paper(self.cleaned_data["title"])

    def clean_text(self) -> str:
        return for_paper(self.cleaned_data["text"])

    class Meta:
        model = Section
        fields = ["title", "text", "calculator", "new_page", "mixed"]
        labels = {
            "title": "Name",
            "text": "Text above its questions",
            "new_page": "Begins on a new page",
            "mixed": "Every form has its questions in another order",
        }
        widgets = {
            "title": forms.TextInput(attrs=FIELD | {"placeholder": "Part A"}),
            "text": forms.TextInput(attrs=FIELD),
            "new_page": forms.CheckboxInput(attrs={"class": "form-check-input"}),
            "mixed": forms.CheckboxInput(attrs={"class": "form-check-input"}),
        }


class PlaceForm(forms.ModelForm):
    marks = MarksInput(label="Marks of each question", help_text="Left empty, as the question says.")

    def __init__(self, *args: Any, **options: Any) -> None:
        super().__init__(*args, **options)
        if not self.instance.pool:
            del self.fields["take"], self.fields["name"]

    def clean_name(self) -> str:
        return for_paper(self.cleaned_data["name"])

    class Meta:
        model = TestPlace
        fields = ["take", "name", "marks", "bonus", "room", "room_height"]
        labels = {
            "take": "Questions that a form gets",
            "name": "Name of the pool",
            "bonus": "Bonus: beyond the marks of the test",
            "room": "Room for working on paper",
            "room_height": "Its height in millimetres",
        }
        widgets = {
            "take": forms.NumberInput(attrs=FIELD | {"min": 1, "max": 30}),
            "name": forms.TextInput(attrs=FIELD | {"placeholder": "Levers, level 2"}),
            "bonus": forms.CheckboxInput(attrs={"class": "form-check-input"}),
            "room": forms.Select(attrs={"class": "form-select"}, choices=list(ROOMS.items())),
            "room_height": forms.NumberInput(attrs=FIELD | {"min": 10, "max": MOST_ROOM}),
        }
        help_texts = {"room_height": "Left empty, as much as the marks ask for."}
