"""What whoever marks does: giving marks and comments, taking them back, making a slip of a group."""

from __future__ import annotations

from fractions import Fraction
from urllib.parse import urlencode

from django.contrib import messages
from django.core.exceptions import PermissionDenied
from django.db import transaction
from django.http import HttpResponse
from django.shortcuts import redirect
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST

from vorlage.core.answers import shown_marks
from vorlage.core.marking import Group, MarkRefused, read_given_marks
from vorlage.core.questions import Unsound
from vorlage.web.people.permissions import may, personally
from vorlage.web.people.requests import MemberRequest

from .giving import Given, as_by_rule, give, note_comment
from .models import Decision, SentToAnEye, Unsaved
from .places import Answer, Marked, marked_part, part_of, sitting_to_mark
from .slips import SlipRefused, written_as, written_into
from .turns import BY
from .views import TYPED, decision_on, furthest, in_turn, names_shown, part_page, rubric_of, writes_it

MOST_CELLS = 2000
NO_SHARE = "Give the group its marks first: they are its share."


def here(found: Marked, **where: str) -> HttpResponse:
    """Back to the page of a part, at an answer or a group."""
    address = reverse("mark-part", args=[found.sitting.pk, found.asked.candidate.pk, found.asked.part])
    query = urlencode({name: value for name, value in where.items() if value})
    return redirect(f"{address}?{query}" if query else address)


def chosen_answers(request: MemberRequest, found: Marked, group: Group | None) -> list[Answer]:
    """The answers that are meant: those that are ticked, the one that is looked at, or all of a group but those that
    were taken out."""
    wanted = set(request.POST.getlist("cell")[:MOST_CELLS])
    if wanted and not (group is not None and "whole" in request.POST):
        return [each for each in found.answers if each.entry.place in wanted]
    if "ticked" in request.POST and "whole" not in request.POST:
        return []
    if group is not None:
        return found.of(group)
    answer = found.at(request.POST.get("at", ""))
    return [answer] if answer is not None else []


@personally("sittings.list_sittings")
@require_POST
def give_marks(request: MemberRequest, pk: int, candidate: int, part: str) -> HttpResponse:
    """Give marks and a comment: to one answer, to several, to a group; then the next one is there."""
    sitting = sitting_to_mark(request, pk)
    found = marked_part(sitting, part_of(sitting, candidate, part), request.user.pk)
    group = found.column.group(request.POST.get("group", ""))
    answers = chosen_answers(request, found, group)
    if not answers:
        return part_page(request, found, 422, refused="No answer is chosen: tick those that are meant.")
    try:
        given = given_in(request, found, answers)
    except MarkRefused as problem:
        return part_page(request, found, 422, refused=str(problem))
    with transaction.atomic():
        outcome = give(sitting, part, [(each.entry.taking, each.entry.position) for each in answers], given)
        if given.comment:
            note_comment(found.asked.candidate.revision.question, part, given.comment)
        if group is not None and given.marks is not None and outcome.given:
            decide(found, group, given, "later" in request.POST)
        at = group.key if group is not None else answers[0].entry.place
        Unsaved.objects.filter(
            by=request.user, sitting=sitting, candidate=found.asked.candidate, part=part, at=at[:400]
        ).delete()
    if outcome.meanwhile:
        names = ", ".join(sorted({mark.by.name for mark in outcome.meanwhile if mark.by is not None}))
        count = len(outcome.meanwhile)
        again = marked_part(sitting, found.asked, request.user.pk)
        told = f"{names} gave {'it a mark' if count == 1 else f'{count} of them marks'} meanwhile: look at what stands "
        return part_page(request, again, 409, refused=told + "there now, and give yours once more if it is to hold.")
    question = found.asked.candidate.revision.question
    writes = group is not None and "write" in request.POST and writes_it(request, question)
    if group is not None and writes and (refused := write_down(request, found, group)):
        messages.warning(request, refused)
    return next_after(request, found, group, answers)


