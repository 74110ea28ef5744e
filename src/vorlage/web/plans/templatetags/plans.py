"""The forms that stand in the lines of a plan."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django import forms, template
from django.forms import BoundField
from django.utils.safestring import SafeString

from vorlage.web.plans.forms import PlaceForm, SectionForm
from vorlage.web.plans.models import Section, TestPlace

register = template.Library()
if TYPE_CHECKING:
    Form = forms.ModelForm[Any]
FORMS: dict[type, type[Form]] = {Section: SectionForm, TestPlace: PlaceForm}


@register.filter
def words(text: str) -> list[str]:
    return text.split()


@register.filter
def own_form(row: Section | TestPlace, refused: Form | None) -> Form:
    """What can be changed of a section or a place: as it was sent where it was refused."""
    if refused and refused.instance.pk == row.pk and isinstance(refused.instance, type(row)):
        return refused
    return FORMS[type(row)](instance=row)


@register.filter
def as_field(field: BoundField, key: str) -> SafeString:
    """A field under a name of its own, since every line has the same."""
    attributes: dict[str, str | bool] = {"id": f"{key}-{field.name}"}
    if field.errors:
        attributes["aria-invalid"] = "true"
    return field.as_widget(attrs=attributes)
