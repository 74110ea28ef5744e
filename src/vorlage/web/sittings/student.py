"""A student's own pages: what there is to do, beginning, sitting, handing in, and what comes back."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from django.contrib import messages
from django.db import transaction
from django.http import Http404, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.template.loader import render_to_string
from django.utils import timezone
from django.utils.safestring import SafeString
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.sittings import (
    MISSED,
    NOT_YET,
    OPEN,
    Record,
    closing,
    duration_words,
    if_begun_now,
    may_take_back,
    moment_words,
    phase,
    seen,
    sentences,
)
from vorlage.web.classes.models import Student
from vorlage.web.files.responses import sent
from vorlage.web.forms.models import FormSetInsert
from vorlage.web.people.permissions import signed_in
from vorlage.web.people.requests import MemberRequest

from .limits import TooOften, tried
from .marking import returned
from .models import Change, InsertPage, Note, Sitting, StudentItem, Taking, allowed_to
from .road import read_all, state, token_of
from .tasks import settle


def student_of(request: MemberRequest) -> Student:
    return get_object_or_404(Student.objects.select_related("allowance"), user=request.user)


def found_for(request: MemberRequest, pk: int) -> tuple[Sitting, Student, Taking | None]:
    """A sitting that this student may sit, and their place in it."""
    student = student_of(request)
    sitting = get_object_or_404(Sitting.objects.for_student(student).select_related("test__department"), pk=pk)
    taking = Taking.objects.filter(sitting=sitting, student=student).first()
    if taking is not None:
        taking.sitting, taking.student = sitting, student
        if settle(taking):
            taking.refresh_from_db()
            taking.sitting, taking.student = sitting, student
    return sitting, student, taking


@signed_in
@require_GET
def sit(request: MemberRequest, pk: int) -> HttpResponse:
    """What holds, before one begins."""
    sitting, student, taking = found_for(request, pk)
    if taking is not None and taking.handed_in is not None:
        return redirect("sitting-done", pk)
    return start_page(request, sitting, student, taking)


def start_page(
    request: MemberRequest, sitting: Sitting, student: Student, taking: Taking | None, status: int = 200, **more: Any
) -> HttpResponse:
    """The rules in sentences, and until when this student would have; ``more`` says what became of an entry word."""
    now = timezone.localtime()
    record = taking.record if taking is not None else Record()
    allowed = allowed_to(student)
    where = phase(sitting.held, record, now, allowed)
    said = sentences(sitting.held, now, allowed)
    context = {
        "sitting": sitting,
        "student": student,
        "begun": record.begun is not None,
        "may_begin": where == OPEN and sitting.ready is not None,
        "not_yet": where == NOT_YET,
        "missed": where == MISSED,
        "opens": moment_words(timezone.localtime(sitting.held.opens), now),
        "said": [said[name] for name in ("when", "how_long", "how_often", "looks", "seen")],
        "until": if_begun_now(sitting.held, now, allowed) if where == OPEN else "",
        "asks_word": bool(sitting.held.word) and record.begun is None,
    }
    return render(request, "sittings/sit.html", context | more, status=status)


@signed_in
@require_POST
def begin(request: MemberRequest, pk: int) -> HttpResponse:
    """Begin: the clock starts with the first question."""
    sitting, student, taking = found_for(request, pk)
    now = timezone.now()
    where = phase(sitting.held, taking.record if taking is not None else Record(), now, allowed_to(student))
    if where != OPEN:
        return redirect("sit-work", pk)
    if sitting.ready is None:
        return redirect("sit", pk)
    typed = request.POST.get("word", "")[:80]
    right = sitting.held.lets_in(typed)
    try:
        if sitting.held.word:
            tried(f"{sitting.pk}-{student.pk}", not right)
    except TooOften:
        often = "This was tried too often. Wait a minute, and ask your teacher for the word."
        return start_page(request, sitting, student, taking, 429, problem=often, typed=typed)
    if not right:
        wrong = "This is not the word that lets you in. Look how it is spelt, or ask your teacher."
        return start_page(request, sitting, student, taking, 422, problem=wrong, typed=typed)
    Taking.begin(sitting, student, now)
    return redirect("sit-work", pk)


@signed_in
@require_GET
def work(request: MemberRequest, pk: int) -> HttpResponse:
    """The questions, with the answers that are there; this page is the one that may write from now on."""
    sitting, student, taking = found_for(request, pk)
    if taking is None or taking.begun is None:
        return redirect("sit", pk)
    if taking.handed_in is not None:
        return redirect("sitting-done", pk)
    tab, now = secrets.token_urlsafe(12), timezone.now()
    Taking.objects.filter(pk=taking.pk).update(tab=tab, asked=now)
    taking.tab = tab
    single = allows(student, "one_at_a_time")
    answers = taking.answers()
    given = [Change(0, position, part, response) for (position, part), response in answers.items()]
    local = timezone.localtime
    context: dict[str, Any] = {
        "sitting": sitting,
        "rules": sitting.held,
        "student": student,
        "taking": taking,
        "sheet": sheet_of(taking.form_id or 0, sitting.held.layout, single, allows(student, "spoken_maths")),
        "one": sitting.held.layout != "all" or single,
        "inserts": inserts_of(sitting),
        "larger": allows(student, "larger_letters"),
        "wider": allows(student, "wider_lines"),
        "notes": [(each, moment_words(local(each.at), local(now))) for each in Note.objects.filter(sitting=sitting)],
        "data": {
            "token": token_of(taking, tab),
            "tab": tab,
            "taking": taking.pk,
            "state": state(taking, tab, now),
            "answers": [{"q": each.position, "p": each.part, "r": each.response} for each in given],
            "readings": read_all(taking, given),
        },
    }
    return render(request, "sittings/work.html", context)


@dataclass(frozen=True)
class Shown:
    """The questions of a form as they are shown, and the numbers that lead to them."""

    strip: SafeString
    questions: SafeString


@lru_cache(maxsize=256)
def sheet_of(form: int, layout: str, single: bool, aloud: bool) -> Shown:
    """The questions of a form, written once in a process: what was laid out for a form never changes."""
    items = list(StudentItem.objects.filter(form=form).order_by("position"))
    context = {"questions": list(zip(items, groups_of(items, layout, single))), "aloud": aloud}
    return Shown(*(render_to_string(f"sittings/_{name}.html", context) for name in ("strip", "questions")))


def groups_of(questions: list[StudentItem], layout: str, single: bool) -> list[int]:
    """Which questions are shown together: each by itself, or all of a section."""
    if layout != "section" or single:
        return list(range(len(questions)))
    found, group = list[int](), -1
    for k, item in enumerate(questions):
        group += not k or item.section_number != questions[k - 1].section_number
        found.append(group)
    return found


def inserts_of(sitting: Sitting) -> list[tuple[FormSetInsert, range]]:
    """What lies beside the questions, with its pages."""
    found = FormSetInsert.objects.filter(form_set=sitting.form_set_id)
    return [(each, range(1, each.pages + 1)) for each in found]


@signed_in
@require_GET
def insert_page(request: MemberRequest, pk: int, insert: int, page: int) -> HttpResponseBase:
    """A page of what lies beside the questions, for whoever has begun."""
    sitting, _, taking = found_for(request, pk)
    if taking is None or taking.begun is None:
        raise Http404
    found = get_object_or_404(
        InsertPage.objects.select_related("picture"), insert=insert, insert__form_set=sitting.form_set_id, number=page
    )
    return sent(request, found.picture, "image/png")


def allows(student: Student, name: str) -> bool:
    return bool(getattr(getattr(student, "allowance", None), name, False))


@signed_in
@require_GET
def before_handing_in(request: MemberRequest, pk: int) -> HttpResponse:
    """What is empty and what cannot be read, with the way to each."""
    sitting, _, taking = found_for(request, pk)
    if taking is None or taking.begun is None:
        return redirect("sit", pk)
    if taking.handed_in is not None:
        return redirect("sitting-done", pk)
    answers = taking.answers()
    questions = StudentItem.objects.filter(form=taking.form_id).order_by("position")
    unread = {
        (each["q"], each["p"])
        for each in read_all(taking, [Change(0, *where, response) for where, response in answers.items()])
        if any("problem" in piece for piece in each["read"])
    }
    rows, empty, count = [], 0, 0
    for item in questions:
        for part in item.shown["parts"]:
            if part["shape"] == "nothing":
                continue
            where = (item.position, part["id"])
            state_of = "empty" if is_empty(answers.get(where)) else "unreadable" if where in unread else ""
            count, empty = count + 1, empty + bool(state_of)
            if state_of:
                rows.append((item.position + 1, part, state_of))
    context = {"sitting": sitting, "taking": taking, "rows": rows, "count": count, "answered": count - empty}
    return render(request, "sittings/before_handing_in.html", context)


def is_empty(response: Any) -> bool:
    """Whether nothing stands in a response."""
    if isinstance(response, list):
        return all(is_empty(each) for each in response)
    if isinstance(response, dict):
        return all(is_empty(each) for each in response.values())
    return response is None or not str(response).strip()


@signed_in
@require_POST
def hand_in(request: MemberRequest, pk: int) -> HttpResponse:
    _, _, taking = found_for(request, pk)
    if taking is None or taking.begun is None:
        raise Http404
    taking.hand_in(timezone.now())
    return redirect("sitting-done", pk)


@signed_in
@require_GET
def done(request: MemberRequest, pk: int) -> HttpResponse:
    """The receipt, and of the results what may be seen now."""
    sitting, student, taking = found_for(request, pk)
    if taking is None or taking.handed_in is None:
        return redirect("sit", pk)
    now = timezone.localtime()
    rows = seen(sitting.held, taking.record, now, allowed_to(student))
    back, total = returned(taking, now)
    questions = StudentItem.objects.filter(form=taking.form_id).order_by("position") if rows else []
    answered = sum(not is_empty(each) for each in taking.answers().values())
    context = {
        "sitting": sitting,
        "taking": taking,
        "handed_in": moment_words(timezone.localtime(taking.handed_in), now),
        "took": duration_words(taking.handed_in - taking.begun) if taking.begun else "",
        "answered": answered,
        "rows": rows,
        "total": total,
        "questions": [(item, back.get(item.position, {})) for item in questions],
        "may_take_back": may_take_back(sitting.held, taking.record, now),
        "said": sentences(sitting.held, now, allowed_to(student))["seen"],
        "closes": closing(sitting.held, allowed_to(student)),
    }
    return render(request, "sittings/done.html", context)


@signed_in
@require_POST
def take_back(request: MemberRequest, pk: int) -> HttpResponse:
    """Go on with what was handed in."""
    sitting, _, taking = found_for(request, pk)
    if taking is None:
        raise Http404
    with transaction.atomic():
        locked = Taking.locked(pk=taking.pk)
        if not may_take_back(sitting.held, locked.record, timezone.now()):
            messages.info(request, "Time is up: it stays handed in.")
            return redirect("sitting-done", pk)
        locked.handed_in, locked.receipt, locked.marked = None, "", None
        locked.save(update_fields=["handed_in", "receipt", "marked"])
        sitting.note("taken back", taking=locked)
    return redirect("sit-work", pk)
