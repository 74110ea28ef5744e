"""Places joined up and closed."""

from __future__ import annotations

from .shape import MOST_PLACES, Shape


class Polygon(Shape):
    word, example, draws = "polygon", "polygon (0, 0) (a, 0) (0, b)", "closed"
    least, most, outline = 3, MOST_PLACES, "polygon"
    bounds = keeps_shape = True
