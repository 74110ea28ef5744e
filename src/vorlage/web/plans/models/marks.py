"""The mark of a school, at the head of its papers."""

from __future__ import annotations

from django.db import models

from vorlage.core.documents import Emblem
from vorlage.web.files.models import Stored
from vorlage.web.people.models import School


class SchoolMark(models.Model):
    """A picture that stands for the school, as it is printed. It never changes: another one follows it, and papers that
    were made keep theirs."""

    school = models.ForeignKey(School, on_delete=models.CASCADE, related_name="marks")
    file = models.ForeignKey(Stored, on_delete=models.PROTECT, related_name="+")
    media_type = models.CharField(max_length=20)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    created = models.DateTimeField(auto_now_add=True)
    # when it was taken away, or another came in its place
    withdrawn = models.DateTimeField(null=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["school"], condition=models.Q(withdrawn=None), name="one_mark_a_school_at_a_time"
            )
        ]

    def __str__(self) -> str:
        return f"The mark of {self.school}"

    @classmethod
    def of(cls, school: int) -> SchoolMark | None:
        return cls.objects.select_related("school").filter(school=school, withdrawn=None).first()

    @property
    def emblem(self) -> Emblem:
        return Emblem(self.file_id, self.width, self.height, str(self.school))
