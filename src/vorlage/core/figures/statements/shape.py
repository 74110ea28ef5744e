"""What has places: lines, corners, a dot. Its line is read and drawn in one way."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar

from ...notation import line, names_in
from .base import (
    Formulas,
    Frame,
    Line,
    Outline,
    Pen,
    Spot,
    Statement,
    StatementError,
    StatementKind,
    pieces_of,
    split_at_comma,
)

MOST_PLACES = 40


class Shape(StatementKind):
    # how many places it has
    least: ClassVar[int]
    most: ClassVar[int]
    # what is drawn
    outline: ClassVar[str]
    arrow: ClassVar[bool] = False
    # whether a place can lie in it, so that it can be a region to point at
    bounds: ClassVar[bool] = False
    # whether its last formula is a radius
    round: ClassVar[bool] = False

    def read(self, rest: str, formulas: Formulas) -> Line:
        pieces, texts = pieces_of(rest)
        return Line(formulas.read(self.coordinates(pieces, texts)), texts)

    def coordinates(self, pieces: list[str], texts: tuple[str, ...]) -> list[str]:
        """The formulas as they are written, two for each place."""
        if not self.least <= len(pieces) <= self.most:
            wanted = f"{self.least}" if self.least == self.most else f"at least {self.least}"
            places = "place" if wanted == "1" else "places"
            raise StatementError(f"`{self.word}` needs {wanted} {places}, such as `(2, 3)`.")
        return [coordinate for piece in pieces for coordinate in place_of(piece)]

    def corners(self, places: tuple[Spot, ...]) -> tuple[Spot, ...]:
        """What is joined up, of the places that are written."""
        return places

    def drawn(self, numbers: Sequence[float]) -> tuple[tuple[Spot, ...], float]:
        """The corners, and the radius of what is round, from the values of its formulas."""
        radius = abs(numbers[-1]) if self.round else 0.0
        return self.corners(tuple(zip(numbers[::2], numbers[1::2]))), radius

    def draw(self, statement: Statement, pen: Pen) -> None:
        numbers = pen.numbers(statement)
        places, radius = self.drawn(numbers)
        runs = pen.label(statement.texts[0], pen.show) if statement.texts else ()
        outline = Outline(self.outline, places, statement.styles, radius, runs, self.arrow)
        pen.outlines.append(outline)
        if leaves(outline, pen.frame):
            pen.off.append((statement.number, self.kept_inside(statement, pen.frame, numbers, radius)))

    def kept_inside(self, statement: Statement, frame: Frame, numbers: Sequence[float], radius: float) -> str:
        """The condition on its formulas that would keep it in the frame; empty where none is seen."""
        coordinates, around = statement.formulas, ""
        if self.round:
            coordinates, around = coordinates[:-1], line(statement.formulas[-1])
        varies = self.round and bool(names_in(statement.formulas[-1]))
        for k, (tree, number) in enumerate(zip(coordinates, numbers)):
            low, high = ((frame.left, frame.right), (frame.bottom, frame.top))[k % 2]
            edges = frame.formulas[2 * (k % 2) : 2 * (k % 2) + 2]
            if not names_in(tree) and not varies:
                continue
            if number + radius > high:
                return f"{line(tree)}{f' + {around}' if around else ''} <= {line(edges[1])}"
            if number - radius < low:
                return f"{line(tree)}{f' - {around}' if around else ''} >= {line(edges[0])}"
        return ""


def place_of(piece: str) -> list[str]:
    """The two coordinates of ``(2, a/2)``."""
    if piece.startswith("(") and piece.endswith(")"):
        coordinates = split_at_comma(piece[1:-1])
        if len(coordinates) == 2:
            return coordinates
    raise StatementError(f"`{piece}` is no place: places are written as `(2, 3)`.")


def leaves(outline: Outline, frame: Frame) -> bool:
    """Whether something of a shape lies outside the frame."""
    reach, slack = outline.radius, 1e-9 * (frame.right - frame.left + frame.top - frame.bottom)
    return any(
        x - reach < frame.left - slack
        or x + reach > frame.right + slack
        or y - reach < frame.bottom - slack
        or y + reach > frame.top + slack
        for x, y in outline.places
    )
