"""What is said when a formula has no value."""

from __future__ import annotations


class EvaluationError(ArithmeticError):
    """A formula that cannot be worked out; ``code`` is a stable short name, ``message`` is for people."""

    def __init__(self, code: str, message: str) -> None:
        super().__init__(message)
        self.code = code
        self.message = message


class Irrational(Exception):
    """The value is not known to be rational; work with balls instead."""
