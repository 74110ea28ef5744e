"""A circle around a place."""

from __future__ import annotations

from .base import Spot, StatementError
from .shape import Shape


class Circle(Shape):
    word, example, draws = "circle", "circle (a, b) r", "around a place"
    least, most, outline = 1, 1, "circle"
    bounds = keeps_shape = round = True

    def coordinates(self, pieces: list[str], texts: tuple[str, ...]) -> list[str]:
        if len(pieces) != 2:
            raise StatementError("A circle has a place and a radius: `circle (2, 3) 1.5`.")
        return [*super().coordinates(pieces[:1], texts), pieces[1]]

    def corners(self, places: tuple[Spot, ...]) -> tuple[Spot, ...]:
        return places[:1]
