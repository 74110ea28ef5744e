"""A student's own pages: what there is to do, beginning, sitting, handing in, and what comes back."""

from __future__ import annotations

import secrets
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
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

from vorlage.core.marking import that_counts
from vorlage.core.sittings import (
    COUNTING,
    HANDED_IN,
    MOMENTS,
    OPEN,
    ROWS,
    WORKING,
    Record,
    Rules,
    attempts_now,
    closing,
    duration_words,
    if_begun_now,
    may_mend,
    may_practise,
    may_take_back,
    moment_words,
    next_section,
    passing_words,
    sentences,
    stage_begun,
    what_costs,
)
from vorlage.web.files.responses import sent
from vorlage.web.forms.models import FormSetInsert
from vorlage.web.people.requests import MemberRequest

from .attempts import following_form
from .checking import Checks
from .here import Here, address_of, at_sitting
from .limits import OF_A_NETWORK, TooOften, tried
from .marking import as_pdf, class_did, mark, own_totals, returned
from .models import WORKING_PART, Change, InsertPage, Similar, StudentItem, Taking, sections_of
from .notes import notes_for
from .opening import LOCKED, own_standing
from .place import Place
from .questions import sheets_of, similar_of
from .road import hints_taken, is_empty, lacking, read_all, rests, token_of


@require_GET
@at_sitting
def sit(request: MemberRequest, here: Here) -> HttpResponse:
    """What holds, before one begins."""
    if here.sitting.held.practice == "only" and practises(here):
        return redirect("practice", here.sitting.pk)
    if here.phase == HANDED_IN and ("again" not in request.GET or here.next_begin is None):
        return redirect("sitting-done", here.sitting.pk)
    return start_page(request, here)


# What a student is told before they begin, in this order.
GROUPS_SAID = ("when", "how_long", "how_often", "tries", "looks", "seen")


def start_page(request: MemberRequest, here: Here, status: int = 200, **more: Any) -> HttpResponse:
    """The rules in sentences, and until when this student would have; ``more`` says what became of an entry word."""
    now = timezone.localtime()
    sitting, record, allowed, where = here.sitting, here.record, here.allowed, here.phase
    said = sentences(sitting.held, now, allowed)
    again = where == HANDED_IN
    if again:
        where = OPEN if here.begins_again else "waits"
    context = {
        "sitting": sitting,
        "here": here,
        "begun": record.begun is not None and not again,
        "again": again,
        "attempt": here.taking.attempt + 1 if again and here.taking is not None else 1,
        "attempts": attempts_now(sitting.held, here.taking.attempts if again and here.taking else [], now, allowed),
        "may_begin": where == OPEN and sitting.ready is not None,
        "where": where,
        "opens": moment_words(timezone.localtime(sitting.held.opens), now),
        "said": [said[name] for name in GROUPS_SAID if name != "tries" or sitting.held.checks],
        "until": if_begun_now(sitting.held, now, allowed) if where == OPEN else "",
        "steps": here.steps_before if where == LOCKED else [],
        "passing": passing_words(sitting.held) if sitting.held.has_pass_mark else "",
        "asks_word": bool(sitting.held.word) and (again or record.begun is None),
        "practises": practises(here),
        "outside": not here.tries and not sitting.held.admits(address_of(request)),
    }
    return render(request, "sittings/sit.html", context | more, status=status)


def practises(here: Here) -> bool:
    """Whether somebody may practise now; whoever tries it may wherever students will."""
    if here.sitting.ready is None or here.sitting.held.practice == "no":
        return False
    may = here.tries or may_practise(here.sitting.held, here.record, timezone.now(), here.allowed)
    return may and not (here.sitting.held.practice == "only" and here.steps_before)


