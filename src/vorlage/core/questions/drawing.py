"""The draws of a question: each has a number, and is the same for ever."""

from __future__ import annotations

from ..draws import Drawing, stream_key
from .drawn import DrawnQuestion
from .question import CompiledQuestion


class QuestionDrawing:
    """The draws of one revision of a question, under an identity that is kept with it."""

    def __init__(self, question: CompiledQuestion, key: str, revision: int) -> None:
        self.question = question
        self.drawing = Drawing(question.parameters, key, revision)
        self.key = stream_key(key, revision)

    def pinned(self, place: int) -> tuple[DrawnQuestion, list[str]]:
        """A pinned draw (``place`` from 0, its number below 0), and what has broken it since."""
        draw, objections = self.question.parameters.with_values(self.question.document.pins[place].values, -place - 1)
        drawn = DrawnQuestion(self.question, draw, self.key)
        for k, answer in enumerate(drawn.answers):
            if answer is None and k in drawn.failures:
                label = self.question.document.labels[k].full or "the answer"
                objections.append(f"{label} has no value")
        return drawn, objections

    def draw(self, number: int) -> DrawnQuestion:
        """Draw ``number`` (from 1). Raises ``DrawError`` when nothing admissible is found."""
        return DrawnQuestion(self.question, self.drawing.draw(number), self.key)
