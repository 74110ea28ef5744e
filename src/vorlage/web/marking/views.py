"""What is marked and how far it is; one part of a question at a time, with its groups."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from django.db.models import Exists, OuterRef, Q
from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.utils.html import escape, format_html
from django.utils.safestring import SafeString, mark_safe
from django.views.decorators.http import require_GET

from vorlage.core.answers import shown_marks
from vorlage.core.marking import Group
from vorlage.core.notation import Habits, NotationError, line, mathml, read_authored
from vorlage.core.questions import load_document
from vorlage.core.sittings import moment_words
from vorlage.web.bank.markup import for_students
from vorlage.web.bank.models import Question
from vorlage.web.forms.models import FormItem
from vorlage.web.people.permissions import may, personally
from vorlage.web.people.requests import MemberRequest
from vorlage.web.sittings.marking import said, total
from vorlage.web.sittings.models import WORKING_PART, Mark, Sitting, Taking
from vorlage.web.sittings.questions import compiled, drawn_at, questions_had, sheet_at

from .columns import REACH
from .giving import ready_comments
from .models import Decision, Unsaved
from .overview import REASONS, Whole, overview, sent, waiting_counts
from .places import Answer, Marked, hold, marked_part, part_of, sitting_to_mark
from .slips import written_as
from .turns import BY, Turn, neighbours, turns

# So many sittings are listed, and so many answers of a group at a time.
LISTED, SHOWN = 100, 60
# The fields beside an answer in which something is typed.
TYPED = {"marks", "reason", "comment", "note", "write"}


@personally("sittings.list_sittings")
@require_GET
def station(request: MemberRequest) -> HttpResponse:
    """The sittings in which something is handed in, those where something waits first."""
    mine = Sitting.objects.seen_by(request.user).filter(archived=None)
    something = Mark.objects.filter(taking__sitting=OuterRef("pk"), taking__tried_by=None).exclude(most="0")
    on_paper = Q(rules__come_in="paper") & ~Q(ready=None)
    there = mine.filter(Exists(something.exclude(taking__handed_in=None)) | on_paper)
    counts = waiting_counts(there)
    now = timezone.localtime()
    rows = [
        {
            "sitting": each, "waiting": counts.get(each.pk, (0, 0))[0], "unreadable": counts.get(each.pk, (0, 0))[1],
            "classes": ", ".join(sorted(held.name for held in each.classes.all())),
            "released": moment_words(timezone.localtime(each.released), now) if each.released else "",
        }
        for each in there.prefetch_related("classes")[:LISTED]
        if each.held.practice != "only"
    ]  # fmt: skip
    rows.sort(key=lambda row: not (row["waiting"] or row["unreadable"]))
    return render(request, "marking/station.html", {"rows": rows, "station": "marking"})


@personally("sittings.list_sittings")
@require_GET
def whole(request: MemberRequest, pk: int) -> HttpResponse:
    """A sitting by question, by student or by form."""
    sitting = sitting_to_mark(request, pk)
    named = names_shown(request)
    found = overview(sitting)
    by = request.GET.get("by", "question")
    context = {
        "sitting": sitting, "station": "marking", "by": by if by in {"student", "form"} else "question",
        "whole": found, "rule": sent(sitting), "named": named,
        "eye": [(count, said_of_many(reason, count)) for reason, count in sorted(found.eye.items())],
        "runs": may(request.user, "sittings.change_sitting", sitting),
        "next": next((each for each in found.asked if each.eye), None),
    }  # fmt: skip
    if by in BY:
        students = students_of(found, named)
        in_turn = turns(sitting.pk, found, by, students)
        first = {each.taking: each for each in reversed(in_turn)}
        for row in students:
            row["turn"] = first.get(row["taking"].pk)
        context |= {"turn": next(iter(in_turn), None)}
        context |= {"students": students} if by == "student" else {"forms": forms_of(found, students)}
    return render(request, "marking/whole.html", context)


def said_of_many(reason: str, count: int) -> str:
    """Why so many answers need an eye."""
    several = {"waiting": "wait for a mark", "agrees": "agree and are not proved"} if count > 1 else {}
    return several.get(reason, REASONS[reason])


def students_of(found: Whole, named: bool) -> list[dict[str, Any]]:
    """Every attempt: whose, what is there so far, what waits, and where to begin."""
    order = {each.pk: k for k, each in enumerate(sorted(found.takings, key=lambda each: each.receipt))}
    rows = [
        {
            "taking": each, "name": each.who if named else f"Student {order[each.pk] + 1}",
            "reached": found.reached.get(each.pk, Fraction(0)), "most": found.most.get(each.pk, Fraction(0)),
            "waiting": found.waiting[each.pk],
        }
        for each in found.takings
    ]  # fmt: skip
    return sorted(rows, key=lambda row: row["name"]) if named else sorted(rows, key=lambda row: order[row["taking"].pk])


def forms_of(found: Whole, students: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Every form: how many had it, their mean share so far, what needs an eye on it, and where to begin."""
    rows: dict[int, dict[str, Any]] = {}
    turn_of = {row["taking"].pk: row["turn"] for row in students}
    for taking in (row["taking"] for row in students):
        row = rows.setdefault(
            taking.form_id or 0,
            {"form": taking.form, "count": 0, "reached": Fraction(0), "most": Fraction(0), "eye": 0, "turn": None},
        )
        row["count"] += 1
        row["eye"] += found.waiting[taking.pk]
        row["turn"] = row["turn"] or turn_of.get(taking.pk)
        row["reached"] += found.reached.get(taking.pk, Fraction(0))
        row["most"] += found.most.get(taking.pk, Fraction(0))
    for row in rows.values():
        row["share"] = round(float(100 * row["reached"] / row["most"])) if row["most"] else None
    return sorted(rows.values(), key=lambda row: row["form"].position)


