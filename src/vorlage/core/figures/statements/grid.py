"""Lines at equal distances."""

from __future__ import annotations

from .base import Formulas, Line, Pen, Statement, StatementError, StatementKind, pieces_of, steps_of


class Grid(StatementKind):
    word, example, draws = "grid", "grid 1, 0.5", "lines at these distances"

    def read(self, rest: str, formulas: Formulas) -> Line:
        pieces, texts = pieces_of(rest)
        steps = steps_of(pieces)
        if len(steps) > 2 or texts:
            raise StatementError("A grid has two distances at most, as in `grid 1, 0.5`.")
        return Line(formulas.read(steps))

    def draw(self, statement: Statement, pen: Pen) -> None:
        pen.grid = pen.two_steps(statement) or (1.0, 1.0)
