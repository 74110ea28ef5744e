"""Questions as students see them, and what lies beside them; no key is in these rows."""

from __future__ import annotations

from functools import lru_cache

from django.db import models

from vorlage.web.files.models import Stored
from vorlage.web.forms.models import Form, FormItem, FormSetInsert


class StudentItem(models.Model):
    """A question of a form as students see it, and what reads their answers; no key is in it."""

    item = models.OneToOneField(FormItem, on_delete=models.CASCADE, primary_key=True, related_name="for_students")
    form = models.ForeignKey(Form, on_delete=models.CASCADE, related_name="for_students")
    position = models.PositiveSmallIntegerField()
    section = models.CharField(max_length=120, blank=True)
    # its number in the set, from 0
    section_number = models.PositiveSmallIntegerField(default=0)
    # as ``StudentSheet`` has them
    shown = models.JSONField()
    readers = models.JSONField()
    hints = models.JSONField(default=dict)

    class Meta:
        ordering = ["form", "position"]
        indexes = [models.Index(fields=["form", "position"], name="sheets_of_a_form")]

    def __str__(self) -> str:
        return f"Question {self.position + 1} of form {self.form_id} for students"

    @property
    def place_on_form(self) -> int:
        """The question of the form that it is, from 0."""
        return self.position

    @property
    def called(self) -> str:
        """Its number, as it stands before it."""
        return str(self.position + 1)


@lru_cache(maxsize=1024)
def places_in_sections(form: int) -> tuple[int, ...]:
    """The section of every question of a form by its number, in the order of the questions: laid out once. Raises
    ``LookupError`` while it is not laid out."""
    found = tuple(StudentItem.objects.filter(form=form).order_by("position").values_list("section_number", flat=True))
    if not found:
        # not kept: a moment later it would be missed for good
        raise LookupError
    return found


def sections_of(form: int) -> tuple[int, ...]:
    """The numbers of the sections of a form that have questions. Raises ``LookupError`` while it is not laid out."""
    return tuple(sorted(set(places_in_sections(form))))


class InsertPage(models.Model):
    """A page of what lies beside the questions, as a picture."""

    insert = models.ForeignKey(FormSetInsert, on_delete=models.CASCADE, related_name="pictures")
    number = models.PositiveSmallIntegerField()
    picture = models.ForeignKey(Stored, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["insert", "number"], name="one_picture_an_insert_page")]

    def __str__(self) -> str:
        return f"Page {self.number} of {self.insert}"
