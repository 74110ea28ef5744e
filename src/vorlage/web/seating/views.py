"""Seat plans: made for a class and a form set, looked at, moved by hand, printed."""

from __future__ import annotations

import random
from collections.abc import Sequence
from dataclasses import dataclass, field

from django.contrib import messages
from django.db import transaction
from django.http import Http404, HttpResponse, HttpResponseBase
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.forms import MOST_COLUMNS, MOST_ROWS, Costs, Nearness, neighbours
from vorlage.web.classes.models import Student
from vorlage.web.files.responses import sent
from vorlage.web.forms.views import frozen_context, set_of
from vorlage.web.jobs.models import Job, workers_live
from vorlage.web.once.models import once
from vorlage.web.people.permissions import held, may, member
from vorlage.web.people.requests import MemberRequest

from .forms import SeatPlanForm
from .models import PRINTING, Seat, SeatPlan, written_in


@dataclass
class Pair:
    """Two neighbours who have something in common."""

    one: Seat
    other: Seat
    nearness: Nearness
    shared: int

    @property
    def same(self) -> bool:
        """Whether they have the same form."""
        return self.one.form_id == self.other.form_id

    @property
    def weight(self) -> int:
        return self.shared * self.nearness.weight

    @property
    def words(self) -> str:
        if self.same:
            return f"both have form {self.one.form.code if self.one.form else ''}"
        return f"{self.shared} answer{'' if self.shared == 1 else 's'} alike"


@dataclass
class Cell:
    """A cell of the room as it is drawn: a desk, a gap, or what lies between two or four desks."""

    kind: str
    where: str = ""
    seat: Seat | None = None
    pairs: list[Pair] = field(default_factory=list)

    @property
    def same(self) -> bool:
        return any(pair.same for pair in self.pairs)

    @property
    def shared(self) -> int:
        return sum(pair.shared for pair in self.pairs)

    @property
    def words(self) -> str:
        return "; ".join(f"{pair.one.student} and {pair.other.student}: {pair.words}" for pair in self.pairs)


def plan_of(request: MemberRequest, pk: int, permission: str = "seating.change_seatplan") -> SeatPlan:
    """A seat plan, when the member may do this with it."""
    among = SeatPlan.objects.select_related("form_set__test", "held", "job", "printing", "papers")
    return held(request, permission, among, pk=pk)


@member
@require_POST
@once
def new_plan(request: MemberRequest, pk: int) -> HttpResponse:
    """Order a seat plan for a class; a worker gives the forms."""
    source = set_of(request, pk, "forms.cancel_formset")
    if not source.frozen:
        raise Http404
    form = SeatPlanForm(source, request.user, request.POST)
    if not form.is_valid():
        context = frozen_context(request, source, refused_seats=form)
        return render(request, "forms/form_set.html", context, status=422)
    asked = form.cleaned_data
    enrolled = Student.objects.filter(enrolments__held=asked["held"], enrolments__left=None)
    students = in_order(list(enrolled), asked["seated"])
    made = SeatPlan.order(source, asked["held"], asked["room"], students, asked["apart"], request.user)
    return redirect("seat-plan", made.pk)


def in_order(students: list[Student], how: str) -> list[Student]:
    if how == "mixed":
        random.SystemRandom().shuffle(students)
    return students


@member
@require_GET
def seat_plan(request: MemberRequest, pk: int) -> HttpResponse:
    return plan_page(request, plan_of(request, pk, "seating.view_seatplan"))


def plan_page(request: MemberRequest, plan: SeatPlan, status: int = 200, **more: object) -> HttpResponse:
    """The whole page, or for htmx what changes of it."""
    template = "seating/_plan.html" if request.htmx else "seating/plan.html"
    return render(request, template, plan_context(request, plan) | more, status=status)


def plan_context(request: MemberRequest, plan: SeatPlan) -> dict[str, object]:
    context: dict[str, object] = {
        "plan": plan, "form_set": plan.form_set, "test": plan.form_set.test,
        "may_change": may(request.membership, "seating.change_seatplan", plan),
        "no_worker": working(plan) and not workers_live(),
    }  # fmt: skip
    if plan.is_being_given:
        return context
    seated = plan.seated
    pairs = pairs_of(seated)
    now = {student.pk for student in plan.students()}
    return context | {
        "seated": seated,
        "lines": drawn(plan, seated, pairs),
        "same": [pair for pair in pairs if pair.same],
        "alike": sorted((pair for pair in pairs if not pair.same), key=lambda pair: -pair.weight),
        "shared": sum(pair.shared for pair in pairs if not pair.same),
        "by_name": sorted(seated, key=lambda seat: seat.student.search_text),
        "missing": len(now - {seat.student_id for seat in seated}),
        "gone": sum(seat.student_id not in now for seat in seated),
        "without": sum(seat.form_id is None for seat in seated),
    }


def working(plan: SeatPlan) -> bool:
    return any(job is not None and job.open for job in (plan.job, plan.printing))


def pairs_of(seated: Sequence[Seat]) -> list[Pair]:
    """The neighbours who have the same form or answers alike."""
    there = [seat for seat in seated if seat.form_id and seat.row is not None and seat.column is not None]
    written = written_in({seat.form_id for seat in there if seat.form_id})
    numbers = {pk: number for number, pk in enumerate(written)}
    costs, found = Costs(list(written.values())), []
    for each in neighbours([(seat.row or 0, seat.column or 0) for seat in there]):
        one, other = there[each.one], there[each.other]
        same = one.form_id == other.form_id
        shared = 0 if same else costs.of(numbers[one.form_id or 0], numbers[other.form_id or 0])
        if same or shared:
            found.append(Pair(one, other, each.nearness, shared))
    return found