def names_shown(request: MemberRequest) -> bool:
    """Whether whoever marks wants to see names; nobody sees them before that is wished."""
    if "names" in request.GET:
        request.session["marking_names"] = request.GET["names"] == "show"
    return bool(request.session.get("marking_names"))


@dataclass(frozen=True)
class Listed:
    """A group in the list: what it is in a sentence, its members, their present mark, two examples."""

    group: Group
    title: SafeString
    count: int
    waiting: int
    marks: str
    examples: list[Answer]


@personally("sittings.list_sittings")
@require_GET
def part(request: MemberRequest, pk: int, candidate: int, part: str) -> HttpResponse:
    """A part of a question: groups at the left, their answers in the middle, marks at the right."""
    sitting = sitting_to_mark(request, pk)
    found = marked_part(sitting, part_of(sitting, candidate, part), request.user.pk)
    return part_page(request, found)


def part_page(request: MemberRequest, found: Marked, status: int = 200, **more: Any) -> HttpResponse:
    """The page of a part, with what was refused where something was."""
    place = request.POST.get("at", request.GET.get("at", ""))
    key = request.POST.get("group", request.GET.get("group", ""))
    every = "all" in request.GET and not place and not key
    answer = found.at(place)
    group = None if answer is not None or every else found.column.group(key)
    if answer is None and group is None and not every:
        answer = next(iter(found.queue), None)
        group = next((each for each in found.column.groups if len(each.members) > 1), None) if answer is None else None
        every = answer is None and group is None
    hold(found.sitting, found.asked, request.user.pk, answer.taking.pk if answer else None, group.key if group else "")
    at = answer.entry.place if answer is not None else group.key if group is not None else ""
    # what is sent holds over what was kept while it was typed
    typed = {name: str(value) for name, value in request.POST.items() if name in TYPED or name.startswith("level_")}
    if not typed:
        kept = Unsaved.objects.filter(
            by=request.user, sitting=found.sitting, candidate=found.asked.candidate, part=found.asked.part, at=at[:400]
        ).first()
        typed = kept.typed if kept is not None else {}
    members = found.answers if every else found.of(group) if group is not None else []
    shown = [each for each in members if not every or each.outcome != "right" or "right" in request.GET]
    step = found.sitting.test.department.mark_step
    decision = decision_on(found, group) if group is not None else None
    question = found.asked.candidate.revision.question
    context = {
        "sitting": found.sitting, "station": "marking", "asked": found.asked, "found": found, "every": every,
        "queue": found.queue, "groups": listed(found), "answer": answer, "group": group, "at": at,
        "title": group_title(group, found) if group is not None else "",
        "members": shown[:SHOWN] if not every else shown, "more": max(0, len(shown) - SHOWN) if not every else 0,
        "right": sum(each.outcome == "right" for each in members), "ruler": ruler_of(members),
        "named": names_shown(request), "most": found.most, "step": step, "buttons": mark_buttons(found.most, step),
        "ready": ready_comments(question.pk, found.asked.part),
        "typed": typed, "reasons": REASONS,
        "reason": REASONS[answer.reason] if answer is not None and answer.reason not in {"", "waiting"} else "",
        "comment": typed.get("comment", answer.comment if answer is not None else ""),
        "note": typed.get("note", answer.note if answer is not None else ""),
        "decision": decision,
        "decided_marks": Fraction(decision.share) * found.most if decision is not None else None,
        "runs": may(request.user, "sittings.change_sitting", found.sitting),
        "may_write": writes_it(request, question), "one": one_answer(found, answer) if answer is not None else None,
        "written_as": written_as(group, furthest(found, group)) if group is not None else "",
        "upto": found.upto, "rubric": rubric_of(found, answer, typed),
        **ways(request, found, answer),
    } | more  # fmt: skip
    return render(request, "marking/part.html", context, status=status)


