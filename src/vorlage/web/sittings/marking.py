"""Marking what was handed in, and what a student sees of it. The keys are reached from here and from where questions
are checked, and nowhere else in this app."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from fractions import Fraction
from typing import Any

from django.core.cache import cache
from django.db import transaction
from django.utils import timezone
from django.utils.safestring import SafeString

from vorlage.core.answers import shown_marks
from vorlage.core.documents import ReturnedPart, ReturnedWork, returned_pdf
from vorlage.core.marking import (
    NO_TRY,
    RULES_VERSION,
    ClassResult,
    Counted,
    PartMark,
    Total,
    best_of_tries,
    best_question,
    class_result,
    is_settled,
    less,
    mark_of,
    marked,
    that_counts,
    total_of,
)
from vorlage.core.notation import Habits, mathml
from vorlage.core.notation import typst as typst_equation
from vorlage.core.questions import DrawnQuestion, written_solution
from vorlage.core.sittings import kept_share, share_words, what_costs
from vorlage.core.text import HTML
from vorlage.web.bank.markup import for_students
from vorlage.web.files.models import Stored

from .models import (
    WORKING_PART,
    AnyMark,
    BriefMark,
    Comment,
    Mark,
    Sitting,
    SomeMark,
    Taking,
    Tried,
    brief_marks,
    by_person,
    held_marks,
)
from .questions import Had, questions_had

A_MINUTE = 60


@transaction.atomic
def mark(taking: Taking) -> None:
    """Mark what was handed in, once; each mark says by which rule. What somebody gave by hand stays."""
    locked = Taking.locked(pk=taking.pk)
    if locked.handed_in is None or locked.marked is not None or locked.form_id is None:
        return
    before = list(locked.given_marks.order_by("pk"))
    by_hand = {(each.position, each.part) for each in held_marks(locked.sitting.held, before) if each.by_id is not None}
    rows = [each for each in marks_by_rule(locked, before) if (each.position, each.part) not in by_hand]
    Mark.objects.bulk_create(rows)
    locked.marked = timezone.now()
    locked.save(update_fields=["marked"])


def marks_by_rule(
    taking: Taking,
    before: Sequence[Mark],
    changed: Mapping[str, Any] | None = None,
    only: Collection[int] | None = None,
) -> list[Mark]:
    """The marks that the rules give for what was handed in, to be kept; ``before`` are all that were given until now.
    With ``changed`` in place of what was changed of the sitting, and of ``only`` some questions, by what the form set
    took."""
    rules, answers = taking.sitting.held, taking.answers()
    changed = taking.sitting.changed if changed is None else changed
    costs, tries = taking.hint_costs(), tries_of(taking)
    rows = []
    for had in questions_had(taking, True, changed, only):
        parts = had.drawn.question.document.parts
        given = [answers.get((had.position, part.id)) for part in parts]
        worth = [worth_now(changed, had, part.id, most) for part, most in zip(parts, had.most)]
        for k, (part, final) in enumerate(zip(parts, marked(had.drawn, given, worth))):
            where = had.position, part.id
            if not part.answer.asks:
                continue
            tried = tries.get(where, [])
            same = bool(tried) and tried[-1].response == given[k]
            settled = is_settled([each.outcome for each in tried], rules.tries)
            again = [tried_now(each, had, k, worth[k], changed) for each in tried]
            counted = again + ([] if tried and (same or settled) else [final])
            found = best_of_tries(counted, rules.try_cost)
            found = less(found, costs.get(where, Fraction(0)) + rules.similar_cost * had.number)
            if rules.resubmitted == "best":
                found = less(found, rules.submission_cost * submissions_before(before, where, taking.submission))
            found = annulled(found, changed, had, taking.form_id)
            rows.append(
                Mark(
                    taking=taking, position=had.position, beyond=is_beyond(changed, had), draw=had.draw,
                    revision=had.revision, version=RULES_VERSION, place=had.place, submission=taking.submission,
                    **Mark.columns_of(found),
                )
            )  # fmt: skip
    return rows


def tried_now(tried: Tried, had: Had, part: int, most: Fraction, changed: Mapping[str, Any]) -> PartMark:
    """What a try comes to: as it was kept, or anew where the answer or the marks of its part were changed."""
    held = tried.held
    own = changed.get("answers", {}).get(str(had.candidate), {})
    if held.part in own:
        return mark_of(held.part, had.drawn.verdict(part, tried.response), most)
    return held if held.most == most else replace(held, most=most, marks=held.share * most)


def worth_now(changed: Mapping[str, Any], had: Had, part: str, most: Fraction) -> Fraction:
    """What a part is worth, as it was changed."""
    own = changed.get("marks", {}).get(str(had.candidate), {})
    return Fraction(own.get(part, most))


def is_beyond(changed: Mapping[str, Any], had: Had) -> bool:
    """Whether a question is beyond the test, as it was changed."""
    return bool(changed.get("bonus", {}).get(str(had.candidate), had.beyond))


def annulled(mark: PartMark, changed: Mapping[str, Any], had: Had, form: int | None) -> PartMark:
    """A mark of a question that does not count: full for those concerned, or out of what can be reached."""
    for each in changed.get("annulled", ()):
        whose = not each.get("forms") or form in each["forms"]
        drawn = not each.get("draws") or had.draw in each["draws"]
        part = not each.get("part") or each["part"] == mark.part
        if each["candidate"] == had.candidate and whose and drawn and part:
            because = "the question does not count here"
            if each["how"] == "out":
                return replace(
                    mark, marks=Fraction(0), most=Fraction(0), code="annulled", because=because, cost=Fraction(0)
                )
            return replace(
                mark, outcome="right", share=Fraction(1), marks=mark.most, code="annulled", because=because,
                certainty="", cost=Fraction(0),
            )  # fmt: skip
    return mark


def tries_of(taking: Taking) -> dict[tuple[int, str], list[Tried]]:
    """What was tried on the form that they have, by question and part, in its order."""
    found: dict[tuple[int, str], list[Tried]] = {}
    if taking.sitting.held.checks:
        for each in taking.tries.filter(form=taking.form_id).order_by("pk"):
            found.setdefault((each.position, each.part), []).append(each)
    return found


def submissions_before(marks: Sequence[Mark], where: tuple[int, str], submission: int) -> int:
    """How often a part was handed in before with something that could be read."""
    return len(
        {
            each.submission
            for each in marks
            if (each.position, each.part) == where and each.submission < submission and each.outcome not in NO_TRY
        }
    )


def total(taking: Taking, marks: Sequence[AnyMark]) -> Total:
    """What the marks of a student come to."""
    return total_standing(taking, that_stand(marks))


def total_standing(taking: Taking, marks: Sequence[AnyMark]) -> Total:
    """What the marks of a student come to that stand, as ``that_stand`` finds them."""
    maximum = taking.sitting.form_set.maximum
    kept = kept_share(taking.sitting.held, taking.late)
    counted = [Counted(each.held, each.beyond, each.place_on_form) for each in marks]
    scaled = None if maximum is None else Fraction(maximum)
    return total_of(counted, scaled, kept, taking.sitting.counted_by)


def that_stand(marks: Sequence[SomeMark]) -> list[SomeMark]:
    """Of a question and those that were had instead of it, the marks of the best."""
    places: dict[int, dict[int, list[SomeMark]]] = {}
    for each in marks:
        places.setdefault(each.place_on_form, {}).setdefault(each.position, []).append(each)
    found = list[SomeMark]()
    for own in places.values():
        several = len(own) > 1
        best = best_question({at: [each.held for each in rows] for at, rows in own.items()}) if several else min(own)
        found += own[best]
    return found


@dataclass(frozen=True)
class Returned:
    """A part of marked work, with no more of it than is seen now."""

    typed: str = ""
    outcome: str = ""
    marks: Fraction | None = None
    most: Fraction | None = None
    # the share that hints have cost
    cost: Fraction = Fraction(0)
    feedback: Sequence[str] = ()
    # what whoever marked it says, and the levels of its rubric that were reached
    comment: str = ""
    levels: Sequence[Mapping[str, str]] = ()
    # when and why a rule was changed that gave another mark before
    changed: str = ""
    key: SafeString = field(default_factory=SafeString)
    solution: SafeString = field(default_factory=SafeString)


def returned(taking: Taking, rows: frozenset[str]) -> tuple[dict[int, dict[str, Returned]], Total | None]:
    """What comes back, by question (from 0) and part, and the total: the rows that are seen, and no more.

    Nothing of the keys is even looked up that is not to be seen.
    """
    found: dict[int, dict[str, Returned]] = {}
    if not rows or taking.form_id is None:
        return found, None
    if rows - {"own"} and taking.marked is None:
        mark(taking)
        taking.refresh_from_db()
    marks = {(each.position, each.part): each for each in taking.marks()} if rows - {"own"} else {}
    answers = taking.answers() if "own" in rows else {}
    comments = comments_on(taking) if rows & {"feedback", "marks"} else {}
    for had in questions_had(taking):
        for k, part in enumerate(had.drawn.question.document.parts):
            if not part.answer.asks:
                continue
            held = marks.get((had.position, part.id))
            found.setdefault(had.position, {})[part.id] = returned_part(
                had.drawn, k, rows,
                typed=said(answers.get((had.position, part.id))),
                outcome=held.outcome if held and rows & {"outcome", "marks"} else "",
                marks=held.held.marks if held and "marks" in rows else None,
                most=held.held.most if held and "marks" in rows else None,
                cost=held.held.cost if held and "marks" in rows else Fraction(0),
                feedback=held.feedback if held and "feedback" in rows else (),
                comment=comments.get((had.position, part.id), ""),
                levels=held.levels if held and "marks" in rows else (),
                changed=changed_words(held) if held and "marks" in rows else "",
            )  # fmt: skip
    return found, total(taking, list(marks.values())) if "total" in rows else None


def comments_on(taking: Taking, for_student: bool = True) -> dict[tuple[int, str], str]:
    """What is said of answers, by question (from 0) and part: of each the last."""
    rows = Comment.objects.filter(taking=taking, for_student=for_student).order_by("pk")
    return {(each.position, each.part): each.text for each in rows}


def changed_words(mark: Mark) -> str:
    """When and why a mark was changed by another rule; empty where none was."""
    if not mark.why_changed:
        return ""
    return f"changed on {timezone.localtime(mark.made):%-d %B %Y}, because {mark.why_changed}"


def returned_part(drawn: DrawnQuestion | None, k: int, rows: frozenset[str], **said: Any) -> Returned:
    """A part as it comes back: what is ``said`` of it, and its key and its worked solution where the rows have them;
    ``drawn`` is needed for these alone."""
    if drawn is None:
        return Returned(**said)
    tree = drawn.key_tree(k) if "key" in rows else None
    return Returned(
        **said,
        key=for_students(mathml(tree, drawn.question.style)) if tree is not None else SafeString(),
        solution=for_students(written_solution(drawn, k, HTML)) if "solution" in rows else SafeString(),
    )


def class_did(sitting: Sitting) -> ClassResult | None:
    """How all who have handed in did, looked up once a minute; what teachers tried is not among it."""
    return cache.get_or_set(f"class-{sitting.pk}", lambda: class_result(totals_of(sitting)), A_MINUTE)


def totals_of(sitting: Sitting) -> list[Total]:
    """The totals of all whose work is marked; of several attempts what counts."""
    return [that_counts(sitting.held.which, totals) for _, totals in marked_of(sitting)]


def marked_of(sitting: Sitting) -> list[tuple[Sequence[Taking], list[Total]]]:
    """The attempts of everybody that are marked, each person's in their order, with what each comes to."""
    return [(own, [total(each, held) for each, held in zip(own, marks)]) for own, marks in marks_of_all(sitting)]


