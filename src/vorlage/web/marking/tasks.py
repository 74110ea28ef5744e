"""What was decided about a group of answers is given to later ones that fall into it."""

from __future__ import annotations

from fractions import Fraction

from django.db.models import Exists, OuterRef
from django.utils import timezone

from vorlage.web.jobs.tasks import regularly
from vorlage.web.sittings.models import Taking

from .giving import Given, give
from .models import Decision
from .overview import asked_in
from .places import marked_part


@regularly
def give_to_later_ones() -> None:
    """Look for answers that were handed in after a decision about their group, and are marked by the rules alone."""
    now = timezone.now()
    marked_since = Taking.objects.counted().filter(sitting=OuterRef("sitting"), marked__gt=OuterRef("looked"))
    open_ones = Decision.objects.filter(Exists(marked_since), later=True, undone=None)
    for decision in open_ones.filter(sitting__archived=None).select_related("sitting__form_set", "by").order_by("pk"):
        carry_on(decision)
        Decision.objects.filter(pk=decision.pk).update(looked=now)


def carry_on(decision: Decision) -> int:
    """Give what was decided to later answers of the group; how many there were. Somebody's own mark stays."""
    asked = next(
        (
            each
            for each in asked_in(decision.sitting)
            if (each.candidate.pk, each.part) == (decision.candidate_id, decision.part)
        ),
        None,
    )
    if asked is None:
        return 0
    found = marked_part(decision.sitting, asked, decision.by_id)
    group = found.column.group(decision.group)
    members = [] if group is None else found.of(group)
    places = [
        (each.taking.pk, each.entry.position)
        for each in members
        if each.mark is not None and each.mark.by_id is None
        and each.taking.handed_in is not None and each.taking.handed_in > decision.at
    ]  # fmt: skip
    if not places:
        return 0
    reason = decision.reason or "as decided for its group"
    given = Given(decision.by, Fraction(decision.share) * found.most, reason, comment=decision.comment or None)
    return len(give(decision.sitting, decision.part, places, given).given)