def writes_it(request: MemberRequest, question: Question) -> bool:
    """Whether this person may write a new revision of a question: who marks may be of another department."""
    membership = getattr(request, "membership", None)
    return membership is not None and may(membership, "bank.change_question", question)


def furthest(found: Marked, group: Group) -> float | None:
    """How far from its key the furthest answer of a group is, in per cent of the key; None where one is no number."""
    distances = [each.entry.near for each in found.of(group)]
    known = [each for each in distances if each is not None]
    return max(known) if known and len(known) == len(distances) else None


def ways(request: MemberRequest, found: Marked, answer: Answer | None) -> dict[str, Any]:
    """Where one goes from an answer: within the question, or by student or form where that is the order of work."""
    by = request.POST.get("by", request.GET.get("by", ""))
    if by in BY and answer is not None:
        before, after = in_turn(found, answer, by, names_shown(request))
        return {"by": by, "before": before.address if before else "", "after": after.address if after else ""}
    both = (neighbour(found, answer, step) for step in (-1, 1))
    before_it, after_it = (f"?at={each.entry.place}" if each is not None else "" for each in both)
    return {"by": "", "before": before_it, "after": after_it}


def in_turn(found: Marked, answer: Answer, by: str, named: bool) -> tuple[Turn | None, Turn | None]:
    """The answers before and after one that need an eye, by student or by form."""
    whole = overview(found.sitting)
    students = students_of(whole, named)
    where = found.asked.candidate.pk, found.asked.part, answer.entry.position
    here = Turn(found.sitting.pk, answer.taking.pk, *where, by)
    return neighbours(whole, turns(found.sitting.pk, whole, by, students), students, here)


def neighbour(found: Marked, answer: Answer | None, step: int) -> Answer | None:
    """The answer before or after one, in the order in which they are marked."""
    if answer is None:
        return None
    among = found.queue if answer.reason else found.answers
    places = [each.entry.place for each in among]
    k = places.index(answer.entry.place) + step
    return among[k] if 0 <= k < len(among) else None


def listed(found: Marked) -> list[Listed]:
    """The groups that have something in common; what is written at length stands in the queue."""
    rows = []
    for group in found.column.groups:
        if group.kind == "hand":
            continue
        members = found.of(group)
        kept = {each.marks for each in members}
        if len(kept) == 1:
            only = next(iter(kept))
            marks = "waits" if only is None else f"{shown_marks(only)} of {shown_marks(found.most)}"
        else:
            marks = "several marks"
        waiting = sum(bool(each.reason) for each in members)
        rows.append(Listed(group, group_title(group, found), len(members), waiting, marks, members[:2]))
    return rows


