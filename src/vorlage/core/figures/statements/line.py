"""A line through places."""

from __future__ import annotations

from .shape import MOST_PLACES, Shape


class LineShape(Shape):
    word, example, draws = "line", "line (0, 0) (a, b) (a, 0)", "a line through places"
    least, most, outline = 2, MOST_PLACES, "line"
