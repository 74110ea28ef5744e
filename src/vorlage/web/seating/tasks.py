"""The work of giving forms to seats, and of printing the papers of a class with names."""

from __future__ import annotations

import tempfile
from dataclasses import replace

from vorlage.core.documents import Holder, Joined, Printing
from vorlage.core.errors import CoreError
from vorlage.core.forms import give
from vorlage.web.classes.models import Allowance
from vorlage.web.files.models import Stored
from vorlage.web.forms.kept import kept_forms
from vorlage.web.forms.tasks import heading_of, plan_of
from vorlage.web.jobs.models import Job, JobFailed
from vorlage.web.jobs.tasks import does

from .models import GIVING, PRINTING, Seat, SeatPlan, written_in

# So many forms are read at a time.
FORMS = 20


@does(GIVING)
def give_forms(job: Job) -> None:
    """Give a form of the set to everybody who has a seat."""
    plan = SeatPlan.objects.get(pk=job.arguments["plan"])
    job.note(0, "Giving forms")
    seats = plan.seated
    forms = list(plan.form_set.forms.order_by("position").values_list("pk", flat=True))
    papers = list(written_in(forms).values())
    where = [(each.row, each.column) for each in seats if each.row is not None and each.column is not None]
    given = give(where, papers, lambda: job.note(0, "Giving forms"))
    for seat, number in zip(seats, given):
        seat.form_id = forms[number]
    with job.finishing():
        Seat.objects.bulk_update(seats, ["form"])


@does(PRINTING)
def print_papers(job: Job) -> None:
    """The paper of everybody who has a seat, with their name, in the order of the seats, inserts behind each."""
    plan = SeatPlan.objects.select_related("held", "form_set__test__department__school").get(pk=job.arguments["plan"])
    order, seats = plan.form_set, [each for each in plan.seated if each.form_id]
    places = order.read
    heading = heading_of(order)
    printing = Printing(plan_of(order, places), heading, order.uploaded)
    # those who are allowed large print get it, whatever the others have
    enlarged = Printing(printing.plan, replace(heading, look=heading.look.enlarged), order.uploaded)
    allowed = Allowance.objects.filter(student__in=[each.student_id for each in seats], large_print=True)
    large = set(allowed.values_list("student", flat=True))
    inserts = [each.file.read() for each in order.inserts.filter(behind=True).select_related("file")]
    with tempfile.TemporaryFile() as file:
        whole = Joined(file, len(seats) * (1 + len(inserts)))
        for start in range(0, len(seats), FORMS):
            some = seats[start : start + FORMS]
            forms = kept_forms(order, places, {each.form_id for each in some if each.form_id})
            for number, seat in enumerate(some, start):
                job.note(number, "Printing papers")
                holder = Holder(seat.student_id, seat.student.full_name, plan.held.name, seat.where)
                try:
                    how = enlarged if seat.student_id in large else printing
                    paper = how.papers([forms[seat.form_id or 0]], [holder])
                except CoreError as problem:
                    raise JobFailed(problem.message) from problem
                whole.add(f"{seat.student}, form {seat.form.code if seat.form else ''}", paper)
                for each in inserts:
                    whole.add("", each)
            printing.thawed.clear()
            enlarged.thawed.clear()
        whole.finish()
        with job.finishing():
            # what was moved meanwhile has other papers
            SeatPlan.objects.filter(pk=plan.pk, printing=job.pk).update(papers=Stored.keep(file))
