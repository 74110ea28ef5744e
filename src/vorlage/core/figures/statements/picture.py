"""A picture of the question behind a figure."""

from __future__ import annotations

import re

from .base import Formulas, Line, Pen, Statement, StatementError, StatementKind

NAME = re.compile(r"[A-Za-z][A-Za-z0-9_-]{0,29}\Z")


class Picture(StatementKind):
    word, example, draws = "picture", "picture harbour", "a picture of the question, filling the frame"
    keeps_shape = True

    def read(self, rest: str, formulas: Formulas) -> Line:
        if not NAME.match(rest):
            raise StatementError("A picture is named, as in `picture harbour`.")
        return Line((), (rest,))

    def pictures(self, line: Line) -> tuple[str, ...]:
        return line.texts

    def draw(self, statement: Statement, pen: Pen) -> None:
        pen.picture = pen.picture or statement.texts[0]