def marks_of_all(sitting: Sitting) -> list[tuple[Sequence[Taking], list[list[BriefMark]]]]:
    """The attempts of everybody that are marked, each person's in their order, with the marks that hold of each."""
    takings = list(sitting.takings.counted().exclude(handed_in=None).exclude(marked=None).select_related("student"))
    given = brief_marks([each.pk for each in takings])
    for taking in takings:
        taking.sitting = sitting
    return [(own, [held_marks(sitting.held, given.get(each.pk, [])) for each in own]) for own in by_person(takings)]


@dataclass(frozen=True, slots=True)
class Moved:
    """A student whose total would be another one by another rule of which attempt counts."""

    taking: Taking
    before: Total
    after: Total


def moved_totals(sitting: Sitting, which: str) -> list[Moved]:
    """Whose totals another rule would change, in class order."""
    found = []
    for own, totals in marked_of(sitting):
        before, after = that_counts(sitting.held.which, totals), that_counts(which, totals)
        if (before.reached, before.most) != (after.reached, after.most):
            found.append(Moved(own[-1], before, after))
    return sorted(found, key=lambda each: each.taking.who)


def own_totals(taking: Taking, now: datetime) -> list[tuple[Taking, Total | None]]:
    """All attempts of a person that are handed in, in their order, each with its total where it may be seen."""
    found = list[tuple[Taking, Total | None]]()
    for each in taking.own.exclude(handed_in=None):
        each.sitting, each.student = taking.sitting, taking.student
        visible = "total" in each.seen(now)
        if visible and each.marked is None:
            mark(each)
            each.refresh_from_db(fields=["marked"])
        found.append((each, total(each, each.marks()) if visible else None))
    return found