@require_POST
@at_sitting
def begin(request: MemberRequest, here: Here) -> HttpResponse:
    """Begin: the clock starts with the first question."""
    sitting = here.sitting
    again = here.phase == HANDED_IN and here.begins_again
    if here.phase != OPEN and not again:
        return redirect("sit-work", sitting.pk)
    if sitting.ready is None or sitting.held.practice == "only":
        return redirect("sit", sitting.pk)
    if not sitting.held.admits(address_of(request)):
        return start_page(request, here, 403)
    typed = request.POST.get("word", "")[:80]
    right = sitting.held.lets_in(typed)
    who = here.taking or here.student
    assert who is not None
    try:
        if sitting.held.word:
            tried(f"{sitting.pk}-{who._meta.model_name}-{who.pk}", not right)
            tried(f"{sitting.pk}-{address_of(request)}", not right, OF_A_NETWORK)
    except TooOften:
        often = "This was tried too often. Wait a minute, and ask your teacher for the word."
        return start_page(request, here, 429, problem=often, typed=typed)
    if not right:
        wrong = "This is not the word that lets you in. Look how it is spelt, or ask your teacher."
        return start_page(request, here, 422, problem=wrong, typed=typed)
    if again and here.taking is not None:
        here.taking.follow(timezone.now(), following_form)
    else:
        Taking.begin(sitting, who, timezone.now())
    return redirect("sit-work", sitting.pk)


@require_GET
@at_sitting
def work(request: MemberRequest, here: Here) -> HttpResponse:
    """The questions, with the answers that are there; this page is the one that may write from now on."""
    sitting, taking = here.sitting, here.taking
    if taking is None or taking.begun is None:
        return redirect("sit", sitting.pk)
    if taking.handed_in is not None:
        return redirect("sitting-done", sitting.pk)
    if not here.tries and not sitting.held.admits(address_of(request)):
        return start_page(request, here, 403)
    tab, now = secrets.token_urlsafe(12), timezone.now()
    if taking.stage is None:
        Taking.objects.filter(pk=taking.pk).update(tab=tab, asked=now)
    else:
        with transaction.atomic():
            taking = Taking.locked(pk=taking.pk)
            taking.reach(now)
            taking.asked, taking.tab = now, tab
            taking.save()
    taking.tab = tab
    section = taking.section if taking.stage is not None else None
    rules, place = sitting.held, Place.held(taking)
    checks = Checks(taking) if rules.checks else None
    answers = taking.answers()
    given = [Change(0, position, part, response) for (position, part), response in answers.items()]
    local = timezone.localtime
    look = SheetLook(
        rules.layout, here.has("one_at_a_time"), here.has("spoken_maths"), rules.signs, rules.examples, rules.hints,
        rules.working, rules.questions, rules.checks,
    )  # fmt: skip
    notes = notes_for(sitting.pk, taking.pk, taking.form_id)
    context: dict[str, Any] = {
        "sitting": sitting,
        "rules": rules,
        "here": here,
        "taking": taking,
        "sheet": own_sheet(taking, look, section),
        "staged": section is not None,
        "following": section_after(taking),
        "one": rules.layout != "all" or look.single,
        "inserts": inserts_of(sitting.form_set_id),
        "larger": here.has("larger_letters"),
        "wider": here.has("wider_lines"),
        "breaks": here.has("breaks") and taking.ends is not None,
        "notes": [(each, number, moment_words(local(each.at), local(now))) for each, number in notes],
        "data": {
            "token": token_of(taking, tab),
            "tab": tab,
            "taking": taking.pk,
            "form": taking.form_id,
            "state": place.state(tab, now),
            "answers": [{"q": each.position, "p": each.part, "r": each.response} for each in given],
            "readings": read_all(place, given),
            "checked": [checks.state(each) for each in sheets_of(taking)] if checks is not None else [],
            "hints": hints_taken(taking) if rules.hints else [],
            "resting": taking.paused is not None and rests(taking),
        },
    }
    return render(request, "sittings/work.html", context)


@dataclass(frozen=True)
class SheetLook:
    """How the questions are shown, and what helps with them."""

    layout: str
    single: bool
    aloud: bool
    signs: bool
    examples: bool
    hints: bool
    working: bool
    questions: bool
    checks: bool = False


