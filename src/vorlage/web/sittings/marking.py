"""Marking what was handed in, and what a student sees of it. The keys are reached here and nowhere else in this app."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from functools import lru_cache
from typing import Any

from django.core.cache import cache
from django.db import transaction
from django.utils import timezone
from django.utils.safestring import SafeString

from vorlage.core.answers import shown_marks
from vorlage.core.documents import ReturnedPart, ReturnedWork, returned_pdf
from vorlage.core.marking import RULES_VERSION, ClassResult, Total, class_result, less, marked, total_of
from vorlage.core.notation import Habits, mathml
from vorlage.core.notation import typst as typst_equation
from vorlage.core.questions import (
    CompiledQuestion,
    DrawnQuestion,
    FrozenDraw,
    QuestionDrawing,
    thaw,
    written_solution,
)
from vorlage.core.sittings import kept_share
from vorlage.core.text import HTML
from vorlage.web.bank.markup import safe
from vorlage.web.bank.models import Revision
from vorlage.web.files.models import Stored
from vorlage.web.forms.models import FormItem, FormSet, ItemKey

from .models import WORKING_PART, Mark, Sitting, Taking

# So many questions are kept compiled in a process.
KEPT = 200
A_MINUTE = 60


@lru_cache(maxsize=KEPT)
def compiled(revision: int, habits: Habits, in_order: bool) -> tuple[CompiledQuestion, str, int]:
    """A question, compiled once in a process: a revision never changes."""
    found = Revision.objects.select_related("question").get(pk=revision)
    return found.compiled(habits, in_order), str(found.question.key), found.number


def drawn_item(item: FormItem) -> DrawnQuestion:
    """A question of a form with what was drawn for it; ``item`` has its form, the set, and the candidate."""
    return drawn_of(item.form.form_set, item.candidate.revision_id, item.frozen_draw)


def drawn_of(form_set: FormSet, revision: int, draw: FrozenDraw) -> DrawnQuestion:
    """A question of a set with a draw of it."""
    question, key, number = compiled(revision, Habits(**form_set.habits), form_set.in_order)
    return thaw(QuestionDrawing(question, key, number), draw)


def items_of(form: int) -> list[FormItem]:
    """The questions of a form, in their order."""
    found = FormItem.objects.filter(form=form).select_related("form__form_set", "candidate", "place")
    return list(found.order_by("position"))


@transaction.atomic
def mark(taking: Taking) -> None:
    """Mark what was handed in, once; each mark says by which rule. What somebody gave by hand stays."""
    locked = Taking.locked(pk=taking.pk)
    if locked.handed_in is None or locked.marked is not None or locked.form_id is None:
        return
    answers, items = locked.answers(), items_of(locked.form_id)
    by_hand = {(each.position, each.part) for each in locked.marks() if each.by_id is not None}
    keys = dict(ItemKey.objects.filter(item__in=items).values_list("item", "parts"))
    costs = locked.hint_costs()
    rows = []
    for item in items:
        drawn = drawn_item(item)
        parts = drawn.question.document.parts
        most = [Fraction(each["marks"]) for each in keys[item.pk]]
        given = [answers.get((item.position, part.id)) for part in parts]
        for part, found in zip(parts, marked(drawn, given, most)):
            if not part.answer.asks or (item.position, part.id) in by_hand:
                continue
            found = less(found, costs.get((item.position, part.id), Fraction(0)))
            rows.append(
                Mark(
                    taking=locked, position=item.position, part=part.id, outcome=found.outcome, share=str(found.share),
                    marks=str(found.marks), most=str(found.most), cost=str(found.cost),
                    beyond=item.place.bonus, code=found.code[:60],
                    because=found.because[:500], certainty=found.certainty, reading=found.reading[:1000],
                    feedback=list(found.feedback), draw=item.draw, revision=item.candidate.revision_id,
                    version=RULES_VERSION,
                )
            )  # fmt: skip
    Mark.objects.bulk_create(rows)
    locked.marked = timezone.now()
    locked.save(update_fields=["marked"])


def total(taking: Taking, marks: Sequence[Mark]) -> Total:
    """What the marks of a student come to."""
    maximum = taking.sitting.form_set.maximum
    kept = kept_share(taking.sitting.held, taking.late)
    return total_of(
        [(each.held, each.beyond) for each in marks], None if maximum is None else Fraction(maximum), kept
    )  # fmt: skip


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
    for item in items_of(taking.form_id):
        drawn = drawn_item(item)
        for k, part in enumerate(drawn.question.document.parts):
            if not part.answer.asks:
                continue
            held = marks.get((item.position, part.id))
            found.setdefault(item.position, {})[part.id] = returned_part(
                drawn, k, rows,
                typed=said(answers.get((item.position, part.id))),
                outcome=held.outcome if held and rows & {"outcome", "marks"} else "",
                marks=held.held.marks if held and "marks" in rows else None,
                most=held.held.most if held and "marks" in rows else None,
                cost=held.held.cost if held and "marks" in rows else Fraction(0),
                feedback=held.feedback if held and "feedback" in rows else (),
            )  # fmt: skip
    return found, total(taking, list(marks.values())) if "total" in rows else None


def returned_part(drawn: DrawnQuestion, k: int, rows: frozenset[str], **said: Any) -> Returned:
    """A part as it comes back: what is ``said`` of it, and its key and its worked solution where the rows have them."""
    tree = drawn.key_tree(k) if "key" in rows else None
    return Returned(
        **said,
        key=safe(mathml(tree, drawn.question.style)) if tree is not None else SafeString(),
        solution=safe(written_solution(drawn, k, HTML)) if "solution" in rows else SafeString(),
    )


def class_did(sitting: Sitting) -> ClassResult | None:
    """How all who have handed in did, looked up once a minute; what teachers tried is not among it."""
    return cache.get_or_set(f"class-{sitting.pk}", lambda: class_result(totals_of(sitting)), A_MINUTE)


def totals_of(sitting: Sitting) -> list[Total]:
    """The totals of all whose work is marked."""
    takings = list(sitting.takings.counted().exclude(handed_in=None).exclude(marked=None))
    given: dict[int, list[Mark]] = {}
    rows = Mark.objects.filter(taking__in=takings).order_by("taking_id", "position", "part", "-pk")
    for each in rows.distinct("taking_id", "position", "part"):
        given.setdefault(each.taking_id, []).append(each)
    for taking in takings:
        taking.sitting = sitting
    return [total(taking, given.get(taking.pk, [])) for taking in takings]


OUTCOMES = {"blank": "left empty", "unreadable": "cannot be read", "waiting": "waits for a mark"}


def as_pdf(taking: Taking, rows: frozenset[str], who: str) -> bytes:
    """What comes back as a PDF: the rows that are seen, and no more."""
    back, total_marks = returned(taking, rows)
    answers = taking.answers() if "own" in rows else {}
    questions = []
    for item in items_of(taking.form_id or 0):
        drawn = drawn_item(item)
        found = back.get(item.position, {})
        parts = [
            part_on_paper(drawn, k, found[part.id], rows) if part.id in found else None
            for k, part in enumerate(drawn.question.document.parts)
        ]
        questions.append((drawn, parts, str(answers.get((item.position, WORKING_PART), "") or "")))
    above = [f"Handed in {timezone.localtime(taking.handed_in):%-d %B %Y, %H:%M}, receipt {taking.receipt}."]
    if total_marks is not None:
        so_far = f", so far: {total_marks.waiting} still wait for a mark" if total_marks.so_far else ""
        above.append(f"{shown_marks(total_marks.reached)} of {shown_marks(total_marks.most)} marks{so_far}")
    habits = Habits(**taking.sitting.form_set.habits)
    return returned_pdf(ReturnedWork(taking.sitting.title, who, above, questions), habits, content_of)


def content_of(digest: str) -> bytes:
    """A picture by its hash."""
    return Stored.objects.get(digest=digest).read()


def part_on_paper(drawn: DrawnQuestion, k: int, back: Returned, rows: frozenset[str]) -> ReturnedPart:
    """What comes back of a part, in words."""
    part = drawn.question.document.parts[k]
    found = [("Your answer", back.typed or "none")] if "own" in rows else []
    if back.outcome and "outcome" in rows:
        found.append(("Marked", OUTCOMES.get(back.outcome, back.outcome)))
    if back.most and back.marks is not None and "marks" in rows:
        cost = f", hints cost {float(back.cost * 100):.4g} %" if back.cost else ""
        reached = "waiting" if back.outcome == "waiting" else f"{shown_marks(back.marks)} of {shown_marks(back.most)}"
        found.append(("Marks", reached + cost))
    found += [("Said of it", words) for words in back.feedback]
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