TITLES = {
    "right": "right", "blank": "left empty", "unreadable": "cannot be read", "near": "near miss", "option": "chose",
    "words": "wrote", "value": "the same wrong answer", "one": "like no other",
}  # fmt: skip


def group_title(group: Group, found: Marked) -> SafeString:
    """What a group has in common, in a line."""
    if group.kind == "formula":
        return format_html("{}: {}", group.words, formula_markup(group.formula, found))
    if group.kind in {"unreadable", "option", "words"}:
        return format_html("{} “{}”", TITLES[group.kind], group.words[:120])
    if group.kind in {"value", "one"}:
        return format_html("{}", group.words or "wrong")
    if group.kind in {"near", "slip", "band", "demand", "unit"}:
        return format_html("{}", group.words)
    return format_html("{}", TITLES[group.kind])


def formula_markup(formula: str, found: Marked) -> SafeString:
    """The formula of a group, set; as it is typed where it is none that can be read."""
    form_set = found.sitting.form_set
    question, _, _ = compiled(found.asked.candidate.revision_id, Habits(**form_set.habits), form_set.in_order)
    try:
        return for_students(mathml(read_authored(formula, question.settings), question.style))
    except NotationError:
        return SafeString(escape(formula))


def decision_on(found: Marked, group: Group) -> Decision | None:
    """What was decided about a group last, and holds."""
    own = Decision.objects.filter(
        sitting=found.sitting,
        candidate=found.asked.candidate,
        part=found.asked.part,
        group=group.key[:400],
        undone=None,
    )
    return own.select_related("by").last()


def mark_buttons(most: Fraction, step: str) -> list[str]:
    """The marks that have a button: whole ones up to nine, and none where there would be too many."""
    whole = [str(each) for each in range(int(most) + 1)]
    buttons = whole if len(whole) <= 10 else []
    if step != "1" and most.denominator != 1:
        buttons.append(str(shown_marks(most)))
    return buttons


def ruler_of(members: list[Answer]) -> list[tuple[float, Answer]]:
    """Where answers stand on the ruler, from 0 to 100: the key in the middle, a width of the tolerance on each side."""
    return [(round(50 + 50 * each.entry.off / REACH, 2), each) for each in members if each.entry.off is not None]


def rubric_of(found: Marked, answer: Answer | None, typed: Mapping[str, str]) -> list[dict[str, Any]]:
    """The rubric of the part, with the levels that were chosen, else those that were reached."""
    revision = found.asked.candidate.revision
    if found.asked.kind != "essay":
        return []
    document = load_document(revision.document)
    specification = next(each.answer for each in document.parts if each.id == found.asked.part)
    reached = {each["name"]: each["marks"] for each in answer.mark.levels} if answer and answer.mark else {}
    return [
        {
            "name": name,
            "levels": [
                (str(marks), text, is_chosen(typed.get(f"level_{k}"), place, typed, reached.get(name) == str(marks)))
                for place, (marks, text) in enumerate(levels)
            ],
        }
        for k, (name, levels) in enumerate(specification.rubric_rows)
    ]  # fmt: skip


def is_chosen(chosen: str | None, place: int, typed: Mapping[str, str], reached: bool) -> bool:
    """Whether a level is chosen: by what was typed, else as it was reached."""
    return chosen == str(place) if typed else reached


