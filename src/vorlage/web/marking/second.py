"""A second marking of chosen answers, with or without sight of the first; differences are listed and settled by a third
decision, and agreement is told."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from django.contrib import messages
from django.db import transaction
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.answers import read_plain, shown_marks
from vorlage.core.marking import MarkRefused, read_given_marks
from vorlage.web.people.models import User
from vorlage.web.people.permissions import may, personally
from vorlage.web.people.requests import MemberRequest
from vorlage.web.sittings.models import Sitting

from .columns import mixed
from .giving import Given, give
from .models import SecondMark, SecondMarking
from .overview import asked_in
from .places import Answer, Marked, marked_part, part_of, sitting_to_mark
from .results import near_a_line
from .views import mark_buttons, one_answer


@dataclass(frozen=True)
class Compared:
    """An answer that was marked twice."""

    answer: Answer
    second: SecondMark

    @property
    def gap(self) -> Fraction:
        return abs(Fraction(self.second.marks) - (self.answer.marks or Fraction(0)))


@dataclass(frozen=True)
class Agreement:
    """How far two markings agree: how many of how many are equal, and by how much the second is above on the mean."""

    count: int
    equal: int
    mean: Fraction

    @property
    def share(self) -> int:
        return round(100 * self.equal / self.count) if self.count else 0


def chosen_in(marking: SecondMarking, found: Marked) -> list[Answer]:
    """The answers that are marked a second time, in their mixed order."""
    if marking.chosen is None:
        return found.answers
    return [each for each in found.answers if each.entry.place in marking.chosen]


def choose(choice: str, found: Marked, seed: int, within: Fraction) -> list[str] | None:
    """The answers that are to be marked a second time, of those that are there now; None for all, those that come later
    too. ``within`` says how near a boundary is near, as a share. Raises ``ValueError`` with what is missing."""
    some = found.answers
    if choice == SecondMarking.Choice.NTH:
        some = some[::3]
    elif choice == SecondMarking.Choice.TENTH:
        ordered = sorted(some, key=lambda each: mixed(seed, each.taking.pk, each.entry.position))
        some = ordered[: max(1, round(len(ordered) / 10))]
    elif choice == SecondMarking.Choice.NEAR:
        near = near_a_line(found.sitting, within)
        if near is None:
            raise ValueError(
                "There are no grade boundaries and nothing to pass here: set them in How marks are counted."
            )
        some = [each for each in some if each.taking.pk in near]
        if not some:
            raise ValueError("Nobody's total is so near a boundary.")
    else:
        return None
    return [each.entry.place for each in some]


def marks_in(marking: SecondMarking) -> dict[tuple[int, int], SecondMark]:
    return {(each.taking_id, each.position): each for each in marking.marks.all()}


def compared(marking: SecondMarking, found: Marked) -> list[Compared]:
    given = marks_in(marking)
    return [
        Compared(each, given[each.taking.pk, each.entry.position])
        for each in chosen_in(marking, found)
        if (each.taking.pk, each.entry.position) in given and each.marks is not None
    ]


def agreement(rows: list[Compared]) -> Agreement:
    gaps = [Fraction(row.second.marks) - (row.answer.marks or Fraction(0)) for row in rows]
    return Agreement(
        len(rows), sum(not gap for gap in gaps), sum(gaps, Fraction(0)) / len(rows) if rows else Fraction(0)
    )


def to_settle(marking: SecondMarking, rows: list[Compared]) -> list[Compared]:
    """The differences that are above what is allowed, and not settled."""
    return [row for row in rows if row.gap > Fraction(marking.allowed) and row.second.settled is None]


def markers_of(sitting: Sitting) -> list[User]:
    """Who may mark a sitting a second time: who marks it, who gave it, who teaches its classes."""
    found = {user.pk: user for user in sitting.markers.all()}
    found[sitting.author_id] = sitting.author
    for held in sitting.classes.prefetch_related("teachers"):
        found |= {user.pk: user for user in held.teachers.all()}
    return sorted(found.values(), key=lambda each: each.name)


@personally("sittings.list_sittings")
@require_GET
def seconds(request: MemberRequest, pk: int) -> HttpResponse:
    """The second markings of a sitting, how far they are and how far they agree."""
    sitting = sitting_to_mark(request, pk)
    return seconds_page(request, sitting)


def seconds_page(request: MemberRequest, sitting: Sitting, status: int = 200, **more: Any) -> HttpResponse:
    asked = {(each.candidate.pk, each.part): each for each in asked_in(sitting)}
    rows = []
    for marking in sitting.second_markings.select_related("who", "candidate").prefetch_related("marks"):
        one = asked.get((marking.candidate_id, marking.part))
        if one is None:
            continue
        found = marked_part(sitting, one, request.user.pk)
        both = compared(marking, found)
        rows.append(
            {
                "marking": marking, "asked": one, "all": len(chosen_in(marking, found)), "done": len(marks_in(marking)),
                "agreement": agreement(both), "differ": to_settle(marking, both),
            }
        )  # fmt: skip
    context = {
        "sitting": sitting, "station": "marking", "rows": rows, "asked": asked.values(), "markers": markers_of(sitting),
        "choices": SecondMarking.Choice.choices, "typed": request.POST,
        "runs": may(request.user, "sittings.change_sitting", sitting),
    } | more  # fmt: skip
    return render(request, "marking/seconds.html", context, status=status)


@personally("sittings.list_sittings")
@require_POST
def ask(request: MemberRequest, pk: int) -> HttpResponse:
    """Ask somebody to mark answers a second time."""
    sitting = sitting_to_mark(request, pk)
    place = request.POST.get("of", "").split("-")
    if len(place) != 2 or not place[0].isdecimal() or len(place[0]) > 17:
        return seconds_page(request, sitting, 422, refused="Say which question is to be marked a second time.")
    asked = part_of(sitting, int(place[0]), place[1])
    who = next((each for each in markers_of(sitting) if str(each.pk) == request.POST.get("who")), None)
    if who is None:
        return seconds_page(request, sitting, 422, refused="Choose who marks it: whoever marks this sitting can.")
    try:
        allowed = read_plain(request.POST.get("allowed", "").strip() or "0")
    except ValueError:
        allowed = Fraction(-1)
    if not 0 <= allowed <= 100:
        return seconds_page(request, sitting, 422, refused="The difference is a number of marks, such as 0.5 or 1.")
    choice = request.POST.get("choice", "all")
    try:
        within = read_plain(request.POST.get("within", "").strip().removesuffix("%").strip() or "5") / 100
        if not 0 < within <= Fraction(1, 2):
            raise ValueError
    except ValueError:
        return seconds_page(request, sitting, 422, refused="How near a boundary is a share up to 50 %, such as 5 %.")
    try:
        chosen = choose(choice, marked_part(sitting, asked, request.user.pk), sitting.pk, within)
    except ValueError as problem:
        return seconds_page(request, sitting, 422, refused=str(problem))
    SecondMarking.objects.update_or_create(
        sitting=sitting, candidate=asked.candidate, part=asked.part, who=who,
        defaults={
            "choice": choice if choice in SecondMarking.Choice.values else "all", "chosen": chosen,
            "sight": "sight" in request.POST, "allowed": str(shown_marks(allowed)), "by": request.user,
        },
    )  # fmt: skip
    messages.success(request, f"{who.name} finds it here, under Second marking.")
    return redirect("second-markings", pk)


def marking_of(request: MemberRequest, pk: int, marking: int) -> tuple[SecondMarking, Marked]:
    sitting = sitting_to_mark(request, pk)
    among = SecondMarking.objects.select_related("candidate__revision", "who").prefetch_related("marks")
    held = get_object_or_404(among, sitting=sitting, pk=marking)
    return held, marked_part(sitting, part_of(sitting, held.candidate_id, held.part), request.user.pk)


@personally("sittings.list_sittings")
@require_GET
def one(request: MemberRequest, pk: int, marking: int) -> HttpResponse:
    """The next answer of a second marking for whoever does it; for others the differences to be settled."""
    held, found = marking_of(request, pk, marking)
    return one_page(request, held, found)


def one_page(
    request: MemberRequest, held: SecondMarking, found: Marked, status: int = 200, **more: Any
) -> HttpResponse:
    given, chosen = marks_in(held), chosen_in(held, found)
    left = [each for each in chosen if (each.taking.pk, each.entry.position) not in given]
    mine = held.who_id == request.user.pk
    answer = next((each for each in left if each.entry.place == request.POST.get("at")), left[0] if left else None)
    both = compared(held, found)
    context = {
        "sitting": found.sitting, "station": "marking", "marking": held, "asked": found.asked, "mine": mine,
        "answer": answer if mine else None, "one": one_answer(found, answer) if mine and answer is not None else None,
        "left": len(left), "all": len(chosen), "most": found.most, "agreement": agreement(both),
        "differ": to_settle(held, both) if not mine or not left else [], "named": False,
        "buttons": mark_buttons(found.most, "1"),
    } | more  # fmt: skip
    return render(request, "marking/second.html", context, status=status)


@personally("sittings.list_sittings")
@require_POST
def give_second(request: MemberRequest, pk: int, marking: int) -> HttpResponse:
    """Give an answer its second mark; what holds stays until it is settled."""
    held, found = marking_of(request, pk, marking)
    if held.who_id != request.user.pk:
        raise Http404
    answer = found.at(request.POST.get("at", ""))
    if answer is None or answer not in chosen_in(held, found):
        raise Http404
    try:
        marks = read_given_marks(request.POST.get("marks", ""), found.most, found.sitting.test.department.mark_step)
    except MarkRefused as problem:
        return one_page(request, held, found, 422, refused=str(problem), typed=request.POST)
    comment = " ".join(request.POST.get("comment", "").split())[:1000]
    SecondMark.objects.create(
        marking=held, taking=answer.taking, position=answer.entry.position, marks=str(marks), comment=comment
    )
    return redirect("second-marking", pk, marking)


@personally("sittings.list_sittings")
@require_POST
def settle(request: MemberRequest, pk: int, marking: int) -> HttpResponse:
    """Settle a difference by a third decision, which is the mark that holds."""
    held, found = marking_of(request, pk, marking)
    answer = found.at(request.POST.get("at", ""))
    second = marks_in(held).get((answer.taking.pk, answer.entry.position)) if answer is not None else None
    if answer is None or second is None:
        raise Http404
    try:
        marks = read_given_marks(request.POST.get("marks", ""), found.most, found.sitting.test.department.mark_step)
    except MarkRefused as problem:
        return one_page(request, held, found, 422, refused=str(problem))
    with transaction.atomic():
        reason = f"settled between {answer.mark.held.marks if answer.mark else 0} and {second.marks}"
        give(
            found.sitting,
            found.asked.part,
            [(answer.taking.pk, answer.entry.position)],
            Given(request.user, marks, reason),
        )
        SecondMark.objects.filter(pk=second.pk).update(settled=timezone.now())
    messages.success(request, "It is settled.")
    return redirect("second-marking", pk, marking)