def given_in(request: MemberRequest, found: Marked, answers: list[Answer]) -> Given:
    """What was typed. Raises ``MarkRefused``."""
    typed = request.POST.get("marks", "")
    levels = levels_in(request, found)
    marks = None
    if levels and not typed.strip():
        marks = sum((Fraction(each["marks"]) for each in levels), Fraction(0))
        if marks > found.most:
            told = f"The levels come to {shown_marks(marks)} and the part has {shown_marks(found.most)} marks"
            raise MarkRefused(f"{told}: type the marks.")
    else:
        marks = read_given_marks(typed, found.most, found.sitting.test.department.mark_step)
    upto = request.POST.get("upto", "")
    comment, note = (" ".join(request.POST.get(name, "").split()) for name in ("comment", "note"))
    single = len(answers) == 1
    return Given(
        request.user, marks, request.POST.get("reason", "").strip()[:300], levels,
        # an empty comment takes one back from a single answer, and says nothing of many
        comment[:1000] if comment or single else None, note[:1000] if note or single else None,
        int(upto) if upto.isdecimal() and len(upto) < 18 else None,
    )  # fmt: skip


def levels_in(request: MemberRequest, found: Marked) -> list[dict[str, str]]:
    """The levels of the rubric that were chosen. Raises ``MarkRefused`` where one is missing and no marks are typed."""
    rubric = rubric_of(found, None, {})
    levels, missing = [], []
    for k, criterion in enumerate(rubric):
        chosen = request.POST.get(f"level_{k}", "")
        if chosen.isdecimal() and int(chosen[:3]) < len(criterion["levels"]):
            marks, text, _ = criterion["levels"][int(chosen)]
            levels.append({"name": criterion["name"], "marks": marks, "text": text})
        elif criterion["levels"]:
            missing.append(criterion["name"])
    if levels and missing and not request.POST.get("marks", "").strip():
        raise MarkRefused(f"Choose a level for {missing[0]}, or type the marks.")
    return levels


def decide(found: Marked, group: Group, given: Given, later: bool) -> None:
    """Note what was decided about a group."""
    share = (given.marks or Fraction(0)) / found.most if found.most else Fraction(0)
    Decision.objects.create(
        sitting=found.sitting, candidate=found.asked.candidate, part=found.asked.part, group=group.key[:400],
        words=group.words[:400], share=str(share), reason=given.reason, comment=given.comment or "", later=later,
        by=given.by,
    )  # fmt: skip


def next_after(request: MemberRequest, found: Marked, group: Group | None, answers: list[Answer]) -> HttpResponse:
    """Where one goes on: the next answer that needs an eye, or the next group that is not decided."""
    if group is None and len(answers) > 1:
        messages.success(request, f"{len(answers)} answers marked.")
        return here(found, all="1")
    done = {each.entry.place for each in answers}
    if group is not None:
        messages.success(request, f"{len(answers)} answer{'' if len(answers) == 1 else 's'} marked.")
        keys = [each.key for each in found.column.groups if each.kind not in {"right", "hand"}]
        rest = keys[keys.index(group.key) + 1 :] if group.key in keys else []
        return here(found, group=rest[0] if rest else group.key)
    by = request.POST.get("by", "")
    if by in BY:
        _, after = in_turn(found, answers[0], by, names_shown(request))
        if after is not None:
            return redirect(after.address)
        messages.success(request, "Nothing is left that needs an eye.")
        return redirect(f"{reverse('mark-sitting', args=[found.sitting.pk])}?by={by}")
    # those behind it, then those before it; who wishes it goes on though nothing waits
    among = found.queue if answers[0].reason else found.answers
    places = [each.entry.place for each in among]
    k = places.index(answers[0].entry.place)
    left = places[k + 1 :] + (places[:k] if answers[0].reason else [])
    following = next((each for each in left if each not in done), None)
    if following is None:
        messages.success(request, "That was the last one here.")
        return here(found, at=answers[0].entry.place)
    return here(found, at=following)


