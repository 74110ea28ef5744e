"""What is true of a revision: worked out once, when it is stored, and kept with it."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal

from ..text import HTML
from .drawn import DrawnQuestion
from .writing import written

# Counts of draws beyond this are not kept.
COUNTED = 2**63


@dataclass(frozen=True, slots=True)
class Facts:
    """What a revision is called and worth, and what it asks for.

    ``parts`` are plain data: the identity of every part, its label, the kind of its answer, its marks as text.
    ``draws`` is how many different draws there are, None when they are too many to count; ``sheet`` is what the
    question asks with the numbers of a draw, as sanitised HTML.
    """

    title: str
    marks: Decimal
    kinds: list[str]
    parts: list[dict[str, str]]
    draws: int | None
    sheet: str


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
    return Facts(document.title, document.marks, list(document.kinds), parts, draws, sheet)
