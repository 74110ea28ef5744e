"""A dot with a name."""

from __future__ import annotations

from .shape import Shape


class Point(Shape):
    word, example, draws = "point", 'point (a, b) "P"', "a dot with a name"
    least, most, outline = 1, 1, "point"