@dataclass(frozen=True)
class Shown:
    """The questions of a form as they are shown, and the numbers that lead to them."""

    strip: SafeString
    questions: SafeString


@lru_cache(maxsize=256)
def sheet_of(form: int, look: SheetLook, section: int | None = None) -> Shown:
    """The questions of a form, or of one of its sections, written once in a process: what was laid out for a form never
    changes."""
    return shown(list(StudentItem.objects.filter(form=form).order_by("position")), look, section)


def own_sheet(taking: Taking, look: SheetLook, section: int | None) -> Shown:
    """The questions of a student: those of their form, and what they had instead of missed ones."""
    if not similar_of(taking):
        return sheet_of(taking.form_id or 0, look, section)
    return shown(sheets_of(taking), look, section)


def shown(items: Sequence[StudentItem | Similar], look: SheetLook, section: int | None) -> Shown:
    if section is not None:
        items = [item for item in items if item.section_number == section]
    questions = list(zip(items, groups_of(items, look.layout, look.single)))
    context = {"questions": questions, "look": look, "aloud": look.aloud}
    return Shown(*(render_to_string(f"sittings/_{name}.html", context) for name in ("strip", "questions")))


def section_after(taking: Taking) -> str:
    """What the section after the one that they are at is called; empty where there is none."""
    stage, form = taking.stage, taking.form_id or 0
    following = next_section(sections_of(form), stage.section) if stage is not None else None
    if following is None:
        return ""
    titles = StudentItem.objects.filter(form=form, section_number=following).values_list("section", flat=True)
    return titles.first() or "the next section"


@require_POST
@at_sitting
def go_on(request: MemberRequest, here: Here) -> HttpResponse:
    """On to the next section: its time begins, and there is no way back."""
    now, section = timezone.now(), request.POST.get("section", "")
    if here.taking is None or here.taking.begun is None:
        raise Http404
    with transaction.atomic():
        taking = Taking.locked(pk=here.taking.pk)
        taking.reach(now)
        stage = taking.stage
        # the page says which one it leaves, so that pressing twice leaves one
        if stage is not None and section == str(stage.section) and taking.phase(now) == WORKING:
            following = next_section(sections_of(taking.form_id or 0), stage.section)
            if following is not None:
                taking.put(stage_begun(taking.sitting.held, following, now, taking.ends, taking.allowed))
                taking.sitting.note("section", taking=taking, data={"section": following})
        taking.save()
    return redirect("sit-work", here.sitting.pk)


def groups_of(questions: Sequence[StudentItem | Similar], layout: str, single: bool) -> list[int]:
    """Which questions are shown together: each by itself, or all of a section."""
    if layout != "section" or single:
        return list(range(len(questions)))
    found, group = list[int](), -1
    for k, item in enumerate(questions):
        group += not k or item.section_number != questions[k - 1].section_number
        found.append(group)
    return found


@lru_cache(maxsize=256)
def inserts_of(form_set: int) -> list[tuple[FormSetInsert, range]]:
    """What lies beside the questions, with its pages; it is frozen with the forms."""
    found = FormSetInsert.objects.filter(form_set=form_set).order_by("position")
    return [(each, range(1, each.pages + 1)) for each in found]


@require_GET
@at_sitting
def insert_page(request: MemberRequest, here: Here, insert: int, page: int) -> HttpResponseBase:
    """A page of what lies beside the questions, for whoever has begun."""
    if here.taking is None or here.taking.begun is None:
        raise Http404
    found = get_object_or_404(
        InsertPage.objects.select_related("picture"),
        insert=insert,
        insert__form_set=here.sitting.form_set_id,
        number=page,
    )
    return sent(request, found.picture, "image/png")


