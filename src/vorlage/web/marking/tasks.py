"""What was decided about a group of answers is given to later ones that fall into it; the marked work of a class is put
into one PDF."""

from __future__ import annotations

import tempfile
from fractions import Fraction

from django.db.models import Exists, OuterRef
from django.utils import timezone

from vorlage.core.documents import Joined
from vorlage.core.errors import CoreError
from vorlage.web.files.models import Stored
from vorlage.web.jobs.models import Job, JobFailed
from vorlage.web.jobs.tasks import does, regularly
from vorlage.web.sittings.marking import as_pdf
from vorlage.web.sittings.models import Sitting, Taking

from .giving import Given, give
from .models import RETURNING, ClassWork, Decision
from .overview import asked_in
from .places import marked_part
from .results import results_of
from .stack import newest_mark, rows_back


@does(RETURNING)
def return_to_a_class(job: Job) -> None:
    """Put the marked work of everybody into one PDF, in class order, each under a bookmark."""
    sitting = Sitting.objects.select_related("form_set", "test__department").get(pk=job.arguments["sitting"])
    upto, rows = newest_mark(sitting), rows_back(sitting)
    found = [row.taking for row in results_of(sitting).rows]
    Job.objects.filter(pk=job.pk).update(total=len(found))
    with tempfile.TemporaryFile() as file:
        whole = Joined(file, len(found))
        for number, taking in enumerate(found):
            job.note(number, "Printing marked work")
            who = taking.student.full_name if taking.student is not None else taking.who
            try:
                whole.add(who, as_pdf(taking, rows, who))
            except CoreError as problem:
                raise JobFailed(problem.message) from problem
        whole.finish()
        with job.finishing():
            ClassWork.objects.filter(sitting=sitting, job=job).update(
                file=Stored.keep(file), upto=upto, at=timezone.now()
            )


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
