"""Which marks would come out otherwise by the rules of today: for a teacher to decide, since nothing here is kept."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from vorlage.core.marking import PartMark, mark_of
from vorlage.core.notation import Habits
from vorlage.core.questions import DocumentError
from vorlage.web.bank.models import Question

from .marking import marks_by_rule, said, tries_of, worth_now
from .models import Mark, Taking, held_marks
from .questions import questions_had


@dataclass(frozen=True)
class Otherwise:
    """An answer whose verdict was another one: where it is, what was answered, and both verdicts."""

    taking: Taking
    title: str
    part: str
    answered: str
    before: PartMark
    now: PartMark

    def __str__(self) -> str:
        was, is_now = (f"{each.outcome}, {each.marks} of {each.most}" for each in (self.before, self.now))
        where = f"{self.taking.sitting} · {self.taking.who} · {self.title} ({self.part})"
        return f"{where}: “{self.answered}” was {was}; now {is_now}"


def otherwise_marked(taking: Taking) -> Iterator[Otherwise]:
    """The answers of somebody that are marked otherwise now. What a person decided is left out."""
    given = list(taking.given_marks.order_by("pk"))
    before = {(each.position, each.part): each for each in held_marks(taking.sitting.held, given) if each.by_id is None}
    now: dict[tuple[int, str], Mark] = {(each.position, each.part): each for each in marks_by_rule(taking, given)}
    answers, tries = taking.answers(), tries_of(taking)
    changed = taking.sitting.changed
    for had in questions_had(taking, True):
        for k, part in enumerate(had.drawn.question.document.parts):
            where = had.position, part.id
            if where not in before:
                continue
            told = taking, had.drawn.question.document.title, part.id
            if where in now and differ(before[where].held, now[where].held):
                yield Otherwise(*told, said(answers.get(where)), before[where].held, now[where].held)
            worth = worth_now(changed, had, part.id, had.most[k])
            for tried in tries.get(where, ()):
                # what was tried keeps its verdict, so that it is looked at by itself
                again = mark_of(part.id, had.drawn.verdict(k, tried.response), worth)
                if differ(tried.held, again):
                    yield Otherwise(*told, said(tried.response), tried.held, again)


def differ(before: PartMark, now: PartMark) -> bool:
    return (before.outcome, before.share) != (now.outcome, now.share)


def broken_questions() -> Iterator[tuple[Question, str]]:
    """The questions whose newest revision was sound and is not by the rules of today, each with what is wrong."""
    for question in Question.objects.select_related("current").exclude(current=None).iterator(chunk_size=100):
        try:
            found = [each.message for each in question.newest.compiled(Habits()).problems]
        except DocumentError as problem:
            found = [str(problem)]
        if found:
            yield question, found[0]


def report() -> Iterator[str]:
    """Lines that say which questions and which answers come out otherwise; one person's trouble stops nobody else's."""
    for question, message in broken_questions():
        yield f"Question {question.newest}: {message}"
    marked = Taking.objects.filter(marked__isnull=False).select_related("sitting", "student")
    for taking in marked.order_by("sitting", "pk").iterator(chunk_size=100):
        try:
            yield from map(str, otherwise_marked(taking))
        except Exception as problem:
            yield f"{taking.sitting} · {taking.who}: this could not be marked anew: {problem}"
