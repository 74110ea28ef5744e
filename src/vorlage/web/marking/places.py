"""What is marked: the sitting, the part of a question in it, and the answers to that, as an address names them."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta
from fractions import Fraction

from django.http import Http404
from django.utils import timezone

from vorlage.core.marking import Group
from vorlage.web.people.permissions import held
from vorlage.web.people.requests import MemberRequest
from vorlage.web.sittings.models import Comment, Mark, Sitting, Taking, held_marks

from .columns import Column, Entry, column_of
from .models import Holding
from .overview import Asked, asked_in, needs_eye, sent

# Who has not moved for so long holds nothing any more.
HOLDS = timedelta(minutes=3)


def sitting_to_mark(request: MemberRequest, pk: int) -> Sitting:
    """A sitting that this person may mark."""
    among = Sitting.objects.select_related("test__department__school", "form_set", "author")
    return held(request, "sittings.mark_sitting", among, by=request.user, pk=pk)


@dataclass
class Answer:
    """An answer in its column: the entry, its number in the mixed order, its mark, and what is said of it."""

    entry: Entry
    number: int
    taking: Taking
    mark: Mark | None
    reason: str = ""
    comment: str = ""
    note: str = ""
    # who else has it before them
    holder: str = ""
    group: str = ""

    @property
    def outcome(self) -> str:
        return self.mark.outcome if self.mark is not None else "waiting"

    @property
    def marks(self) -> Fraction | None:
        """Its marks; none while it waits."""
        if self.mark is None or self.mark.outcome == "waiting":
            return None
        return Fraction(self.mark.marks)


@dataclass
class Marked:
    """A part of a question with all answers to it."""

    sitting: Sitting
    asked: Asked
    column: Column
    answers: list[Answer]
    # the newest mark that is seen here
    upto: int

    @property
    def most(self) -> Fraction:
        return next((Fraction(each.mark.most) for each in self.answers if each.mark is not None), Fraction(0))

    @property
    def queue(self) -> list[Answer]:
        """What needs an eye, unreadable ones first."""
        found = [each for each in self.answers if each.reason]
        return sorted(found, key=lambda each: each.reason != "unreadable")

    def of(self, group: Group) -> list[Answer]:
        return [self.answers[k] for k in group.members]

    def at(self, place: str) -> Answer | None:
        return next((each for each in self.answers if each.entry.place == place), None)


def part_of(sitting: Sitting, candidate: int, part: str) -> Asked:
    """A part of a question of a sitting. Raises ``Http404``."""
    for each in asked_in(sitting):
        if each.candidate.pk == candidate and each.part == part:
            return each
    raise Http404


def marked_part(sitting: Sitting, asked: Asked, by: int) -> Marked:
    """A part with its answers, as ``by`` sees it."""
    column = column_of(sitting, asked.candidate, asked.part)
    pks = {each.taking for each in column.entries}
    takings = {each.pk: each for each in Taking.objects.filter(pk__in=pks).select_related("student", "form")}
    rows = Mark.objects.filter(taking__in=pks, part=asked.part).select_related("by").order_by("pk")
    given: dict[int, list[Mark]] = {}
    upto = 0
    for mark in rows:
        given.setdefault(mark.taking_id, []).append(mark)
        upto = max(upto, mark.pk)
    held_by = {
        (each.taking_id, each.position): each for own in given.values() for each in held_marks(sitting.held, own)
    }
    said: dict[tuple[int, int, bool], str] = {}
    for each in Comment.objects.filter(taking__in=pks, part=asked.part).order_by("pk"):
        said[each.taking_id, each.position, each.for_student] = each.text
    others = Holding.objects.filter(
        sitting=sitting, candidate=asked.candidate, part=asked.part, at__gt=timezone.now() - HOLDS
    ).exclude(by=by)
    holders = {each.taking_id: each.by.name for each in others.select_related("by")}
    group_of = {k: group.key for group in column.groups for k in group.members}
    rule, answers = sent(sitting), []
    for k, entry in enumerate(column.entries):
        where = entry.taking, entry.position
        own_mark = held_by.get(where)
        reason = needs_eye(own_mark.outcome, own_mark.certainty, own_mark.by_id, rule, entry.near) if own_mark else ""
        answers.append(
            Answer(
                entry, k + 1, takings[entry.taking], own_mark, reason, said.get((*where, True), ""),
                said.get((*where, False), ""), holders.get(entry.taking, ""), group_of.get(k, ""),
            )
        )  # fmt: skip
    return Marked(sitting, asked, column, answers, upto)


def hold(sitting: Sitting, asked: Asked, by: int, taking: int | None, group: str) -> None:
    """Note what somebody has before them."""
    Holding.objects.update_or_create(
        sitting=sitting, by_id=by,
        defaults={
            "candidate": asked.candidate, "part": asked.part, "taking_id": taking, "group": group[:400],
            "at": timezone.now(),
        },
    )  # fmt: skip
