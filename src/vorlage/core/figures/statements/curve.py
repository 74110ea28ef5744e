"""The graph of a formula in x."""

from __future__ import annotations

import re

from flint import fmpq

from ...algebra import EvaluationError
from .base import Formulas, Line, Outline, Pen, Spot, Statement, StatementError, StatementKind

CURVE = re.compile(r"y\s*=\s*(?P<formula>.+?)(?:\s+from\s+(?P<low>\S+)\s+to\s+(?P<high>\S+))?\s*\Z")
# a curve is drawn through so many places
STEPS = 96


class Curve(StatementKind):
    word, example = "curve", "curve y = a*x^2 + b"
    draws = "the graph of a formula in x; `from 0 to 3` after it cuts it off"

    def read(self, rest: str, formulas: Formulas) -> Line:
        found = CURVE.match(rest)
        if found is None:
            raise StatementError("A curve is written as `curve y = x^2`, with `from 0 to 3` after it if wished.")
        ends = [found["low"], found["high"]] if found["low"] else []
        return Line((*formulas.read([found["formula"]], "x"), *formulas.read(ends)))

    def draw(self, statement: Statement, pen: Pen) -> None:
        found = self.graph(statement, pen)
        pen.outlines += found
        if not found:
            pen.off.append((statement.number, ""))

    def graph(self, statement: Statement, pen: Pen) -> list[Outline]:
        """The graph, cut where it has no value or leaves the frame by far."""
        frame = pen.frame
        low = pen.number(statement, 1) if len(statement.formulas) > 1 else frame.left
        high = pen.number(statement, 2) if len(statement.formulas) > 2 else frame.right
        compiled, height = pen.compiled(statement, 0), frame.top - frame.bottom
        found: list[Outline] = []
        run: list[Spot] = []
        seen = False

        def close() -> None:
            if len(run) > 1 and seen:
                found.append(Outline("line", tuple(run), statement.styles))
            run.clear()

        first, last = fmpq(*low.as_integer_ratio()), fmpq(*high.as_integer_ratio())
        for k in range(STEPS + 1):
            x = first + (last - first) * k / STEPS
            try:
                y = pen.coordinate(compiled, {**pen.values, "x": x}, statement.number)
            except EvaluationError:
                close()
                seen = False
                continue
            if abs(y - (frame.bottom + frame.top) / 2) > 3 * height:
                close()
                seen = False
                continue
            seen = seen or frame.bottom <= y <= frame.top
            run.append((float(x), y))
        close()
        return found
