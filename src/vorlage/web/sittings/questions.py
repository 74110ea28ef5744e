"""The questions that a student has: those of their form, and similar ones that they had instead of missed ones."""

from __future__ import annotations

import json
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from typing import Any

from vorlage.core.notation import Habits
from vorlage.core.questions import (
    CompiledQuestion,
    DrawnQuestion,
    FrozenDraw,
    QuestionDocument,
    QuestionDrawing,
    load_document,
    thaw,
)
from vorlage.web.bank.models import Revision
from vorlage.web.forms.models import FormItem, FormSet, ItemKey

from .models import Similar, StudentItem, Taking, places_in_sections

# So many questions are kept compiled in a process.
KEPT = 200


@lru_cache(maxsize=KEPT)
def compiled(revision: int, habits: Habits, in_order: bool) -> tuple[CompiledQuestion, str, int]:
    """A question, compiled once in a process: a revision never changes."""
    found = Revision.objects.select_related("question").get(pk=revision)
    return found.compiled(habits, in_order), str(found.question.key), found.number


@lru_cache(maxsize=KEPT)
def compiled_changed(revision: int, habits: Habits, in_order: bool, answers: str) -> tuple[CompiledQuestion, str, int]:
    """A question in which some parts have other answers, which are given as JSON by part."""
    found = Revision.objects.select_related("question").get(pk=revision)
    document = with_answers(found.document, json.loads(answers))
    return CompiledQuestion(document.in_order if in_order else document, habits), str(found.question.key), found.number


def with_answers(document: dict[str, Any], answers: Mapping[str, Any]) -> QuestionDocument:
    """A document in which some parts have other answers. Raises ``DocumentError``."""
    parts = [
        {**each, "answer": answers[each["id"]]} if each.get("id") in answers else each for each in document["parts"]
    ]
    return load_document({**document, "parts": parts})


def drawn_of(
    form_set: FormSet, revision: int, draw: FrozenDraw, answers: Mapping[str, Any] | None = None
) -> DrawnQuestion:
    """A question of a set with a draw of it, and with other ``answers`` of parts where they were changed."""
    given = revision, Habits(**form_set.habits), form_set.in_order
    question, key, number = (
        compiled_changed(*given, json.dumps(answers, sort_keys=True)) if answers else compiled(*given)
    )
    return thaw(QuestionDrawing(question, key, number), draw)


def drawn_item(item: FormItem, answers: Mapping[str, Any] | None = None) -> DrawnQuestion:
    """A question of a form with what was drawn for it; ``item`` has its form, the set, and the candidate."""
    return drawn_of(item.form.form_set, item.candidate.revision_id, item.frozen_draw, answers)


def items_of(form: int) -> list[FormItem]:
    """The questions of a form, in their order."""
    found = FormItem.objects.filter(form=form).select_related("form__form_set", "candidate", "place")
    return list(found.order_by("position"))


@dataclass(frozen=True)
class Had:
    """A question that a student had: where its answers are, and where it stands for one of the form, which."""

    position: int
    drawn: DrawnQuestion
    # what each part is worth; empty where it was not asked for
    most: Sequence[Fraction]
    beyond: bool
    revision: int
    draw: int
    candidate: int
    # the question of the form that it was had instead of, and which one for it, from 1
    place: int | None = None
    number: int = 0


def questions_had(
    taking: Taking, worth: bool = False, changed: Mapping[str, Any] | None = None, only: Collection[int] | None = None
) -> list[Had]:
    """The questions that a student had, those of the form in their order, then similar ones; with what their parts are
    ``worth`` where that is asked for, with what was ``changed`` of the sitting's, or with something else in its place,
    and ``only`` some of them, by what the form set took."""
    other = answers_in(taking.sitting.changed if changed is None else changed)
    items = [each for each in items_of(taking.form_id or 0) if only is None or each.candidate_id in only]
    keys = dict(ItemKey.objects.filter(item__in=items).values_list("item", "parts")) if worth else {}
    found = [
        Had(
            item.position, drawn_item(item, other.get(item.candidate_id)),
            [Fraction(each["marks"]) for each in keys.get(item.pk, ())],
            item.place.bonus, item.candidate.revision_id, item.draw, item.candidate_id,
        )
        for item in items
    ]  # fmt: skip
    beyond = {item.position: item.place.bonus for item in items}
    form_set = taking.sitting.form_set
    for row in similar_of(taking):
        if only is not None and row.candidate_id not in only:
            continue
        drawn = drawn_of(form_set, row.candidate.revision_id, row.frozen_draw, other.get(row.candidate_id))
        worths = [Fraction(each) for each in row.worth]
        found.append(
            Had(
                row.position, drawn, worths, beyond.get(row.place, False), row.candidate.revision_id, row.draw,
                row.candidate_id, row.place, row.number,
            )
        )  # fmt: skip
    return found


def answers_in(changed: Mapping[str, Any]) -> dict[int, Mapping[str, Any]]:
    """The answers of parts that were changed, by what the form set took and part."""
    return {int(candidate): parts for candidate, parts in changed.get("answers", {}).items()}


def drawn_at(taking: Taking, position: int) -> DrawnQuestion | None:
    """The question that a student had at a position, with its draw."""
    other = answers_in(taking.sitting.changed)
    found = FormItem.objects.filter(form=taking.form_id, position=position)
    item = found.select_related("form__form_set", "candidate").first()
    if item is not None:
        return drawn_item(item, other.get(item.candidate_id))
    row = next((each for each in similar_of(taking) if each.position == position), None)
    form_set = taking.sitting.form_set
    if row is None:
        return None
    return drawn_of(form_set, row.candidate.revision_id, row.frozen_draw, other.get(row.candidate_id))


def similar_of(taking: Taking) -> list[Similar]:
    """The similar questions that a student has had on their form; none is looked for where there can be none."""
    if not taking.sitting.held.similar or taking.form_id is None:
        return []
    return list(Similar.objects.filter(taking=taking, form=taking.form_id).select_related("candidate"))


def sheets_of(taking: Taking) -> list[StudentItem | Similar]:
    """The questions that a student has as their page shows them: a similar one behind the one that it stands for."""
    items = list[StudentItem | Similar](StudentItem.objects.filter(form=taking.form_id).order_by("position"))
    return sorted(items + list(similar_of(taking)), key=lambda each: (each.place_on_form, each.position))


def first_similar(form: int) -> int:
    """Where the answers to similar questions begin: behind those of the form."""
    return len(places_in_sections(form))


def sheet_at(taking: Taking, position: int) -> StudentItem | Similar | None:
    """A question of a student by where its answers are, from 0."""
    if position < first_similar(taking.form_id or 0):
        return StudentItem.objects.filter(form=taking.form_id, position=position).first()
    return taking.similar.filter(form=taking.form_id, position=position).first()