@require_GET
@at_sitting
def before_handing_in(request: MemberRequest, here: Here) -> HttpResponse:
    """What is empty and what cannot be read, with the way to each."""
    sitting, taking = here.sitting, here.taking
    if taking is None or taking.begun is None:
        return redirect("sit", sitting.pk)
    if taking.handed_in is not None:
        return redirect("sitting-done", sitting.pk)
    if not taking.in_last_section:
        return redirect("sit-work", sitting.pk)
    answers = taking.answers()
    questions = sheets_of(taking)
    if taking.stage is not None:
        # those before are over
        questions = [each for each in questions if each.section_number == taking.section]
    given = [Change(0, *where, response) for where, response in answers.items()]
    unread = {
        (each["q"], each["p"])
        for each in read_all(Place.held(taking), given)
        if any("problem" in piece for piece in each["read"])
    }
    blocks = set(lacking(taking, timezone.now()))
    rows, empty, count = [], 0, 0
    for item in questions:
        for part in item.shown["parts"]:
            if part["shape"] == "nothing":
                continue
            where = (item.position, part["id"])
            state_of = "empty" if is_empty(answers.get(where)) else "unreadable" if where in unread else ""
            count, empty = count + 1, empty + bool(state_of)
            if state_of:
                rows.append((item, part, state_of, where in blocks))
    context = {
        "sitting": sitting, "here": here, "taking": taking, "rows": rows, "count": count, "answered": count - empty,
        "blocked": bool(blocks),
    }  # fmt: skip
    return render(request, "sittings/before_handing_in.html", context)


@require_POST
@at_sitting
def hand_in(request: MemberRequest, here: Here) -> HttpResponse:
    if here.taking is None or here.taking.begun is None:
        raise Http404
    now = timezone.now()
    if not here.taking.in_last_section or lacking(here.taking, now):
        return redirect("before-handing-in", here.sitting.pk)
    here.taking.hand_in(now)
    return redirect("sitting-done", here.sitting.pk)


@require_GET
@at_sitting
def done(request: MemberRequest, here: Here) -> HttpResponse:
    """The receipt, and of the results what may be seen now; whoever tries it looks at each moment."""
    sitting, taking = here.sitting, attempt_of(request, here)
    handed_in = None if taking is None else taking.handed_in
    if taking is None or handed_in is None:
        return redirect("sit", sitting.pk)
    now = timezone.localtime()
    rows = rows_seen(request, here, taking)
    back, total = returned(taking, rows)
    questions = sheets_of(taking) if rows else []
    answers = taking.answers()
    asked = {where: response for where, response in answers.items() if where[1] != WORKING_PART}
    context = {
        "sitting": sitting,
        "here": here,
        "taking": taking,
        "handed_in": moment_words(timezone.localtime(handed_in), now),
        "took": duration_words(handed_in - taking.begun) if taking.begun else "",
        "answered": sum(not is_empty(each) for each in asked.values()),
        "rows": rows,
        "total": total,
        "questions": [
            (item, back.get(item.position, {}), answers.get((item.position, WORKING_PART), "") if "own" in rows else "")
            for item in questions
        ],
        "class_did": class_did(sitting) if "class" in rows else None,
        "practises": practises(here),
        "what_costs": what_costs(sitting.held),
        "may_take_back": not taking.earlier and may_take_back(sitting.held, taking.record, now),
        "may_mend": not taking.earlier and may_mend(sitting.held, taking.record, now),
        "said": sentences(sitting.held, now, here.allowed)["seen"],
        "closes": closing(sitting.held, here.allowed),
        "moments": {name: words for name, words in MOMENTS.items() if name != "never"} if here.tries else {},
        "at": request.GET.get("at", ""),
        "as_pdf": bool(rows) and (sitting.held.own_pdf or here.tries),
    }
    if sitting.held.has_pass_mark and here.student is not None and "total" in rows:
        context |= {
            "standing": own_standing(sitting, here.student),
            "next": list(sitting.opens_next.filter(archived=None)),
        }
    if sitting.held.attempts != 1:
        totals = own_totals(here.taking or taking, now)
        known = [each for _, each in totals if each is not None]
        context |= {
            "totals": totals,
            "that_counts": that_counts(sitting.held.which, known) if 1 < len(totals) == len(known) else None,
            "counting": COUNTING[sitting.held.which],
            "attempts_now": attempts_now(sitting.held, (here.taking or taking).attempts, now, here.allowed),
            "next_begin": here.next_begin,
            "begins_again": here.begins_again,
            "looks_back": sitting.held.look_back or here.tries,
        }
    return render(request, "sittings/done.html", context)


