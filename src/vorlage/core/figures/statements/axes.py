"""Axes with numbers and names."""

from __future__ import annotations

from functools import partial

from ...algebra import Values
from ...notation import AUTHOR_FUNCTIONS, Call, Node, names_in, walk
from .base import Formulas, Line, Pen, Statement, StatementError, StatementKind, pieces_of, steps_of


class Axes(StatementKind):
    word, example, draws = "axes", 'axes "t / s" "v / (m/s)"', "axes with numbers and names"
    names_things = False

    def read(self, rest: str, formulas: Formulas) -> Line:
        pieces, texts = pieces_of(rest)
        steps = steps_of(pieces)
        if len(steps) > 2 or len(texts) > 2:
            raise StatementError(
                'Axes have two names at most, as in `axes "t / s" "v / (m/s)"`, and a grid two distances.'
            )
        return Line(formulas.read(steps), texts)

    def draw(self, statement: Statement, pen: Pen) -> None:
        show = partial(lettered, pen)
        names = [pen.label(text, show) for text in statement.texts] + [(), ()]
        pen.axes = (names[0], names[1])
        pen.steps = pen.two_steps(statement)


def lettered(pen: Pen, tree: Node) -> Node:
    """A span in the name of an axis: a letter stands there for what varies along it, not for a drawn number, which
    could give an answer away; drawn words and ``value(…)`` are put in."""
    values: Values = pen.values
    computes = any(isinstance(part, Call) and part.function in AUTHOR_FUNCTIONS for part in walk(tree))
    words = any(isinstance(values.get(name), str) for name in names_in(tree))
    return pen.show(tree) if computes or words else tree