@personally("sittings.list_sittings")
@require_POST
def back_to_rule(request: MemberRequest, pk: int, candidate: int, part: str) -> HttpResponse:
    """Let the marks that the rules gave hold again: for one answer, or for a group with what was decided about it."""
    sitting = sitting_to_mark(request, pk)
    found = marked_part(sitting, part_of(sitting, candidate, part), request.user.pk)
    group = found.column.group(request.POST.get("group", ""))
    answers = chosen_answers(request, found, group)
    with transaction.atomic():
        count = as_by_rule(sitting, part, [(each.entry.taking, each.entry.position) for each in answers], request.user)
        if group is not None:
            Decision.objects.filter(
                sitting=sitting, candidate=found.asked.candidate, part=part, group=group.key[:400], undone=None
            ).update(undone=timezone.now())
    messages.success(request, f"{count} answer{'' if count == 1 else 's'}: as the rules give it.")
    return here(found, group=group.key if group is not None else "", at=request.POST.get("at", ""))


@personally("sittings.list_sittings")
@require_POST
def keep_typed(request: MemberRequest, pk: int, candidate: int, part: str) -> HttpResponse:
    """Keep what is typed beside an answer or a group, at each keystroke; nothing is given by it."""
    sitting = sitting_to_mark(request, pk)
    asked = part_of(sitting, candidate, part)
    at = request.POST.get("group", "") or request.POST.get("at", "")
    wanted = {name: request.POST[name][:1000] for name in request.POST if name in TYPED or name.startswith("level_")}
    Unsaved.objects.update_or_create(
        by=request.user, sitting=sitting, candidate=asked.candidate, part=part, at=at[:400],
        defaults={"typed": dict(list(wanted.items())[:20])},
    )  # fmt: skip
    return HttpResponse(status=204)


@personally("sittings.list_sittings")
@require_POST
def set_rule(request: MemberRequest, pk: int) -> HttpResponse:
    """Say what is sent to an eye beside what nobody but a person can mark."""
    sitting = sitting_to_mark(request, pk)
    if not may(request.user, "sittings.change_sitting", sitting):
        raise PermissionDenied
    typed = request.POST.get("near", "").strip().removesuffix("%").strip()
    if typed and not (typed.isdecimal() and 1 <= int(typed[:4]) <= 100):
        messages.warning(request, "Near the key: type a whole number of per cent from 1 to 100, or nothing.")
        return redirect("mark-sitting", pk)
    SentToAnEye.objects.update_or_create(
        sitting=sitting, defaults={"agrees": "agrees" in request.POST, "near": int(typed) if typed else None}
    )
    messages.success(request, "That is looked at from now on.")
    return redirect("mark-sitting", pk)


@personally("sittings.list_sittings")
@require_POST
def write_slip(request: MemberRequest, pk: int, candidate: int, part: str) -> HttpResponse:
    """Write what a group has in common into the question with its share: a new revision."""
    sitting = sitting_to_mark(request, pk)
    found = marked_part(sitting, part_of(sitting, candidate, part), request.user.pk)
    question = found.asked.candidate.revision.question
    if not writes_it(request, question):
        raise PermissionDenied
    group = found.column.group(request.POST.get("group", ""))
    refused = NO_SHARE if group is None else write_down(request, found, group)
    if refused or group is None:
        return part_page(request, found, 422, refused=refused)
    return here(found, group=group.key)


def write_down(request: MemberRequest, found: Marked, group: Group) -> str:
    """Write a group that was decided about into its question; why it cannot be, empty where it was."""
    question, decision = found.asked.candidate.revision.question, decision_on(found, group)
    nearest = furthest(found, group)
    if decision is None:
        return NO_SHARE
    try:
        share = Fraction(decision.share)
        revision = written_into(question, found.asked.part, group, nearest, share, decision.comment, request.user)
    except (SlipRefused, Unsound) as problem:
        return f"It cannot be written into the question: {problem}"
    what = written_as(group, nearest)
    messages.success(
        request, f"It is a{'n' if what[0] == 'a' else ''} {what} of the question from revision {revision.number} on."
    )
    return ""
