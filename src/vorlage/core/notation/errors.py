"""What is said when line maths cannot be read."""

from __future__ import annotations


class NotationError(ValueError):
    """A formula that cannot be read.

    ``place`` is the character position (from 0) where reading stopped, ``length`` how much of the
    text is meant, ``message`` what was met and what would help, ``code`` a stable short name.
    """

    def __init__(self, code: str, message: str, place: int = 0, length: int = 1) -> None:
        super().__init__(message)
        self.code = code
        self.message = message
        self.place = place
        self.length = length
