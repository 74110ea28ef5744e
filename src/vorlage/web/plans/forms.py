"""What is typed about a test."""

from __future__ import annotations

from django import forms

from vorlage.core.text import put_right, unprintable

from .models import Test


def for_paper(text: str) -> str:
    """What stands on every paper, put right. Raises ``ValidationError`` for what cannot be printed."""
    found = next(unprintable(text), None)
    if found is not None:
        raise forms.ValidationError(found.message)
    return put_right(text)


class TestForm(forms.ModelForm):
    def clean_title(self) -> str:
        return for_paper(self.cleaned_data["title"])

    def clean_instructions(self) -> str:
        return for_paper(self.cleaned_data["instructions"])

    class Meta:
        model = Test
        fields = ["title", "instructions"]
        labels = {"title": "Title", "instructions": "Instructions on the paper"}
        error_messages = {
            "title": {
                "required": "A test needs a title: it stands at the top of every paper.",
                "max_length": "A title has at most 200 characters.",
            }
        }
        widgets = {
            "title": forms.TextInput(attrs={"class": "form-control", "placeholder": "Moments and levers"}),
            "instructions": forms.TextInput(
                attrs={"class": "form-control", "placeholder": "Show your working. Calculators are allowed."}
            ),
        }
