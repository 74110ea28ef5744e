"""The root of everything that the core says when something cannot be done."""

from __future__ import annotations


class CoreError(Exception):
    """Something that cannot be done as it was asked for.

    ``code`` is a stable short name, for programs; ``message`` is for people; ``about`` is the name, unit or word that
    is meant, where there is one; ``field`` is the field that it stands in, where whoever read it knew; ``instead`` is
    what could stand in the place of what is meant, where that is clear.
    """

    def __init__(self, code: str, message: str, about: str = "", field: str = "", instead: str = "") -> None:
        super().__init__(message)
        self.code = code
        self.message = message
        self.about = about
        self.field = field
        self.instead = instead
