"""What is printed with the papers of a test and is none of its questions."""

from __future__ import annotations

from django.db import models

from vorlage.web.files.models import Stored

# A test has so many at most.
MOST_INSERTS = 6


class Insert(models.Model):
    """A sheet of data or formulas that was written, or a PDF that was given, as it is printed."""

    test = models.ForeignKey("plans.Test", on_delete=models.CASCADE, related_name="inserts")
    position = models.PositiveSmallIntegerField()
    name = models.CharField(max_length=80)
    # what was written; empty for a PDF that was given
    text = models.TextField(blank=True)
    file = models.ForeignKey(Stored, on_delete=models.PROTECT, related_name="+")
    pages = models.PositiveSmallIntegerField()
    # printed behind every paper; otherwise once, in a file of its own
    behind = models.BooleanField(default=True)

    class Meta:
        ordering = ["test", "position", "pk"]

    def __str__(self) -> str:
        return self.name