OUTCOMES = {"blank": "left empty", "unreadable": "cannot be read", "waiting": "waits for a mark"}


def as_pdf(taking: Taking, rows: frozenset[str], who: str) -> bytes:
    """What comes back as a PDF: the rows that are seen, and no more."""
    back, total_marks = returned(taking, rows)
    answers = taking.answers() if "own" in rows else {}
    questions, costs = [], what_costs(taking.sitting.held)
    for had in sorted(questions_had(taking), key=lambda each: each.position if each.place is None else each.place):
        found = back.get(had.position, {})
        parts = [
            part_on_paper(had.drawn, k, found[part.id], rows, costs) if part.id in found else None
            for k, part in enumerate(had.drawn.question.document.parts)
        ]
        questions.append((had.drawn, parts, str(answers.get((had.position, WORKING_PART), "") or "")))
    above = [f"Handed in {timezone.localtime(taking.handed_in):%-d %B %Y, %H:%M}, receipt {taking.receipt}."]
    if total_marks is not None:
        count = total_marks.waiting
        so_far = f", so far: {count} still wait{'s' if count == 1 else ''} for a mark" if total_marks.so_far else ""
        of = f"{shown_marks(total_marks.most)} mark{'' if total_marks.most == 1 else 's'}"
        above.append(f"{shown_marks(total_marks.reached)} of {of}{so_far}")
    habits = Habits(**taking.sitting.form_set.habits)
    return returned_pdf(ReturnedWork(taking.sitting.title, who, above, questions), habits, content_of)