def one_answer(found: Marked, answer: Answer) -> dict[str, Any]:
    """An answer with all that is needed to mark it: the question as it was asked, the key, the working, what was given
    before."""
    taking = answer.taking
    taking.sitting = found.sitting
    sheet = sheet_at(taking, answer.entry.position)
    shown: Any = sheet.shown if sheet is not None else {"wording": "", "parts": []}
    own = next((each for each in shown["parts"] if each["id"] == found.asked.part), None)
    history = Mark.objects.filter(taking=taking, position=answer.entry.position, part=found.asked.part)
    history = history.select_related("by")
    own_and_working = (found.asked.part, WORKING_PART)
    arrived = taking.responses.filter(position=answer.entry.position, part__in=own_and_working, counts=True)
    last = {each.part: each for each in arrived.order_by("pk")}
    working, answered = last.get(WORKING_PART), last.get(found.asked.part)
    now = timezone.localtime()
    return {
        "wording": shown["wording"], "part": own, "working": str(working.response or "") if working else "",
        "key": mark_safe(answer.entry.key), "read": mark_safe(answer.entry.read), "scheme": scheme_of(found, answer),
        "answered": moment_words(timezone.localtime(answered.arrived), now) if answered else "",
        "history": [
            (each, moment_words(timezone.localtime(each.made), now)) for each in history.order_by("-pk")
        ],
    }  # fmt: skip


def scheme_of(found: Marked, answer: Answer) -> list[tuple[str, str, str]]:
    """What else counts in the draw of an answer: how close is close enough, and what earns less, with its share."""
    had = drawn_at(answer.taking, answer.entry.position)
    if had is None:
        return []
    places = [each.id for each in had.question.document.parts]
    drawn = had.answers[places.index(found.asked.part)]
    if drawn is None:
        return []
    rows = [(drawn.closeness(), "", "")] if drawn.closeness() else []
    for less in drawn.earning_less():
        what = less.what if isinstance(less.what, str) else line(less.what)
        rows.append((what, str(less.share), less.feedback))
    return rows


@personally("sittings.list_sittings")
@require_GET
def student(request: MemberRequest, pk: int, taking: int) -> HttpResponse:
    """All answers of one student, with their marks."""
    sitting = sitting_to_mark(request, pk)
    found = overview(sitting)
    own = next((each for each in found.takings if each.pk == taking), None)
    if own is None:
        raise Http404
    own.sitting = sitting
    named = names_shown(request)
    rows = students_of(found, named)
    marks = {(each.position, each.part): each for each in own.marks()}
    answers = own.answers()
    asked = {(each.candidate.pk, each.part): each for each in found.asked}
    places = [row["taking"].pk for row in rows]
    k = places.index(own.pk)
    context = {
        "sitting": sitting, "station": "marking", "taking": own, "name": rows[k]["name"], "named": named,
        "rows": answers_of_one(own, marks, answers, asked), "total": total(own, list(marks.values())),
        "before": rows[k - 1] if k else None, "after": rows[k + 1] if k + 1 < len(rows) else None,
    }  # fmt: skip
    return render(request, "marking/student.html", context)


def answers_of_one(taking: Taking, marks: Any, answers: Any, asked: Any) -> list[dict[str, Any]]:
    """The parts of a student's questions in their order, each with their answer, its key and its mark."""
    rows = []
    for had in questions_had(taking):
        candidate = candidate_at(taking, had.position)
        for k, part in enumerate(had.drawn.question.document.parts):
            found = asked.get((candidate, part.id))
            if found is None:
                continue
            tree = had.drawn.key_tree(k) if part.answer.checked else None
            rows.append(
                {
                    "asked": found, "position": had.position, "number": had.position + 1,
                    "label": had.drawn.question.document.labels[k].full, "place": f"{taking.pk}-{had.position}",
                    "mark": marks.get((had.position, part.id)), "typed": said(answers.get((had.position, part.id))),
                    "key": for_students(mathml(tree, had.drawn.question.style)) if tree is not None else "",
                }
            )  # fmt: skip
    return rows


def candidate_at(taking: Taking, position: int) -> int:
    """The question that stands at a position for a student."""
    found = FormItem.objects.filter(form=taking.form_id, position=position).values_list("candidate", flat=True).first()
    if found is None:
        found = (
            taking.similar.filter(form=taking.form_id, position=position).values_list("candidate", flat=True).first()
        )
    return found or 0
