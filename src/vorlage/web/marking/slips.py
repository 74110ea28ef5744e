"""Making a slip of a group: what answers have in common is written into the question, with its share and its words."""

from __future__ import annotations

from copy import deepcopy
from fractions import Fraction
from typing import Any

from vorlage.core.marking import Group
from vorlage.core.questions import DocumentError, load_document
from vorlage.web.bank.models import Question, Revision
from vorlage.web.people.models import User


class SlipRefused(ValueError):
    """What a group has in common cannot be said in its question."""


def as_slip(question: Question, part: str, group: Group, share: Fraction, words: str, by: User) -> Revision:
    """A new revision of a question in which a group has its share. Raises ``SlipRefused``, or ``Unsound`` where the
    question could not be kept so."""
    raw = deepcopy(question.newest.document)
    own = next((each for each in raw["parts"] if each.get("id") == part), None)
    if own is None:
        raise SlipRefused("its newest revision has no such part any more.")
    answer = own["answer"]
    if group.kind == "formula":
        add(answer, "slips", "key", group.formula, {"key": group.formula, "share": str(share), "feedback": words})
    elif group.kind == "slip":
        key = group.words.removeprefix("slip ")
        add(answer, "slips", "key", key, {"key": key, "share": str(share), "feedback": words})
    elif group.kind == "words" and share == 1:
        answer["accept"] = [*answer.get("accept", []), group.words]
    else:
        raise SlipRefused("what these answers have in common is no formula of the parameters.")
    try:
        document = load_document(raw)
    except DocumentError as problem:
        raise SlipRefused(str(problem)) from problem
    note = f"From marking: {group.formula or group.words} earns {share}"[:200]
    return Question.save_revision(question.department, by, document, question.filing, question, note=note)


def add(answer: dict[str, Any], name: str, by: str, value: str, row: dict[str, str]) -> None:
    """Put a row among others, in place of one that says the same."""
    answer[name] = [each for each in answer.get(name, []) if each.get(by) != value] + [row]
