"""What is said when line maths cannot be read."""

from __future__ import annotations

from ..errors import CoreError


class NotationError(CoreError, ValueError):
    """A formula that cannot be read.

    ``place`` is the character position (from 0) where reading stopped, ``length`` how much of the text is meant.
    """

    def __init__(
        self, code: str, message: str, place: int = 0, length: int = 1, about: str = "", instead: str = ""
    ) -> None:
        super().__init__(code, message, about, instead=instead)
        self.place = place
        self.length = length
