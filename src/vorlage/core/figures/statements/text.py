"""Words and maths at a place."""

from __future__ import annotations

from .base import StatementError
from .shape import Shape


class Words(Shape):
    word, example, draws = "text", 'text (a/2, -0.3) "$a$"', "words and maths at a place"
    least, most, outline = 1, 1, "text"

    def coordinates(self, pieces: list[str], texts: tuple[str, ...]) -> list[str]:
        coordinates = super().coordinates(pieces, texts)
        if len(texts) != 1:
            raise StatementError('Words stand between quotation marks: `text (2, 3) "P"`.')
        return coordinates
