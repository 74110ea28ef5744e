"""Results that are released as soon as everything is marked."""

from __future__ import annotations

from datetime import datetime

from django.db import transaction
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
    given = Mark.objects.filter(taking__sitting=sitting, taking__tried_by=None).exclude(taking__handed_in=None)
    latest = given.order_by("taking_id", "position", "part", "-pk").distinct("taking_id", "position", "part")
    found = list(latest.values_list("outcome", "by", "most"))
    waits = any(
        outcome == "waiting" or (outcome == "unreadable" and by is None) for outcome, by, most in found if most != "0"
    )
    return bool(found) and not waits
