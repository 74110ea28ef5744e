"""The graph of a formula in x."""

from __future__ import annotations

import re
from collections.abc import Callable

from flint import fmpq

from ...algebra import EvaluationError, NoFloats, quick, value_tree
from ...budget import charge
from ...notation import substitute
from .base import Formulas, Frame, Line, Outline, Pen, Spot, Statement, StatementError, StatementKind

CURVE = re.compile(r"y\s*=\s*(?P<formula>.+?)(?:\s+from\s+(?P<low>\S+)\s+to\s+(?P<high>\S+))?\s*\Z")
# a curve is drawn through so many places
STEPS = 96
# what lies further away is no place on a paper
FURTHEST = 1e12
# what a place of a curve takes, beside its formula
STEPS_OF_A_PLACE = 8


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
        shown = sum(outline.places[-1][0] - outline.places[0][0] for outline in found)
        ends = [pen.number(statement, k) for k in (1, 2)] if len(statement.formulas) > 2 else None
        low, high = ends or (pen.frame.left, pen.frame.right)
        # where an author says from where to where, all of it is meant
        if shown < (0.98 if ends else 0.5) * (high - low):
            pen.off.append((statement.number, ""))

    def graph(self, statement: Statement, pen: Pen) -> list[Outline]:
        """The graph, cut where it has no value or leaves the frame."""
        frame = pen.frame
        low = pen.number(statement, 1) if len(statement.formulas) > 1 else frame.left
        high = pen.number(statement, 2) if len(statement.formulas) > 2 else frame.right
        place, height = self.function(statement, pen), frame.top - frame.bottom
        found: list[Outline] = []
        run: list[Spot] = []
        before: Spot | None = None

        def close() -> None:
            if len(run) > 1:
                found.append(Outline("line", tuple(run), statement.styles))
            run.clear()

        for k in range(STEPS + 1):
            x = low + (high - low) * k / STEPS
            y = place(x)
            if y is None:
                close()
                before = None
                continue
            here = (x, y)
            # between two places that lie so far apart there may be a pole
            steep = before is not None and abs(y - before[1]) > 3 * height
            inside = frame.bottom <= y <= frame.top
            if before is not None and not steep:
                run += crossings(before, here, frame)
            if inside:
                if steep:
                    close()
                run.append(here)
            else:
                close()
            before = here
        close()
        return found

    def function(self, statement: Statement, pen: Pen) -> Callable[[float], float | None]:
        """How high the curve is at a place; None where it has no value there."""
        compiled = pen.compiled(statement, 0)
        known = {name: value_tree(value) for name, value in pen.values.items()}
        try:
            rough = quick(substitute(compiled.tree, known), compiled.angle)
        except NoFloats:

            def exact(place: float) -> float | None:
                values = {**pen.values, "x": fmpq(*place.as_integer_ratio())}
                try:
                    return pen.coordinate(compiled, values, statement.number)
                except EvaluationError:
                    return None

            return exact

        def near(place: float) -> float | None:
            charge(STEPS_OF_A_PLACE)
            found = rough(place)
            return found if found is not None and abs(found) <= FURTHEST else None

        return near


def crossings(start: Spot, end: Spot, frame: Frame) -> list[Spot]:
    """Where the way from one place to the next goes through the lower and the upper edge of the frame, in order."""
    (a, b), (c, d) = start, end
    ways = [(edge - b) / (d - b) for edge in (frame.bottom, frame.top) if (b - edge) * (d - edge) < 0]
    return [(a + (c - a) * way, b + (d - b) * way) for way in sorted(ways)]
