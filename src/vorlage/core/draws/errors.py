"""What is said when parameters or conditions cannot be drawn."""

from __future__ import annotations

from ..errors import CoreError


class DrawError(CoreError, ValueError):
    """A row that cannot be used.

    ``row`` says which: ``("parameter", 2)`` or ``("condition", 0)``; ``field`` which cell of it; ``place`` and
    ``length`` which characters.
    """

    def __init__(
        self,
        code: str,
        message: str,
        row: tuple[str, int] = ("parameter", 0),
        field: str = "definition",
        place: int = 0,
        length: int = 0,
        about: str = "",
        instead: str = "",
    ) -> None:
        super().__init__(code, message, about, field, instead)
        self.row = row
        self.place = place
        self.length = length
