"""Results that are released as soon as everything is marked."""

from __future__ import annotations

from datetime import datetime

from django.db import transaction
from django.db.models import Exists, OuterRef, QuerySet
from django.utils import timezone

from vorlage.core.sittings import HANDED_IN, MISSED

from .models import Mark, Sitting

# Where a student can be of whom nothing comes any more.
DONE = {HANDED_IN, MISSED}


def release_what_is_marked() -> None:
    """Release the results that wait for nothing but marks."""
    now = timezone.now()
    for pk in Sitting.objects.filter(when_marked=True, released=None, archived=None).values_list("pk", flat=True):
        with transaction.atomic():
            sitting = Sitting.objects.select_for_update(of=("self",)).get(pk=pk)
            if sitting.when_marked and sitting.released is None and is_marked(sitting, now):
                sitting.released, sitting.when_marked = now, False
                sitting.save(update_fields=["released", "when_marked"])
                sitting.note("released", reason="everything is marked")


def is_marked(sitting: Sitting, now: datetime) -> bool:
    """Whether everybody is done, and no answer of theirs waits for a mark or could not be read."""
    takings = list(sitting.takings.counted().current().select_related("student__allowance"))
    for each in takings:
        each.sitting = sitting
        if each.handed_in is None and not each.absent and each.phase(now) not in DONE:
            return False
        if each.handed_in is not None and each.marked is None:
            return False
    marked = any(each.marked is not None for each in takings)
    return marked and not open_marks(Sitting.objects.filter(pk=sitting.pk)).exists()


def open_marks(sittings: QuerySet[Sitting]) -> QuerySet[Mark]:
    """The marks, the last of their answers, that wait for somebody or say that nothing could be read; of a survey there
    is nothing to mark."""
    later = Mark.objects.filter(
        taking=OuterRef("taking"), position=OuterRef("position"), part=OuterRef("part"), pk__gt=OuterRef("pk")
    )
    found = Mark.objects.filter(
        taking__sitting__in=sittings.order_by().values("pk"), taking__tried_by=None, by=None,
        outcome__in=["waiting", "unreadable"],
    ).exclude(taking__handed_in=None).exclude(most="0")  # fmt: skip
    return found.exclude(Exists(later))
