"""What is true of a revision: worked out once, when it is stored, and kept with it."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

from ..answers import DrawnUnmarked
from ..text import HTML
from .document import QuestionDocument
from .drawn import DrawnQuestion
from .writing import written

# Counts of draws beyond this are not kept.
COUNTED = 2**63


@dataclass(frozen=True, slots=True)
class Facts:
    """What a revision is called and worth, and what it asks for.

    ``parts`` are plain data: the identity of every part, its label, the kind of its answer, its marks as text.
    ``draws`` is how many different draws there are, None when they are too many to count; ``sheet`` is what the
    question asks with the numbers of a draw, as sanitised HTML. ``by_hand`` says whether a person marks any of it,
    ``figure`` whether there is anything to look at.
    """

    title: str
    marks: Decimal
    kinds: list[str]
    parts: list[dict[str, str]]
    draws: int | None
    sheet: str
    by_hand: bool
    figure: bool


def facts(drawn: DrawnQuestion) -> Facts:
    """The facts of a question, from one of its draws."""
    question = drawn.question
    document = question.document
    parts = [
        {"id": part.id, "label": label.full, "kind": part.answer.kind, "marks": str(part.marks)}
        for part, label in zip(document.parts, document.labels)
    ]
    count = question.parameters.count
    stem = written(drawn, question.wording, HTML)
    sheet = stem if stem.strip() else written(drawn, question.part_wordings[0], HTML)
    draws = count if count is not None and count < COUNTED else None
    by_hand = any(isinstance(answer, DrawnUnmarked) and answer.by_hand for answer in drawn.answers)
    figure = bool(document.figures or document.pictures)
    return Facts(document.title, document.marks, list(document.kinds), parts, draws, sheet, by_hand, figure)


@dataclass(frozen=True, slots=True)
class Words:
    """What a question is found by, as it is written: what it asks, and how it is solved."""

    asked: str
    solved: str


def words_of(document: QuestionDocument) -> Words:
    """The texts of a question, without what is offered or expected as an answer."""
    asked = [document.wording, *(part.wording for part in document.parts)]
    solved = [part.solution for part in document.parts]
    solved += [hint.text for part in document.parts for hint in part.hints]
    return Words("\n".join(filter(None, asked)), "\n".join(filter(None, solved)))
