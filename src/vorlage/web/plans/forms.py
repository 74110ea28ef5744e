"""What is typed about a test."""

from __future__ import annotations

from django import forms

from vorlage.web.design.asking import for_paper

from .models import Test


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
