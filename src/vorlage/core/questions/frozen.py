"""A draw as a form keeps it: every value, every order and every worked out text, so that nothing of it is ever worked
out again by another version."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..algebra import EvaluationError
from ..draws import Draw, keep_value, kept_value
from .drawing import QuestionDrawing
from .drawn import DrawnQuestion


@dataclass(frozen=True, slots=True)
class FrozenDraw:
    """Draw ``number`` of a question as plain data.

    ``values`` are those of all parameters, computed ones too, ``orders`` those of options, items and right sides,
    ``texts`` what ``value(…)`` and the like came to where students read them before answering, by their line maths.
    A worked solution follows from the values; as it was printed it stands in the key.
    """

    number: int
    values: dict[str, Any]
    orders: dict[str, list[int]]
    texts: dict[str, Any]


def freeze(drawn: DrawnQuestion) -> FrozenDraw:
    """Everything of a draw that is shown or marked."""
    texts = {}
    for written, tree in drawn.question.worked_out:
        worth = drawn.computation(tree)
        if not isinstance(worth, EvaluationError):
            texts[written] = keep_value(worth)
    values = {name: keep_value(value) for name, value in drawn.values.items()}
    orders = {name: list(order) for name, order in drawn.all_orders.items()}
    return FrozenDraw(drawn.draw.number, values, orders, texts)


def thaw(drawing: QuestionDrawing, frozen: FrozenDraw) -> DrawnQuestion:
    """The draw that was frozen, with the question that it was drawn from."""
    question = drawing.question
    values = {name: kept_value(value, question.settings) for name, value in frozen.values.items()}
    orders = {name: tuple(order) for name, order in frozen.orders.items()}
    drawn = DrawnQuestion(question, Draw(frozen.number, values, {}), drawing.key, orders)
    for written, tree in question.worked_out:
        if written in frozen.texts:
            drawn.computations[tree] = kept_value(frozen.texts[written], question.settings)
    return drawn
