"""A draw as a form keeps it: every value, every order and every worked out text, so that nothing of it is ever worked
out again by another version."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from ..algebra import EvaluationError
from ..draws import Draw, keep_value, kept_value
from ..notation import Call, Node, line
from .drawn import DrawnQuestion
from .question import Question, QuestionDrawing


@dataclass(frozen=True, slots=True)
class FrozenDraw:
    """Draw ``number`` of a question as plain data.

    ``values`` are those of all parameters, computed ones too, ``orders`` those of options, items and right sides,
    ``texts`` what ``value(…)`` and the like came to, by their line maths.
    """

    number: int
    values: dict[str, Any]
    orders: dict[str, list[int]]
    texts: dict[str, Any]


def freeze(drawn: DrawnQuestion) -> FrozenDraw:
    """Everything of a draw that is shown or marked."""
    assert drawn.answers is not None  # the orders are drawn with the answers
    texts = {}
    for tree in worked_out(drawn.question):
        worth = drawn.computation(tree)
        if not isinstance(worth, EvaluationError):
            texts[line(tree)] = keep_value(worth)
    values = {name: keep_value(value) for name, value in drawn.values.items()}
    return FrozenDraw(drawn.draw.number, values, {name: list(order) for name, order in drawn.orders.items()}, texts)


def thaw(drawing: QuestionDrawing, frozen: FrozenDraw) -> DrawnQuestion:
    """The draw that was frozen, with the question that it was drawn from."""
    question = drawing.question
    values = {name: kept_value(value, question.settings) for name, value in frozen.values.items()}
    orders = {name: tuple(order) for name, order in frozen.orders.items()}
    drawn = DrawnQuestion(question, Draw(frozen.number, values, {}), drawing.key, orders)
    for tree in worked_out(question):
        if (text := line(tree)) in frozen.texts:
            drawn.computations[tree] = kept_value(frozen.texts[text], question.settings)
    return drawn


def worked_out(question: Question) -> Iterator[Node]:
    """What stands in the texts of a question to be worked out."""
    texts = [text for _, text in question.sheet_texts] + question.solutions
    for text in texts:
        for node in text.to_be_worked_out:
            yield node.arguments[0] if isinstance(node, Call) and node.function == "value" else node
