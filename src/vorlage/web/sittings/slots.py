"""What sittings have to show on the pages of tests, and on a student's own page."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django.urls import reverse
from django.utils import timezone

from vorlage.core.sittings import (
    HANDED_IN,
    MISSED,
    NOT_YET,
    ON_PAPER,
    OPEN,
    PAUSED,
    Record,
    closing,
    may_practise,
    moment_words,
    phase,
)
from vorlage.web.bank.models import Question
from vorlage.web.classes.models import Student
from vorlage.web.design.slots import fills
from vorlage.web.people.requests import MemberRequest
from vorlage.web.plans.models import Test

from .forms import GiveForm
from .models import Sitting, Taking, allowed_to
from .opening import steps_before


@fills("test-aside", "sittings/_of_test.html")
def beside_the_plan(request: MemberRequest, tests: Sequence[Test]) -> dict[Any, dict[str, Any]]:
    """Giving a test to a class, and where it was given."""
    found: dict[Any, dict[str, Any]] = {}
    for test in tests:
        form = GiveForm(test, request.user) if request.membership.may_write else None
        given = Sitting.objects.seen_by(request.user).filter(test=test).prefetch_related("classes")
        found[test.pk] = {"fresh_give_form": form, "sittings": list(given)}
    return found


@fills("mine", "sittings/_mine.html")
def to_sit(request: MemberRequest, students: Sequence[Student]) -> dict[Any, dict[str, Any]]:
    """What a student has to do, what runs, and what came back."""
    found: dict[Any, dict[str, Any]] = {}
    now = timezone.localtime()
    for student in students:
        takings = {each.sitting_id: each for each in Taking.objects.current().filter(student=student)}
        allowed = allowed_to(student)
        lists: dict[str, list[dict[str, Any]]] = {"running": [], "to_do": [], "done": []}
        for sitting in Sitting.objects.for_student(student).exclude(ready=None).select_related("test__department"):
            taking = takings.get(sitting.pk)
            if taking is not None:
                taking.sitting, taking.student = sitting, student
            record = taking.record if taking is not None else Record()
            where = phase(sitting.held, record, now, allowed)
            if sitting.held.come_in == "anonymous" and where != NOT_YET and where != OPEN:
                # nobody knows whether they answered
                continue
            if sitting.held.practice == "only" and where not in {NOT_YET, OPEN}:
                # practice that is over leaves nothing behind
                continue
            begins = taking.next_begin if taking is not None and sitting.held.attempts != 1 else None
            ends = (taking.ends if taking is not None else None) or sitting.held.due or sitting.held.closes
            row = {
                "sitting": sitting,
                "where": where,
                "opens": moment_words(timezone.localtime(sitting.held.opens), now),
                "until": moment_words(timezone.localtime(ends), now) if ends else "",
                "results": taking is not None and bool(taking.seen(now) - {"own"}),
                "paused": where == PAUSED,
                "again": begins is not None and where == HANDED_IN,
                "attempt": f"attempt {taking.attempt + 1}"
                + (f" of {count}" if (count := sitting.held.attempts) else "")
                if taking is not None
                else "",
                "from": moment_words(timezone.localtime(begins), now) if begins is not None and begins > now else "",
                "practises": may_practise(sitting.held, record, now, allowed),
                "address": address_of(sitting),
            }
            if row["again"]:
                ends = closing(sitting.held, allowed)
                lists["to_do"].append(row | {"until": moment_words(timezone.localtime(ends), now) if ends else ""})
            steps = steps_before(sitting, student) if where == OPEN else []
            row["steps"] = "; ".join(each.words for each in steps)
            if where == ON_PAPER:
                over = (closes := closing(sitting.held, allowed)) is not None and closes <= now
                lists["done" if over else "to_do"].append(row)
            elif where in {NOT_YET, OPEN}:
                lists["to_do"].append(row)
            elif where in {HANDED_IN, MISSED}:
                lists["done"].append(row)
            else:
                lists["running"].append(row)
        found[student.pk] = lists
    return found


def address_of(sitting: Sitting) -> str:
    """Where a student of its classes goes in: without a name by the door that all go through."""
    if sitting.held.come_in == "anonymous" and sitting.code:
        return reverse("sitting-door", args=[sitting.code])
    return reverse("sit", args=[sitting.pk])


@fills("test-actions", "sittings/_to_give.html")
def to_give(request: MemberRequest, tests: Sequence[Test]) -> dict[Any, dict[str, Any]]:
    """The way to where a test is given."""
    return {test.pk: {} for test in tests}


@fills("question-uses", "sittings/_question_to_wall.html")
def question_to_wall(request: MemberRequest, questions: Sequence[Question]) -> dict[Any, dict[str, Any]]:
    """Showing a question on the wall."""
    return {question.pk: {"question": question} for question in questions}
