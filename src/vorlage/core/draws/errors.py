"""What is said when parameters or conditions cannot be drawn."""

from __future__ import annotations


class DrawError(ValueError):
    """A row that cannot be used.

    ``row`` says which: ``("parameter", 2)`` or ``("condition", 0)``; ``field`` which cell of it;
    ``place`` and ``length`` which characters.
    """

    def __init__(
        self,
        code: str,
        message: str,
        row: tuple[str, int] = ("parameter", 0),
        field: str = "definition",
        place: int = 0,
        length: int = 0,
    ) -> None:
        super().__init__(message)
        self.code = code
        self.message = message
        self.row = row
        self.field = field
        self.place = place
        self.length = length
