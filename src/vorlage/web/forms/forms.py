"""How many forms are wanted."""

from __future__ import annotations

from django import forms

from vorlage.core.forms import MAXIMUM_FORMS


class FormCountForm(forms.Form):
    count = forms.IntegerField(
        label="How many forms",
        min_value=1,
        max_value=MAXIMUM_FORMS,
        initial=4,
        widget=forms.NumberInput(attrs={"class": "form-control", "inputmode": "numeric", "x-on:input": "choose"}),
        error_messages={
            "required": "Say how many forms you need, such as 4.",
            "invalid": "A whole number is needed here, such as 4.",
            "min_value": "At least one form is needed.",
            "max_value": f"At most {MAXIMUM_FORMS} forms can be made at once.",
        },
    )