def drawn(plan: SeatPlan, seated: Sequence[Seat], pairs: Sequence[Pair]) -> list[list[Cell]]:
    """The room as rows of cells: between the desks lies what their neighbours have in common. The front row is first;
    it is last where the plan is turned."""
    at = {(seat.row, seat.column): seat for seat in seated}
    seats = set(plan.layout.seats)
    lines = [[Cell("between") for _ in range(2 * plan.columns - 1)] for _ in range(2 * plan.rows - 1)]
    for row in range(plan.rows):
        for column in range(plan.columns):
            kind = "desk" if (row, column) in seats else "gap"
            lines[2 * row][2 * column] = Cell(kind, f"{row}-{column}", at.get((row, column)))
    for pair in pairs:
        down = (pair.one.row or 0) + (pair.other.row or 0)
        lines[down][(pair.one.column or 0) + (pair.other.column or 0)].pairs.append(pair)
    return [line[::-1] for line in lines[::-1]] if plan.turned else lines


@member
@require_GET
def progress(request: MemberRequest, pk: int) -> HttpResponse:
    """Asked for again and again while forms are given or papers printed."""
    plan = plan_of(request, pk, "seating.view_seatplan")
    if working(plan):
        return render(request, "seating/_working.html", plan_context(request, plan) | {"plan": plan})
    response = HttpResponse(status=204)
    response["HX-Refresh"] = "true"
    return response


@member
@require_POST
def stop(request: MemberRequest, pk: int) -> HttpResponse:
    """End the work that is being done for a plan."""
    plan = plan_of(request, pk)
    for job in (plan.job, plan.printing):
        if job is not None:
            job.cancel()
    return redirect("seat-plan", pk)


def seat_in(text: str) -> tuple[int, int] | None:
    """A seat as a page sends it, ``2-5``."""
    row, _, column = text.partition("-")
    if not (row.isdecimal() and column.isdecimal() and len(text) < 8):
        return None
    return (int(row), int(column)) if int(row) < MOST_ROWS and int(column) < MOST_COLUMNS else None


@member
@require_POST
def move(request: MemberRequest, pk: int) -> HttpResponse:
    """Let somebody change places, or two change papers."""
    plan = plan_of(request, pk)
    start, end = seat_in(request.POST.get("from", "")), seat_in(request.POST.get("to", ""))
    refused = ""
    if plan.is_being_given:
        refused = "Forms are being given at this moment. Move people when that is done."
    elif start is None or end is None or not plan.move(start, end, request.POST.get("what") == "paper"):
        refused = "That cannot be moved there: there is no seat, or nobody whose paper could be changed."
    plan = plan_of(request, pk)
    if not request.htmx and not refused:
        return redirect("seat-plan", pk)
    kept = {"moved": request.POST.get("to", ""), "what": request.POST.get("what", "")}
    return plan_page(request, plan, 422 if refused else 200, refused=refused, **kept)


@member
@require_POST
def anew(request: MemberRequest, pk: int) -> HttpResponse:
    """Give the forms anew, seat everybody anew, bring the plan up to date with the class, or look at it from the
    other side."""
    plan, how = plan_of(request, pk), request.POST.get("do", "")
    if how == "turn":
        SeatPlan.objects.filter(pk=pk).update(turned=not plan.turned)
        return redirect("seat-plan", pk)
    if plan.is_being_given:
        return redirect("seat-plan", pk)
    with transaction.atomic():
        if how in {"names", "mixed"}:
            students = plan.students()
            if len(students) <= len(plan.layout.seats):
                plan.seat(in_order(students, how))
                plan.give(request.user)
            else:
                messages.error(request, no_room(plan))
        elif not plan.bring_up_to_date(request.user):
            messages.error(request, no_room(plan))
    return redirect("seat-plan", pk)


def no_room(plan: SeatPlan) -> str:
    seats = len(plan.layout.seats)
    return (
        f"{plan.room_name} has {seats} seats, and more students are in {plan.held.name}. Make a plan in another room."
    )


@member
@require_POST
def order_papers(request: MemberRequest, pk: int) -> HttpResponse:
    """Order the papers of the class, each with the name of who gets it; what is being printed already goes on."""
    plan = plan_of(request, pk)
    if plan.is_being_given or plan.seats.filter(form=None).exists():
        messages.error(request, "Not everybody has a form yet.")
    elif plan.papers is None and not (plan.printing and plan.printing.open):
        with transaction.atomic():
            job = Job.order(PRINTING, request.user, plan.seats.count(), plan=plan.pk)
            SeatPlan.objects.filter(pk=plan.pk).update(printing=job)
    return redirect("seat-plan", pk)


@member
@require_GET
def class_papers(request: MemberRequest, pk: int) -> HttpResponseBase:
    """The papers of the class, as they were printed."""
    plan = plan_of(request, pk, "seating.view_seatplan")
    if plan.papers is None:
        raise Http404
    return sent(request, plan.papers, "application/pdf", f"{plan.form_set.title} {plan.held.name} papers.pdf")


@member
@require_POST
def remove(request: MemberRequest, pk: int) -> HttpResponse:
    plan = plan_of(request, pk)
    for job in (plan.job, plan.printing):
        if job is not None:
            job.cancel()
    plan.delete()
    messages.success(request, f"The seat plan of {plan.held.name} is removed.")
    return redirect("form-set", plan.form_set_id)
