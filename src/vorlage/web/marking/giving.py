"""Marks by hand: to one answer, to many, to a group. Every mark is added; the last is the one that holds."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction

from django.db import transaction
from django.db.models import F
from django.utils import timezone

from vorlage.core.answers import of_share
from vorlage.core.marking import RULES_VERSION
from vorlage.web.bank.models import Question
from vorlage.web.people.models import User
from vorlage.web.sittings.models import Comment, Mark, Sitting, Taking

from .models import ReadyComment

# What a mark was given by, where somebody gave it.
BY_HAND = "by_hand"
MOST_READY = 12


@dataclass(frozen=True)
class Given:
    """What is given: marks out of those of the part, why, the levels of its rubric that were reached, and what is said
    of it. ``upto`` is the newest mark that whoever gives it has seen; what somebody else gave since is not covered."""

    by: User
    marks: Fraction | None
    reason: str = ""
    levels: Sequence[Mapping[str, str]] = ()
    comment: str | None = None
    note: str | None = None
    upto: int | None = None


@dataclass
class Outcome:
    """What came of it: which marks were given, by answer; and what others gave meanwhile, which stays."""

    given: dict[tuple[int, int], Mark] = field(default_factory=dict)
    meanwhile: list[Mark] = field(default_factory=list)


@transaction.atomic
def give(sitting: Sitting, part: str, places: Sequence[tuple[int, int]], given: Given) -> Outcome:
    """Give the same to answers to one part, by attempt and question; those of one attempt are given together."""
    outcome = Outcome()
    wanted: dict[int, list[int]] = {}
    for whose, position in places:
        wanted.setdefault(whose, []).append(position)
    locked = Taking.objects.counted().select_for_update(of=("self",)).filter(sitting=sitting, pk__in=wanted)
    rows, comments = [], []
    for taking in locked.order_by("pk"):
        taking.sitting = sitting
        held = {(each.position, each.part): each for each in taking.marks()}
        for position in wanted[taking.pk]:
            before = held.get((position, part))
            if before is None:
                continue
            if given.upto is not None and before.pk > given.upto and before.by_id not in {None, given.by.pk}:
                outcome.meanwhile.append(before)
                continue
            if given.marks is not None:
                mark = by_hand(before, given)
                rows.append(mark)
                outcome.given[taking.pk, position] = mark
            for text, for_student in ((given.comment, True), (given.note, False)):
                if text is not None:
                    comments.append(
                        Comment(
                            taking=taking, position=position, part=part, text=text[:1000], for_student=for_student,
                            by=given.by,
                        )
                    )  # fmt: skip
    Mark.objects.bulk_create(rows)
    keep_comments(comments)
    return outcome


def keep_comments(comments: Sequence[Comment]) -> None:
    """Keep those that say something else than what was said before."""
    wanted = {(each.taking_id, each.position, each.part, each.for_student): each for each in comments}
    rows = Comment.objects.filter(taking__in={each.taking_id for each in comments}).order_by("pk")
    there = {(each.taking_id, each.position, each.part, each.for_student): each.text for each in rows}
    Comment.objects.bulk_create([each for place, each in wanted.items() if there.get(place, "") != each.text])


def by_hand(before: Mark, given: Given) -> Mark:
    """The mark that somebody gives in place of one: it says what was read and drawn as that did, and costs nothing."""
    marks, most = given.marks or Fraction(0), Fraction(before.most)
    share = marks / most if most else Fraction(0)
    return Mark(
        **copied(before), outcome=of_share(share), share=str(share), marks=str(marks), cost="0", code=BY_HAND,
        because=given.reason[:500] or "given by hand", by=given.by, reason=given.reason[:300],
        levels=list(given.levels), version=RULES_VERSION, feedback=[],
    )  # fmt: skip


# What a mark says of where it stands, whoever gave it.
COPIED = ("taking_id", "position", "part", "most", "reading", "beyond", "place", "submission", "draw", "revision")


def copied(before: Mark) -> dict[str, object]:
    return {name: getattr(before, name) for name in COPIED}


@transaction.atomic
def as_by_rule(sitting: Sitting, part: str, places: Sequence[tuple[int, int]], by: User) -> int:
    """Put the marks that the rules gave in place of those that were given by hand; how many there were."""
    rows = []
    for taking in (
        Taking.objects.counted()
        .select_for_update(of=("self",))
        .filter(sitting=sitting, pk__in={taking for taking, _ in places})
    ):
        taking.sitting = sitting
        held = {(each.position, each.part): each for each in taking.marks()}
        for position in {position for own, position in places if own == taking.pk}:
            before = held.get((position, part))
            rule = Mark.objects.filter(taking=taking, position=position, part=part, by=None).order_by("pk").last()
            if before is None or before.by_id is None or rule is None:
                continue
            same = ("outcome", "share", "marks", "cost", "code", "because", "certainty", "feedback", "version")
            values = {name: getattr(rule, name) for name in same}
            rows.append(Mark(**copied(rule), **values, reason=f"as the rules give it, by {by.name}"[:300]))
    Mark.objects.bulk_create(rows)
    return len(rows)


def ready_comments(question: int, part: str) -> list[ReadyComment]:
    """The comments that were given to answers to a part, those that are used most first."""
    return list(ReadyComment.objects.filter(question=question, part=part)[:MOST_READY])


def note_comment(question: Question, part: str, text: str) -> None:
    """Note that a comment was used: it is ready for the next answer."""
    made, fresh = ReadyComment.objects.get_or_create(question=question, part=part, text=text[:1000])
    if not fresh:
        ReadyComment.objects.filter(pk=made.pk).update(used=F("used") + 1, last=timezone.now())