def content_of(digest: str) -> bytes:
    """A picture by its hash."""
    return Stored.objects.get(digest=digest).read()


def part_on_paper(drawn: DrawnQuestion, k: int, back: Returned, rows: frozenset[str], costs: str) -> ReturnedPart:
    """What comes back of a part, in words."""
    part = drawn.question.document.parts[k]
    found = [("Your answer", back.typed or "none")] if "own" in rows else []
    if back.outcome and "outcome" in rows:
        found.append(("Marked", OUTCOMES.get(back.outcome, back.outcome)))
    if back.most and back.marks is not None and "marks" in rows:
        cost = f", {costs} cost {share_words(back.cost)}" if back.cost else ""
        reached = "waiting" if back.outcome == "waiting" else f"{shown_marks(back.marks)} of {shown_marks(back.most)}"
        found.append(("Marks", reached + cost))
    found += [("Said of it", words) for words in [*back.feedback, back.comment] if words]
    if back.changed:
        found.append(("Marks", back.changed))
    found += [(each["name"], f"{each['marks']}: {each['text']}".rstrip(": ")) for each in back.levels]
    tree = drawn.key_tree(k) if "key" in rows else None
    key = f"{typst_equation(tree, drawn.question.style)}; {part.printed_after}".rstrip("; ") if tree is not None else ""
    text = drawn.question.solutions[k]
    return ReturnedPart(found, key, "solution" in rows and bool(text.source.strip()))


def said(response: Any) -> str:
    """An answer as its student gave it, in a line."""
    if response is None:
        return ""
    if isinstance(response, list):
        return "; ".join(map(str, response))
    if isinstance(response, dict):
        return ", ".join(f"{left} {right}" for left, right in response.items())
    return str(response)
