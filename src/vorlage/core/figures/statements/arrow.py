"""A line that ends in a head."""

from __future__ import annotations

from .shape import MOST_PLACES, Shape


class Arrow(Shape):
    word, example, draws = "arrow", "arrow (0, 0) (a, b)", "a line that ends in a head"
    least, most, outline = 2, MOST_PLACES, "line"
    arrow = True
