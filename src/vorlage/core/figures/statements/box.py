"""A box from two opposite corners."""

from __future__ import annotations

from .base import Spot
from .shape import Shape


class Box(Shape):
    word, example, draws = "box", "box (0, 0) (a, b)", "a box from two opposite corners"
    least, most, outline = 2, 2, "polygon"
    bounds = keeps_shape = True

    def corners(self, places: tuple[Spot, ...]) -> tuple[Spot, ...]:
        (a, b), (c, d) = places
        return ((a, b), (c, b), (c, d), (a, d))
