"""What a figure shows."""

from __future__ import annotations

import re

from .base import Formulas, Line, Pen, Statement, StatementError, StatementKind

FRAME = re.compile(r"(?P<left>.+?)\.\.(?P<right>[^,]+),(?P<bottom>.+?)\.\.(?P<top>.+?)(?P<equal>\s+equal)?\s*\Z")


class FrameLine(StatementKind):
    word, example = "frame", "frame 0..8, -2..4"
    draws = "what the figure shows; `equal` after it keeps shapes true"

    def read(self, rest: str, formulas: Formulas) -> Line:
        found = FRAME.match(rest)
        if found is None:
            raise StatementError("A frame is written as `frame 0..10, 0..6`.")
        ends = [found[name] for name in ("left", "right", "bottom", "top")]
        return Line(formulas.read(ends), equal=bool(found["equal"]))

    def draw(self, statement: Statement, pen: Pen) -> None:
        """The frame stands before anything is drawn."""