def attempt_of(request: MemberRequest, here: Here) -> Taking | None:
    """The attempt that is asked for, handed in; the last where none is. None while one is being worked on."""
    last, asked = here.taking, request.GET.get("attempt", "")
    if last is None or last.handed_in is None:
        return None
    if asked in {"", str(last.attempt)} or not asked.isdecimal() or len(asked) > 4:
        return last
    found = last.own.filter(attempt=int(asked)).exclude(handed_in=None).first()
    if found is None or not (here.sitting.held.look_back or here.tries):
        return last
    found.sitting, found.student, found.tried_as = here.sitting, last.student, last.tried_as
    return found


def rows_seen(request: MemberRequest, here: Here, taking: Taking) -> frozenset[str]:
    """What may be seen now of an attempt. Whoever tries it sees all that the marker sees, or what a student will see at
    a moment."""
    if not here.tries:
        return taking.seen(timezone.now())
    at = request.GET.get("at", "")
    order = list(MOMENTS)
    if at not in order:
        return frozenset(ROWS)
    return frozenset(row for row in ROWS if order.index(here.sitting.held.seen[row]) <= order.index(at))


@require_GET
@at_sitting
def own_work(request: MemberRequest, here: Here) -> HttpResponse:
    """What comes back, as a PDF: what may be seen now, and no more."""
    taking = attempt_of(request, here)
    if taking is None:
        return redirect("sit", here.sitting.pk)
    rows = rows_seen(request, here, taking)
    if not rows or not (here.sitting.held.own_pdf or here.tries):
        return redirect("sitting-done", here.sitting.pk)
    who = here.student.full_name if here.student is not None else taking.who
    answer = HttpResponse(as_pdf(taking, rows, who), content_type="application/pdf")
    answer["Content-Disposition"] = 'attachment; filename="my-work.pdf"'
    return answer


@require_POST
@at_sitting
def take_back(request: MemberRequest, here: Here) -> HttpResponse:
    """Go on with what was handed in."""
    if here.taking is None:
        raise Http404
    if not goes_on(here.taking, may_take_back, "taken back"):
        messages.info(request, "Time is up: it stays handed in.")
    return redirect("sit-work", here.sitting.pk)


@require_POST
@at_sitting
def mend(request: MemberRequest, here: Here) -> HttpResponse:
    """Go on with what was handed in, to hand it in once more: what it came to so far stays on record."""
    if here.taking is None:
        raise Http404
    if here.taking.handed_in is not None and here.taking.marked is None:
        mark(here.taking)
    if not goes_on(here.taking, may_mend, "mended", times=1):
        messages.info(request, "It cannot be handed in once more: it stays as it was handed in.")
    return redirect("sit-work", here.sitting.pk)


def goes_on(taking: Taking, may: Callable[[Rules, Record, datetime], bool], kind: str, times: int = 0) -> bool:
    """Let a student go on with what they handed in, where that may be; it counts as handing in so many times more."""
    with transaction.atomic():
        locked = Taking.locked(pk=taking.pk)
        if not may(locked.sitting.held, locked.record, timezone.now()):
            return False
        locked.handed_in, locked.receipt, locked.marked = None, "", None
        locked.submission += times
        locked.save(update_fields=["handed_in", "receipt", "marked", "submission"])
        locked.sitting.note(kind, taking=locked)
    return True
